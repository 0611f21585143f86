/// Smoothed structure tensor: which way a picture runs at each place.
#pragma once

#include "core/image/image.h"

namespace hscaffold {

/// r = gx gx, g = gx gy, b = gy gy, of central differences; half the size of `light` (rounded up), which is plenty
/// for something smooth.
/// @param sigma  of the smoothing, in pixels of `light`.
Image<Rgb> structureTensor(View<float> light, float sigma);

}  // namespace hscaffold
