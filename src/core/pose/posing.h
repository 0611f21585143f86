/// Posing by dragging, in the picture plane: inverse kinematics in which no bone gets longer than natural, shorter is
/// foreshortening, and pinned points stay.
///
/// Limbs follow FABRIK (Aristidou and Lasenby 2011), which keeps the lengths that a limb has now for as long as it can
/// reach, and lengthens it towards natural when it cannot. What it leaves of the limits is mended by projecting onto
/// them in turn. "No longer than natural" and "stays here" are convex, so that converges, and a point between an
/// allowed figure and a slightly wrong one is less wrong: the last step uses this to keep every figure within
/// `lengthTolerance`.
#pragma once

#include <set>

#include "core/pose/figure.h"

namespace hscaffold::pose {

enum class Drag {
  reach,  ///< the limb bends to bring the point there; the trunk stays, or goes along where it is dragged itself
  alone,  ///< the point alone moves, its neighbours stay: limbs foreshorten
  turn,   ///< the point turns about the one it hangs on, with everything that hangs on it; nothing changes length
};

/// `point` dragged to `to` from where `start` has it. Points that are absent take no part.
/// @param start  within its natural lengths.
Figure dragged(const Figure& start, std::size_t point, Point to, Drag how = Drag::reach);

/// Several points by the same way, as for a bone or a selection; limbs go along.
Figure draggedTogether(const Figure& start, const std::set<std::size_t>& points, Point by);

/// Bones brought back to at most their natural lengths with pins kept; `held` points give way last.
/// @param allowed  a figure within its lengths and with the same pins, towards which what is left is pulled.
Figure withinLengths(Figure figure, const Figure& allowed, const std::set<std::size_t>& held = {});

/// Back to natural proportions with the least movement: natural lengths brought into the ranges of the skeleton, then
/// limbs stretched to theirs by projecting onto one length after the other, each time by the smallest step. Trunk, head
/// and hands, which are foreshortened by how the figure stands, keep the lengths they show. Pins stay.
Figure relaxed(const Figure& figure);

}  // namespace hscaffold::pose
