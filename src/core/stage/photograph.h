/// A stage in the space of a picture: the eye that took it, and its depth joined with that of what is put there.
#pragma once

#include <optional>

#include "core/stage/scene_maps.h"

namespace hscaffold::stage {

/// A straight line drawn over a picture, in its pixels.
struct DrawnLine {
  Point a, b;
};
/// The horizon, and two lines that stand upright in space.
struct PictureLines {
  DrawnLine horizon, left, right;
};
/// The eye that sees these lines so: tilt and roll from the horizon; the lens from where the uprights meet, since of a
/// horizon and the vanishing point of what is upright to it the distances from the middle make the square of the focal
/// length (Caprile and Torre 1990). Uprights that hardly meet leave the lens as it is. Place and direction are those of
/// `before`: a picture says nothing of them.
/// @return nothing where a line is none, or the horizon stands upright
std::optional<Eye> eyeOf(const PictureLines& lines, Size picture, const Eye& before);
/// Lines as an eye sees them: its horizon, and uprights a little to the left and to the right.
PictureLines linesFor(const Eye& eye, Size picture);

/// Depth of a picture (0 far, 65535 near, of unknown scale) with what stands on a stage in it, the nearer of both:
/// scales are matched on the ground, where both see it (RANSAC, Fischler and Bolles 1981, then least squares).
/// @param look  of the scene, as large as the picture's depth. @return nothing where too little ground is seen to match
std::optional<Image<std::uint16_t>> joinedDepth(View<std::uint16_t> picture, const Look& look);

}  // namespace hscaffold::stage
