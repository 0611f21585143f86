#include "core/stage/stand.h"

namespace hscaffold::stage {

std::shared_ptr<const Stand> standOf(const Scene& scene, const std::shared_ptr<const Stand>& before, bool coarse) {
  if (before != nullptr && before->things == scene.things && before->light == scene.light &&
      before->ground == scene.ground && (coarse || !before->coarse))
    return before;
  Set set = before != nullptr ? setOf(scene, before->things, before->set) : setOf(scene);
  const Lighting lighting = lightingOf(scene.light);
  ShadowMap shadows(set.meshes, lighting.lights.front().from, lighting.soft,
                    coarse ? ShadowMap::coarseSide : ShadowMap::usualSide);
  return std::make_shared<const Stand>(
      Stand{std::move(set), std::move(shadows), scene.things, scene.light, scene.ground, coarse});
}

Rendered rendered(const Stand& stand, const Camera& camera, StopToken stop, Keep keep) {
  Lighting lighting = lightingOf(stand.light);
  lighting.ready = &stand.shadows;
  return rendered(stand.set.meshes, camera, lighting, stop, keep);
}

}  // namespace hscaffold::stage
