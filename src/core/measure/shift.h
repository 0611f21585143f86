/// Shift: how far colour, texture and contrast of a proof moved from the reference, from the pixels of both.
#pragma once

#include "core/image/image.h"
#include "core/problem.h"

namespace hscaffold {

struct Shift {
  double colour = 0;   ///< mean distance of the colours' distribution, CIELAB units
  double texture = 0;  ///< the same of oriented detail, at three scales and four directions, in natural logarithms
  double total = 0;    ///< [0, 100]: 0 for the same picture, about 60 for another medium in other colours
};

/// Sliced Wasserstein distances (Rabin et al. 2011) of colours, and of the responses of oriented filters (Freeman and
/// Adelson 1991). Both pictures are looked at from one distance: at most 384 pixels on the longer side. Where things
/// are in the picture does not count, so it can be called on pictures of any two sizes.
/// @throws Cancelled
Shift shiftBetween(View<Rgb8> reference, View<Rgb8> proof, StopToken stop = {});

}  // namespace hscaffold
