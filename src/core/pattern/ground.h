/// Patterns laid onto what a depth map shows: a square, a floor, a wall.
#pragma once

#include "core/pattern/pattern.h"

namespace hscaffold::pattern {

/// The corners of a pattern that lies on the plane about its middle, as wide there as it is otherwise, turned on that
/// plane by its turn; on corners it begins from where and how large it lies. The plane is the one that most of the
/// depth there lies on (RANSAC, Fischler and Bolles 1981, then least squares); how it leans follows from the eye that
/// `lean` is seen with, too, with 0 of the map endlessly far.
/// @param near  over the whole frame, at any size: linear in disparity, 65535 nearest
/// @throws Problem (badInput) where there is no plane, or it does not lean; see `outlineOf` for what cannot be laid
Quad cornersOnGround(PatternTuning tuning, Size frame, View<std::uint16_t> near);

}  // namespace hscaffold::pattern
