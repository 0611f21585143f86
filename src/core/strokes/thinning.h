/// Thinning: from line areas to lines one pixel wide in their middle.
#pragma once

#include "core/image/image.h"
#include "core/problem.h"

namespace hscaffold {

/// Skeleton of what is set (not 0), as 0 or 1. Border pixels are peeled off from the four sides in turn; a pixel goes
/// only if that joins or parts nothing (crossing number, Yokoi et al. 1975) and it is not the end of a line. So pieces
/// and holes stay as many as they were, with 8-connected lines, and no pixel of the result could go any more but ends.
/// Only pixels whose neighbours changed are looked at again: the cost follows the ink, not the picture.
/// @throws Cancelled
Image<std::uint8_t> thinned(View<std::uint8_t> mask, StopToken stop = {});

}  // namespace hscaffold
