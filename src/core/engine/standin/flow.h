/// Directions along which strokes and hatches run.
#pragma once

#include "core/image/image.h"

namespace hscaffold::standin {

struct Direction {
  float x = 1, y = 0;  ///< unit length
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
Image<Direction> flowAlong(View<float> light, float sigma, std::uint64_t seed, const Course& course = {});

/// Noise smeared along the flow (line integral convolution, Cabral and Leedom 1993); [0, 1], stretched in contrast.
/// @param length  half length of a smear, in pixels.  @param grain  size of the noise, in pixels.
Image<float> smearedNoise(const Image<Direction>& flow, int length, float grain, std::uint64_t seed);

}  // namespace hscaffold::standin
