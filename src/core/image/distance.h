/// Distances in binary pictures.
#pragma once

#include "core/image/image.h"

namespace hscaffold {

/// Euclidean distance of every pixel's centre to the nearest pixel of `map` that is set (128 or more), in pixels; exact
/// (Felzenszwalb and Huttenlocher 2012). Where nothing is set, width + height.
Image<float> distanceToSet(View<std::uint8_t> map);

}  // namespace hscaffold
