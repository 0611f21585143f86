/// Smoothing and pyramids. Outside the picture its border pixels go on (replicated).
#pragma once

#include <vector>

#include "core/image/image.h"

namespace hscaffold {

/// Samples of a Gaussian, 2 * ceil(3 * sigma) + 1 values that add up to 1; {1} for sigma <= 0.
std::vector<float> gaussianKernel(float sigma);

/// Separable Gaussian, sigma in pixels.
Image<float> gaussianBlur(View<float> picture, float sigma);
Image<Rgb> gaussianBlur(View<Rgb> picture, float sigma);

/// The same for broad ones in large pictures: beyond a sigma of 10 pixels on a picture made small, whose cost no longer
/// grows with sigma. Within half a step of 8 bits of the exact one.
Image<float> broadBlur(View<float> picture, float sigma);
Image<Rgb> broadBlur(View<Rgb> picture, float sigma);

/// Mean over (2 radius + 1)^2 pixels by running sums, independent of the radius in cost; the window is cut at borders.
Image<float> boxMean(View<float> picture, int radius);

/// Edge-preserving smoothing of `picture` by itself (guided filter, He et al. 2010).
/// @param softness  squared contrast below which detail is smoothed away, for values in [0, 1].
Image<float> guidedSmooth(View<float> picture, int radius, float softness);

/// `picture` smoothed, its edges where `guide` has edges (guided filter, He et al. 2010). Both of one size.
/// @param softness  squared contrast of the guide below which nothing is kept apart.
Image<float> guidedFilter(View<float> guide, View<float> picture, int radius, float softness);

/// Half size (rounded up), each pixel the binomial (1 4 6 4 1) average round its place (Burt and Adelson 1983).
Image<float> halved(View<float> picture);
/// `picture` enlarged to `size` (at most doubled) by linear interpolation, pixel centres aligned.
Image<float> enlarged(View<float> picture, Size size);

/// Laplacian pyramid (Burt and Adelson 1983). `bands[0]` is the small remaining picture, `bands.back()` the finest
/// differences, of the size of the picture.
struct Pyramid {
  std::vector<Image<float>> bands;
};
/// @param smallest  no band has a shorter side below this, in pixels.
Pyramid laplacianPyramid(View<float> picture, int smallest = 4);
Image<float> collapsed(const Pyramid& pyramid);

/// Bilinear sample at (x, y), pixel centres at +0.5; outside, the border goes on.
float sampleLinear(View<float> picture, float x, float y);
Rgb sampleLinear(View<Rgb> picture, float x, float y);

}  // namespace hscaffold
