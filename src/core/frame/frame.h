/// The frame: the size of the picture to be made, and the arithmetic of sizes and ratios.
#pragma once

#include <string>
#include <vector>

#include "core/image/image.h"
#include "core/limits.h"

namespace hscaffold {

/// Smallest and largest side of a frame, in pixels.
inline constexpr int smallestSide = static_cast<int>(limits::side.least);
inline constexpr int largestSide = static_cast<int>(limits::side.most);

/// A ratio of whole numbers, in lowest terms.
struct Ratio {
  int across = 1, down = 1;
  friend bool operator==(const Ratio&, const Ratio&) = default;
  [[nodiscard]] double value() const { return static_cast<double>(across) / down; }
};
/// @param size  both sides at least 1.
Ratio ratioOf(Size size);
/// "3:2"; where lowest terms are unwieldy, the nearest plain ratio within 1 % with a tilde: "~16:9".
std::string ratioName(Size size);

struct NamedRatio {
  Ratio ratio;
  const char* use;
};
/// Ratios in common use, landscape way round.
const std::vector<NamedRatio>& commonRatios();

/// Both sides multiples of `step`, inside the limits, nearest to `size`.
Size onStep(Size size, int step);
[[nodiscard]] bool isOnStep(Size size, int step);

/// Sizes on the step whose ratio is within 1 % of `ratio`, nearest first to the wish; at most `count`.
/// Where none keeps the ratio near the wish, the best-keeping ones come, flagged by `ratioError`.
struct SizeOffer {
  Size size;
  double ratioError = 0;  ///< |ratio / wanted - 1|
};
std::vector<SizeOffer> sizesByWidth(Ratio ratio, int width, int step, int count = 5);
std::vector<SizeOffer> sizesByHeight(Ratio ratio, int height, int step, int count = 5);
/// @param megapixels  millions of pixels.
std::vector<SizeOffer> sizesByMegapixels(Ratio ratio, double megapixels, int step, int count = 5);
std::vector<SizeOffer> sizesByScale(Size from, double scale, int step, int count = 5);

/// A frame of a picture's ratio, about as large as `wish`: exactly of that ratio where one within a tenth of the area
/// is, else as near to both as can be.
Size frameFor(Size picture, Size wish, int step);

inline Size swapped(Size size) { return {size.height, size.width}; }
inline double megapixels(Size size) { return static_cast<double>(size.area()) / 1e6; }

}  // namespace hscaffold
