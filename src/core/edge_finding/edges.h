/// Edge maps: Canny's detector (Canny 1986) with Gaussian derivative filters, on luminance or on colour (largest
/// eigenvalue of the structure of all channels, Di Zenzo 1986), sub-pixel non-maximum suppression and hysteresis.
///
/// Works on sRGB-encoded values of 12 bits, as contrast is seen. Filtering is done in whole numbers, so that turning
/// the picture by quarter turns turns the map with it, pixel for pixel.
#pragma once

#include <cstdint>
#include <span>
#include <vector>

#include "core/guides/tuning.h"
#include "core/image/image.h"
#include "core/problem.h"

namespace hscaffold {

enum class EdgeGradient { luminance, colour };
enum class EdgeThresholds {
  automatic,  ///< from the picture's noise and contrast
  magnitude,  ///< `low` and `high` are gradient magnitudes, 1 = a sharp black-white step
  percentile  ///< `low` and `high` are shares of pixels with a smaller magnitude
};

struct EdgeTuning {
  EdgeGradient gradient = EdgeGradient::luminance;
  double sigma = 1.4;  ///< of the Gaussian, in pixels, [0.5, 8]
  EdgeThresholds thresholds = EdgeThresholds::automatic;
  double low = 0.06, high = 0.17;  ///< [0, 1]; swapped if low is above high
  int shortest = 12;               ///< pixels an edge must have to be kept
  int gap = 0;                     ///< widest gap closed along an edge, in pixels, [0, 32]
  double width = 1;                ///< of the drawn line, in pixels, [1, 9]
  bool smooth = false;             ///< anti-aliased, from sub-pixel places; always so when width is not 1
};
/// The fields by which panels, flags and files know the tuning.
const TuningFields& edgeTuningFields();
/// @param tuning  as made by the functions of tuning.h.
EdgeTuning edgeTuningFrom(const Tuning& tuning);

/// A pixel whose gradient is largest across the edge.
struct EdgePoint {
  std::int32_t x = 0;
  float strength = 0;            ///< gradient magnitude
  float shiftX = 0, shiftY = 0;  ///< from the pixel's centre to the edge, within a pixel
};

/// Everything that does not depend on thresholds. Kept while they are dragged.
struct EdgeField {
  static constexpr int stripRows = 64;
  /// Rows are worked on in strips; each keeps its own points.
  struct Strip {
    std::vector<EdgePoint> points;        ///< row by row, by x
    std::vector<std::uint32_t> rowStart;  ///< points of its row r: [rowStart[r], rowStart[r + 1])
  };
  Size size;
  std::vector<Strip> strips;
  std::vector<std::uint32_t> histogram;  ///< of the magnitude of all pixels, over [0, 1]

  [[nodiscard]] std::span<const EdgePoint> row(int y) const {
    const Strip& strip = strips[static_cast<std::size_t>(y / stripRows)];
    const auto first = strip.rowStart[static_cast<std::size_t>(y % stripRows)],
               end = strip.rowStart[static_cast<std::size_t>(y % stripRows) + 1];
    return std::span(strip.points).subspan(first, end - first);
  }
};

/// 12 bits, sRGB-encoded.
using EncodedPlane = Image<std::int16_t>;
EncodedPlane encodedLuminance(View<Rgb> linear);
/// The same of sRGB-encoded pixels; what is transparent lies on white.
EncodedPlane encodedLuminance(View<Rgba16> pixels);

/// What a field is wanted for. By default for any thresholds; less is faster.
struct EdgeFieldUse {
  double least = 0;       ///< points below this magnitude are left out
  bool histogram = true;  ///< otherwise it is empty, and only thresholds as magnitudes can be used
};
/// @param picture  linear RGB, [0, 1]. @throws Cancelled
EdgeField edgeField(View<Rgb> picture, EdgeGradient gradient, double sigma, StopToken stop = {}, EdgeFieldUse use = {});
/// In colour, from sRGB-encoded pixels.
EdgeField edgeField(View<Rgb8> picture, double sigma, StopToken stop = {}, EdgeFieldUse use = {});
/// From one encoded plane (for callers that have no colour).
EdgeField edgeField(View<std::int16_t> plane, double sigma, StopToken stop = {}, EdgeFieldUse use = {});

/// Thresholds as magnitudes, low <= high.
struct ThresholdPair {
  double low = 0, high = 0;
};
ThresholdPair thresholdsFor(const EdgeField& field, const EdgeTuning& tuning);
/// Magnitude below which `share` of all pixels lie.
double magnitudeAtShare(const EdgeField& field, double share);

/// Hysteresis, shortest length, closing of gaps, drawing. H x W, 0 to 255; only 0 and 255 unless smooth.
/// @throws Cancelled
Image<std::uint8_t> drawEdges(const EdgeField& field, const EdgeTuning& tuning, StopToken stop = {});

/// Both steps. Empty if the picture is empty. @throws Cancelled
Image<std::uint8_t> extractEdges(View<Rgb> picture, const EdgeTuning& tuning, StopToken stop = {});
Image<std::uint8_t> extractEdges(View<std::int16_t> plane, const EdgeTuning& tuning, StopToken stop = {});

/// Share of pixels that are edge (above half).
double edgeShare(View<std::uint8_t> map);

}  // namespace hscaffold
