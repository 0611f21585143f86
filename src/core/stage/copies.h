/// Things taken along: out of a scene, and into another or once more into the same.
#pragma once

#include <string>
#include <vector>

#include "core/stage/scene.h"

namespace hscaffold::stage {

/// What goes along when a thing is taken: itself and all that is grouped with it, in their order.
std::vector<std::string> takenWith(const Scene& scene, const std::string& thing);
/// These things alone, with the scene's eye and light. What they hold and look at stays where it is among them; of
/// others they let go.
Scene copyOf(const Scene& scene, const std::vector<std::string>& things);
/// Puts the things of another scene into this one, moved by so much, under ids of their own. Where there is no room for
/// all, the last are left out. @return their ids
std::vector<std::string> putInto(Scene& scene, const Scene& things, const Vec3& by = Vec3::Zero());

/// Where something new goes: at `at`, or as near to it as may be to the right or to the left as the eye sees it, so
/// that it neither hides a figure that stands there nor stands behind or in one, nor in a thing. On the ground, in
/// metres.
/// @param broad  from its middle to its side
Vec3 placeBeside(const Scene& scene, const Vec3& at, float broad);
/// From a thing's middle to its side, in metres; of a large one (a pier, a wall) less, since much stands on it or by
/// it.
float halfBreadthOf(const Thing& thing);

}  // namespace hscaffold::stage
