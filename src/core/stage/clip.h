/// Motion clips for figures on a stage.
#pragma once

#include <vector>

#include "core/pose/bvh.h"
#include "core/stage/scene.h"

namespace hscaffold::stage {

/// Joint angles by which a figure of its own build does what a frame of a clip does: directions of limbs are the
/// clip's, lengths its own. Faces as the clip faces.
/// @throws Problem (badInput) if points are missing
std::vector<double> anglesOf(const pose::BvhClip& clip, std::size_t frame, const pose::BvhMapping& mapping,
                             const Person& figure);

}  // namespace hscaffold::stage
