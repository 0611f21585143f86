/// What stands on a scene, built, with the shadows that it throws: kept from look to look, so that only what has
/// changed is built anew.
#pragma once

#include <memory>
#include <vector>

#include "core/stage/scene.h"
#include "core/stage/shadow_map.h"

namespace hscaffold::stage {

struct Stand {
  Set set;
  ShadowMap shadows;
  std::vector<Thing> things;  ///< that it was built from
  SceneLight light;
  bool ground = true;
  bool coarse = false;  ///< its shadows are
};

/// @param before  of the same scene, or of any other; may be null
/// @param coarse  what is built anew has coarse shadows: while something is dragged
/// @return `before` itself, if nothing but the eye has changed
std::shared_ptr<const Stand> standOf(const Scene& scene, const std::shared_ptr<const Stand>& before = {},
                                     bool coarse = false);

/// The stand by any camera, lit. @throws Cancelled
Rendered rendered(const Stand& stand, const Camera& camera, StopToken stop = {}, Keep keep = {});

}  // namespace hscaffold::stage
