/// Bodies as other programs take them: bones that can be turned, and what of the surface follows each.
#pragma once

#include <Eigen/Geometry>
#include <string>
#include <vector>

#include "core/stage/scene.h"
#include "core/stage/skin.h"

namespace hscaffold::stage {

struct Bone {
  std::string id;
  int parent = -1;                                       ///< among the bones; -1: none
  Eigen::Isometry3f at = Eigen::Isometry3f::Identity();  ///< where it is, turned from how the body was built
};
/// A surface as it stands, and its bones there: turned bones take it on from there. In the body's own axes.
struct Skinned {
  Mesh mesh;
  std::vector<Bone> bones;
  std::vector<Carried> carried;  ///< one a point; numbers are bones
};
/// Skin follows as it does on the stage; clothes follow the skin that is nearest, what is held the hand. An animal's
/// surface follows the two bones that are nearest. @throws std::bad_variant_access for a thing
Skinned skinnedOf(const Thing& figure);

}  // namespace hscaffold::stage
