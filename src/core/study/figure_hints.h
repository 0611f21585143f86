/// Hints of depth from figures: a body stands on its feet, and is nearer than what it covers.
#pragma once

#include <vector>

#include "core/depth/hints.h"
#include "core/pose/figure.h"

namespace hscaffold {

/// One stroke along its bones for each figure whose feet are in the frame, as near as the ground under them; else one
/// depth along its bones and an arrow to what is beside it. Figures that are off say nothing.
/// @param figures  from far to near, in the pixels of `near`.
/// @param near     the depth so far, 0 to 65535, 65535 nearest.
std::vector<depth::Hint> hintsFromFigures(const pose::Figures& figures, View<std::uint16_t> near);

}  // namespace hscaffold
