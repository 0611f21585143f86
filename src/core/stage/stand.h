/// What stands on a scene, built, with the shadows that it throws: kept from look to look, so that only what has
/// changed is built anew, and painted anew.
#pragma once

#include <memory>
#include <optional>
#include <vector>

#include "core/stage/scene.h"
#include "core/stage/shadow_map.h"

namespace hscaffold::stage {

struct Stand {
  Set set;
  std::vector<Bounds> bounds;  ///< of its meshes
  ShadowMap shadows;
  std::vector<Thing> things;  ///< that it was built from
  SceneLight light;
  bool ground = true;
  bool coarse = false;  ///< its shadows are not as fine, or not as close about it, as they would be made anew
};

/// @param before  of the same scene, or of any other; may be null
/// @param coarse  what is built anew may have coarse shadows: while something is dragged
/// @return `before` itself, if nothing but the eye has changed
std::shared_ptr<const Stand> standOf(const Scene& scene, const std::shared_ptr<const Stand>& before = {},
                                     bool coarse = false);

/// The stand by any camera, lit. @throws Cancelled
Rendered rendered(const Stand& stand, const Camera& camera, StopToken stop = {}, Keep keep = {});

/// Where two stands differ: the bounds of what has changed, in each. Nothing if all of it may look otherwise.
std::optional<std::vector<Bounds>> changesBetween(const Stand& before, const Stand& after);

/// A picture of a stand that goes along with it: what looks as it did stays as it is.
class KeptPicture {
 public:
  /// Makes it `rendered(*stand, camera)`, to the last bit. Not by two threads at once.
  /// @return a box that holds all that was painted: the whole, if the camera is another one @throws Cancelled: what is
  ///         missing is painted the next time
  Box paint(std::shared_ptr<const Stand> stand, const Camera& camera, const StopToken& stop = {});
  [[nodiscard]] const Rendered& seen() const { return seen_; }

 private:
  /// What may differ now from what it shows; nothing of it counts if there is no value.
  [[nodiscard]] std::optional<Patch> partToPaint(const Stand& next, const Camera& camera) const;

  std::shared_ptr<const Stand> stand_;  ///< that it shows, but for `owed_`; null: nothing of it counts
  Camera camera_;
  Patch owed_;  ///< was begun and not ended
  Rendered seen_;
};

}  // namespace hscaffold::stage
