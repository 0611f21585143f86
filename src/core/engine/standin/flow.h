/// Directions along which strokes and hatches run.
#pragma once

#include <optional>

#include "core/image/image.h"

namespace hscaffold::standin {

struct Direction {
  float x = 1, y = 0;  ///< unit length
};

/// Where a part lies in the picture that it is painted for: what is painted goes by the picture's pixels.
struct PartPlace {
  Size whole;             ///< of the picture
  int left = 0, top = 0;  ///< of the part, in the picture's pixels
  /// Pixels, where a picture of 768 has one.
  [[nodiscard]] float unit() const { return static_cast<float>(std::max(whole.width, whole.height)) / 768.0f; }
  [[nodiscard]] float x(int column) const { return static_cast<float>(left + column); }
  [[nodiscard]] float y(int row) const { return static_cast<float>(top + row); }
};

/// A wish for directions.
struct Course {
  Image<float> x, y;
};

/// Along the contours of `light`: least-change eigenvector of the smoothed structure tensor (Kang et al. 2007). Where
/// nothing has a direction, a slow swirl of the seed's own.
/// @param sigma   of the smoothing, in pixels.
/// @param course  where a guide says which way to go: cosine and sine of twice the angle times how strongly, [-1, 1];
///                of the size of `light`, or empty.
/// @param place   of `light`; none: it is the whole picture.
Image<Direction> flowAlong(View<float> light, float sigma, std::uint64_t seed, const Course& course = {},
                           std::optional<PartPlace> place = {});

/// Noise smeared along the flow (line integral convolution, Cabral and Leedom 1993); [0, 1], stretched in contrast.
/// @param length  half length of a smear, in pixels.  @param grain  size of the noise, in pixels.
/// @param place   of `flow`; none: it is the whole picture.
Image<float> smearedNoise(const Image<Direction>& flow, int length, float grain, std::uint64_t seed,
                          std::optional<PartPlace> place = {});

}  // namespace hscaffold::standin
