/// From cells to pixels: first at the size that was looked at, then at the frame's (joint bilateral upsampling, Kopf et
/// al. 2007). Borders follow the picture's edges, slopes stay smooth.
#pragma once

#include "core/depth/solve.h"

namespace hscaffold::depth {

/// The frame's colours as the lift compares them; made once a picture.
struct LiftGuide {
  Image<Rgb8> colour;  ///< frame size, sRGB-encoded
  Image<Rgb8> small;   ///< the size that was looked at
};
LiftGuide liftGuideOf(View<Rgb> picture, Size seen);

/// Values of cells over the pixels that were looked at: each takes from its own cell and those that touch it, by
/// distance and likeness.
Image<float> overPixels(const Seen& seen, std::span<const float> ofCells);
/// That brought to the frame's size. @throws Cancelled
Image<float> lifted(View<float> small, const LiftGuide& guide, StopToken stop = {});

}  // namespace hscaffold::depth
