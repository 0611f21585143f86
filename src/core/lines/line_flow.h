/// Which way lines run, and smoothing along them.
#pragma once

#include "core/image/image.h"
#include "core/problem.h"

namespace hscaffold {

struct LineDirection {
  float x = 1, y = 0;  ///< unit length; its sign means nothing
};

/// Along the contours of `picture`: the edge tangent flow as minor eigenvector of the smoothed structure tensor (Kang
/// et al. 2007; Kyprianidis and Doellner 2008). Half the size of the picture, rounded up.
/// @param sigma  of the smoothing, in pixels.
Image<LineDirection> lineFlow(View<float> picture, float sigma);

/// Mean along the flow, Gaussian-weighted, over two sigma each way.
/// @param least  where nothing near exceeds this, the picture is left as it is: that much does not matter.
/// @throws Cancelled
Image<float> alongFlow(const Image<float>& picture, const Image<LineDirection>& flow, float sigma, float least,
                       const StopToken& stop);

}  // namespace hscaffold
