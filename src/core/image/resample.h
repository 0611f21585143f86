/// Changing the size of pictures with a proper low-pass filter, in linear light.
#pragma once

#include "core/image/image.h"
#include "core/problem.h"

namespace hscaffold {

/// The size of the same ratio with so many pixels on its longer side; no side is less than 1.
Size scaledTo(Size size, double longest);
/// The same for sizes that are larger; others stay.
Size within(Size size, double longest);

enum class Resampling {
  area,     ///< mean of the covered area: never rings, a little soft
  lanczos3  ///< windowed sinc over three lobes (Duchon 1979), widened when shrinking: sharp
};

/// Linear-light picture of `size` from the whole of `picture`. Values may leave [0, 1] slightly with Lanczos.
/// @throws Cancelled
Image<Rgb> resampled(View<Rgb> picture, Size size, Resampling method = Resampling::lanczos3, StopToken stop = {});
Image<float> resampled(View<float> picture, Size size, Resampling method = Resampling::lanczos3, StopToken stop = {});

/// The same from a decoded reference; transparent parts lie over white paper.
Image<Rgb> resampled(View<Rgba16> picture, Size size, Resampling method = Resampling::lanczos3, StopToken stop = {});

}  // namespace hscaffold
