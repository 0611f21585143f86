/// Colours of one picture brought to those of another, without moving anything.
#pragma once

#include <array>
#include <span>
#include <vector>

#include "core/image/colour.h"
#include "core/image/image.h"
#include "core/problem.h"

namespace hscaffold::mood {

/// A map from colour to colour that keeps the order of lightness: the linear one of least work between two clouds of
/// colours in OKLab (Monge and Kantorovich's, as Pitié and Kokaram 2007 use it), then lightness matched in its
/// distribution, which is monotone. Layout is told by order of light, so it stays.
class MonotoneTransport {
 public:
  /// How much contrast of light is kept at least and grows at most, wherever in the range. With such bounds, what the
  /// new colours lack in contrast of hue is told by light, so that things stay apart that only their hues told apart.
  struct Slopes {
    double least = 0, most = 1e9;
    [[nodiscard]] bool bound() const { return least > 0 || most < 1e9; }
  };
  /// Both not empty.
  MonotoneTransport(std::span<const OkLab> from, std::span<const OkLab> to, const Slopes& slopes = everySlope);
  OkLab operator()(OkLab colour) const;

 private:
  static const Slopes everySlope;
  static constexpr int grades = 65;
  [[nodiscard]] float keyOf(OkLab colour) const;
  void keepSlopes(const Slopes& slopes, const std::vector<float>& had, double wantedMean);
  std::array<double, 3> meanFrom_{}, meanTo_{};
  std::array<double, 9> linear_{};         ///< rows first
  std::array<float, grades> lightness_{};  ///< by key, [0, 1]
  std::array<float, 2> hueInKey_{};        ///< how much of a colour's a and b its key takes beside its lightness
};

/// The colours of `from`, one by one, moved so that their distribution is that of `to`: projected on directions in
/// turn, each sorted and matched (sliced Wasserstein; Rabin et al. 2011). Deterministic. @throws Cancelled
std::vector<OkLab> slicedTransport(std::span<const OkLab> from, std::span<const OkLab> to, StopToken stop = {});

/// How far two distributions of colours are apart: mean of the distances along 32 directions in OKLab, times 100.
double colourDistance(std::span<const OkLab> a, std::span<const OkLab> b);
double colourDistance(View<Rgb> a, View<Rgb> b);

/// All pixels of a picture, row by row.
std::vector<OkLab> labsOf(View<Rgb> picture);
/// The same of a picture made small enough to be counted: at most 192 on its longer side.
std::vector<OkLab> coloursOf(View<Rgb> picture);

}  // namespace hscaffold::mood
