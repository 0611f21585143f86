// From pictures to edge points: gradient, suppression. See edges.h.
#include <array>
#include <cmath>
#include <memory>

#include "core/edges/edges.h"
#include "core/edges/gradient.h"
#include "core/image/colour.h"
#include "core/image/parallel.h"

namespace hscaffold {
namespace {

using edges_detail::GradientRows;
using edges_detail::Kernels;

constexpr int bins = 2048;
constexpr int stripRows = 48;
constexpr float faintest = 0.004f;  ///< a contrast of one part in 250: below it nothing is ever an edge

struct Strip {
  std::vector<EdgePoint> points;
  std::vector<std::uint32_t> counts;  ///< points in each of its rows
  std::array<std::uint32_t, bins> histogram{};
};

/// Gradient vector and magnitude of a strip's rows and one more on either side.
struct GradientBand {
  Image<float> gx, gy, magnitude;
  int firstRow = 0;
};

void magnitudeRow(const std::int32_t* across, const std::int32_t* down, int width, float* gx, float* gy, float* m) {
  for (int x = 0; x < width; ++x) {
    gx[x] = static_cast<float>(across[x]) * (1 / edges_detail::fullStep);
    gy[x] = static_cast<float>(down[x]) * (1 / edges_detail::fullStep);
    m[x] = std::sqrt(gx[x] * gx[x] + gy[x] * gy[x]);
  }
}

/// Di Zenzo's largest eigenvalue; the direction is signed towards where the channels together grow.
void colourRow(const std::array<const float*, 3>& cx, const std::array<const float*, 3>& cy, int width, float* gx,
               float* gy, float* m) {
  for (int x = 0; x < width; ++x) {
    float xx = 0, xy = 0, yy = 0, sumX = 0, sumY = 0;
    for (std::size_t c = 0; c < 3; ++c) {
      xx += cx[c][x] * cx[c][x];
      xy += cx[c][x] * cy[c][x];
      yy += cy[c][x] * cy[c][x];
      sumX += cx[c][x];
      sumY += cy[c][x];
    }
    const float difference = xx - yy;
    const float root = std::sqrt(difference * difference + 4 * (xy * xy));
    const float eigenvalue = ((xx + yy) + root) / 2;
    // Of the two forms of the eigenvector, the one that does not cancel.
    float vx = xx >= yy ? eigenvalue - yy : xy;
    float vy = xx >= yy ? xy : eigenvalue - xx;
    const float length = std::sqrt(vx * vx + vy * vy);
    const float towards = vx * sumX + vy * sumY >= 0 ? 1.0f : -1.0f;
    m[x] = std::sqrt(eigenvalue * (1.0f / 3));
    const float scale = length > 0 ? towards * m[x] / length : 0.0f;
    gx[x] = vx * scale;
    gy[x] = vy * scale;
  }
}

/// Keeps magnitudes that are largest along the gradient, between interpolated neighbours; of two equal ones the one on
/// the brighter side, which turns with the picture.
void suppressRow(const float* above, const float* here, const float* below, const float* gx, const float* gy, int width,
                 float* kept) {
  for (int x = 1; x + 1 < width; ++x) {
    const float ax = std::abs(gx[x]), ay = std::abs(gy[x]);
    const bool flat = ax >= ay;
    const bool falling = (gx[x] > 0) == (gy[x] > 0);  // towards lower right or upper left
    const float part = (flat ? ay : ax) / ((flat ? ax : ay) + 1e-30f);
    const float east = here[x + 1], west = here[x - 1], south = below[x], north = above[x];
    const float southEast = below[x + 1], southWest = below[x - 1], northEast = above[x + 1], northWest = above[x - 1];
    const float axisA = flat ? east : south, axisB = flat ? west : north;
    const float diagonalA = falling ? southEast : (flat ? northEast : southWest);
    const float diagonalB = falling ? northWest : (flat ? southWest : northEast);
    const float sideA = axisA * (1 - part) + diagonalA * part;
    const float sideB = axisB * (1 - part) + diagonalB * part;
    const bool aheadIsA = flat ? gx[x] > 0 : gy[x] > 0;
    const float ahead = aheadIsA ? sideA : sideB, behind = aheadIsA ? sideB : sideA;
    const float m = here[x];
    kept[x] = (m > ahead) & (m >= behind) & (m >= faintest) ? m : 0.0f;
  }
}

/// Top of the parabola through the magnitudes along the gradient.
EdgePoint pointAt(const GradientBand& band, int x, int row, float strength) {
  const float gx = band.gx(x, row), gy = band.gy(x, row);
  const float length = std::max(std::abs(gx), std::abs(gy));
  const float ux = gx / length, uy = gy / length;  // one pixel along the larger part
  const auto sample = [&](float fx, float fy) {
    const int x0 = static_cast<int>(std::floor(fx)), y0 = static_cast<int>(std::floor(fy));
    const float u = fx - static_cast<float>(x0), v = fy - static_cast<float>(y0);
    const auto at = [&](int px, int py) {
      return band.magnitude(std::clamp(px, 0, band.magnitude.width() - 1),
                            std::clamp(py, 0, band.magnitude.height() - 1));
    };
    return (at(x0, y0) * (1 - u) + at(x0 + 1, y0) * u) * (1 - v) + (at(x0, y0 + 1) * (1 - u) + at(x0 + 1, y0 + 1) * u) * v;
  };
  const float ahead = sample(static_cast<float>(x) + ux, static_cast<float>(row) + uy);
  const float behind = sample(static_cast<float>(x) - ux, static_cast<float>(row) - uy);
  const float bend = ahead + behind - 2 * strength;
  const float shift = bend < 0 ? std::clamp((behind - ahead) / (2 * bend), -0.5f, 0.5f) : 0.0f;
  return {x, strength, ux * shift, uy * shift};
}

/// @param makeBand  gradient of rows [first, first + count), reaching past the picture by clamping.
template <typename MakeBand>
EdgeField fieldFrom(Size size, const StopToken& stop, MakeBand&& makeBand) {
  EdgeField field;
  field.size = size;
  field.histogram.assign(bins, 0);
  field.rowStart.assign(static_cast<std::size_t>(size.height) + 1, 0);
  if (size.area() == 0) {
    field.size = {};
    return field;
  }
  const int strips = (size.height + stripRows - 1) / stripRows;
  std::vector<Strip> done(static_cast<std::size_t>(strips));
  parallelRows(strips, [&](int firstStrip, int endStrip) {
    std::vector<float> kept(static_cast<std::size_t>(size.width), 0.0f);
    for (int s = firstStrip; s < endStrip && !stop.stop_requested(); ++s) {
      Strip& strip = done[static_cast<std::size_t>(s)];
      const int y0 = s * stripRows, y1 = std::min(size.height, y0 + stripRows);
      const GradientBand band = makeBand(y0 - 1, y1 - y0 + 2);
      for (int y = y0; y < y1; ++y) {
        const int row = y - band.firstRow;
        const float* m = band.magnitude.row(row);
        for (int x = 0; x < size.width; ++x)
          ++strip.histogram[static_cast<std::size_t>(std::min(bins - 1, static_cast<int>(m[x] * bins)))];
        const auto before = strip.points.size();
        if (y > 0 && y + 1 < size.height && size.width > 2) {
          suppressRow(band.magnitude.row(row - 1), m, band.magnitude.row(row + 1), band.gx.row(row), band.gy.row(row),
                      size.width, kept.data());
          for (int x = 1; x + 1 < size.width; ++x)
            if (kept[static_cast<std::size_t>(x)] > 0)
              strip.points.push_back(pointAt(band, x, row, kept[static_cast<std::size_t>(x)]));
        }
        strip.counts.push_back(static_cast<std::uint32_t>(strip.points.size() - before));
      }
    }
  }, 1);
  throwIfStopped(stop);
  std::size_t total = 0;
  for (const Strip& strip : done) total += strip.points.size();
  field.points.reserve(total);
  int y = 0;
  for (Strip& strip : done) {
    field.points.insert(field.points.end(), strip.points.begin(), strip.points.end());
    for (const auto count : strip.counts) {
      field.rowStart[static_cast<std::size_t>(y) + 1] = field.rowStart[static_cast<std::size_t>(y)] + count;
      ++y;
    }
    for (std::size_t b = 0; b < bins; ++b) field.histogram[b] += strip.histogram[b];
  }
  return field;
}

GradientBand emptyBand(int width, int firstRow, int rows) {
  return {Image<float>(width, rows), Image<float>(width, rows), Image<float>(width, rows), firstRow};
}

std::int16_t encoded12(float linear) {
  static constexpr int size = 8192;
  static const std::vector<std::int16_t> table = [] {
    std::vector<std::int16_t> values(size + 2);
    for (int i = 0; i < size + 2; ++i) {
      const float root = std::min(1.0f, static_cast<float>(i) / size);
      values[static_cast<std::size_t>(i)] = static_cast<std::int16_t>(std::lround(linearToSrgb(root * root) * 4095));
    }
    return values;
  }();
  const float root = std::sqrt(std::clamp(linear, 0.0f, 1.0f));
  return table[static_cast<std::size_t>(root * size + 0.5f)];
}

template <typename Channel>
EncodedPlane encodedPlane(View<Rgb> linear, Channel&& channel) {
  EncodedPlane plane(linear.size());
  parallelRows(plane.height(), [&](int first, int end) {
    for (int y = first; y < end; ++y)
      std::transform(linear.row(y), linear.row(y) + linear.width(), plane.row(y),
                     [&](const Rgb& c) { return encoded12(channel(c)); });
  });
  return plane;
}

}  // namespace

EncodedPlane encodedLuminance(View<Rgb> linear) {
  return encodedPlane(linear, [](const Rgb& c) { return luminance(c); });
}

EdgeField edgeField(View<std::int16_t> plane, double sigma, StopToken stop) {
  const Kernels kernels = edges_detail::kernelsFor(sigma);
  return fieldFrom(plane.size(), stop, [&](int first, int rows) {
    GradientBand band = emptyBand(plane.width(), first, rows);
    const GradientRows gradient(plane, kernels, first, rows);
    for (int i = 0; i < rows; ++i)
      magnitudeRow(gradient.acrossRow(first + i), gradient.downRow(first + i), plane.width(), band.gx.row(i),
                   band.gy.row(i), band.magnitude.row(i));
    return band;
  });
}

EdgeField edgeField(View<Rgb> picture, EdgeGradient gradient, double sigma, StopToken stop) {
  if (gradient == EdgeGradient::luminance) return edgeField(encodedLuminance(picture).view(), sigma, stop);
  const std::array<EncodedPlane, 3> planes = {encodedPlane(picture, [](const Rgb& c) { return c.r; }),
                                              encodedPlane(picture, [](const Rgb& c) { return c.g; }),
                                              encodedPlane(picture, [](const Rgb& c) { return c.b; })};
  throwIfStopped(stop);
  const Kernels kernels = edges_detail::kernelsFor(sigma);
  return fieldFrom(picture.size(), stop, [&](int first, int rows) {
    GradientBand band = emptyBand(picture.width(), first, rows);
    std::array<GradientBand, 3> channels;
    for (std::size_t c = 0; c < 3; ++c) {
      channels[c] = emptyBand(picture.width(), first, rows);
      const GradientRows of(planes[c], kernels, first, rows);
      for (int i = 0; i < rows; ++i)
        magnitudeRow(of.acrossRow(first + i), of.downRow(first + i), picture.width(), channels[c].gx.row(i),
                     channels[c].gy.row(i), channels[c].magnitude.row(i));
    }
    for (int i = 0; i < rows; ++i)
      colourRow({channels[0].gx.row(i), channels[1].gx.row(i), channels[2].gx.row(i)},
                {channels[0].gy.row(i), channels[1].gy.row(i), channels[2].gy.row(i)}, picture.width(), band.gx.row(i),
                band.gy.row(i), band.magnitude.row(i));
    return band;
  });
}

double magnitudeAtShare(const EdgeField& field, double share) {
  std::uint64_t total = 0;
  for (const auto count : field.histogram) total += count;
  const double wanted = std::clamp(share, 0.0, 1.0) * static_cast<double>(total);
  double below = 0;
  for (std::size_t b = 0; b < field.histogram.size(); ++b) {
    const double count = field.histogram[b];
    if (below + count >= wanted) {
      const double part = count > 0 ? (wanted - below) / count : 0;
      return (static_cast<double>(b) + part) / static_cast<double>(field.histogram.size());
    }
    below += count;
  }
  return 1;
}

ThresholdPair thresholdsFor(const EdgeField& field, const EdgeTuning& tuning) {
  ThresholdPair pair{tuning.low, tuning.high};
  if (tuning.thresholds == EdgeThresholds::percentile) {
    pair = {magnitudeAtShare(field, tuning.low), magnitudeAtShare(field, tuning.high)};
  } else if (tuning.thresholds == EdgeThresholds::automatic) {
    // The median magnitude is mostly noise and texture (Rayleigh distributed: median 1.18 deviations). An edge should
    // stand well above it, and about a twelfth of a picture is near some edge worth having.
    const double noise = magnitudeAtShare(field, 0.5) / 1.18;
    const double high = std::clamp(std::max(5 * noise, 0.9 * magnitudeAtShare(field, 0.93)), 0.015, 0.35);
    pair = {0.4 * high, high};
  }
  if (pair.low > pair.high) std::swap(pair.low, pair.high);
  return pair;
}

}  // namespace hscaffold
