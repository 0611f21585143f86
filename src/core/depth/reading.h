/// Depth maps as they are read by eye: false colours, contour lines, relief. For looking only; no engine gets these.
#pragma once

#include "core/image/image.h"

namespace hscaffold::depth {

/// From dark blue (far) over green to light yellow (near), even steps in OKLab lightness and hue.
Image<Rgb8> inReadingColours(View<std::uint16_t> map);

/// Lines where the depth passes a multiple of `step` of the whole range: 65535 there, else 0.
Image<std::uint16_t> contoursOf(View<std::uint16_t> map, double step = 0.1);

/// From where a relief is looked at.
struct ReliefLook {
  double across = 0;    ///< degrees, to the right
  double down = 0;      ///< degrees, from above
  double height = 0.5;  ///< how far the nearest stands out, in shares of the frame's width
  double size = 0.9;    ///< of the frame in the picture, seen straight on
};

/// The picture as a surface that stands out by its depth, lit from the upper left, leaps as dark walls (z-buffer).
/// @param colour  of the map's size; empty: the relief in grey.
/// @return of size `out`; `ground` where nothing is.
Image<Rgb8> relief(View<std::uint16_t> map, View<Rgb8> colour, const ReliefLook& look, Size out, Rgb8 ground);

}  // namespace hscaffold::depth
