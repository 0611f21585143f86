#include "core/stage/stand.h"

#include <algorithm>
#include <utility>

namespace hscaffold::stage {
namespace {

/// Whether a map shows all that throws, and not much more.
bool serves(const ShadowMap& there, const Bounds& throwing) {
  constexpr float most = 2;
  return there.holds(throwing) && there.reach().radius <= most * ShadowMap::reachOf(throwing).radius;
}

Lighting lightingOf(const Stand& stand) {
  Lighting out = lightingOf(stand.light);
  out.ready = &stand.shadows;
  return out;
}

bool sees(const Camera& a, const Camera& b) {
  return a.eye == b.eye && a.look == b.look && a.millimetres == b.millimetres && a.size == b.size;
}

/// Where the things of a set are among its meshes, by their place in the scene; -1: they are not seen.
std::vector<std::ptrdiff_t> meshesOf(const Set& set, std::size_t things) {
  std::vector<std::ptrdiff_t> out(things, -1);
  for (std::size_t m = 0; m < set.meshes.size(); ++m)
    if (const std::size_t object = set.meshes[m].object; object > 0 && object <= things)
      out[object - 1] = static_cast<std::ptrdiff_t>(m);
  return out;
}

/// @return nothing if they are not the same things in the same order
std::optional<std::vector<Bounds>> changesBetween(std::span<const Thing> things, const Set& set,
                                                  std::span<const Bounds> bounds, std::span<const Thing> nextThings,
                                                  const Set& next, std::span<const Bounds> nextBounds) {
  const auto sameId = [](const Thing& a, const Thing& b) { return a.id == b.id; };
  if (!std::equal(things.begin(), things.end(), nextThings.begin(), nextThings.end(), sameId)) return {};
  const auto mesh = meshesOf(set, things.size()), nextMesh = meshesOf(next, things.size());
  std::vector<Bounds> out;
  for (std::size_t i = 0; i < things.size(); ++i) {
    if (looksAlike(things[i], nextThings[i])) continue;
    if (mesh[i] >= 0) out.push_back(bounds[static_cast<std::size_t>(mesh[i])]);
    if (nextMesh[i] >= 0) out.push_back(nextBounds[static_cast<std::size_t>(nextMesh[i])]);
  }
  return out;
}

}  // namespace

std::shared_ptr<const Stand> standOf(const Scene& scene, const std::shared_ptr<const Stand>& before, bool coarse) {
  if (before != nullptr && before->things == scene.things && before->light == scene.light &&
      before->ground == scene.ground && (coarse || !before->coarse))
    return before;
  Set set = before != nullptr ? setOf(scene, before->things, before->set) : setOf(scene);
  auto bounds = boundsOf(set.meshes);
  const Bounds throwing = ShadowMap::thrownBy(set.meshes, bounds);
  const auto reach = ShadowMap::reachOf(throwing);
  const auto make = [&](ShadowMap shadows) {
    const bool lesser = shadows.side() != ShadowMap::usualSide || !(shadows.reach() == reach);
    return std::make_shared<const Stand>(
        Stand{std::move(set), std::move(bounds), std::move(shadows), scene.things, scene.light, scene.ground, lesser});
  };
  if (before != nullptr && before->light == scene.light) {
    const ShadowMap& there = before->shadows;
    const bool same = there.side() == ShadowMap::usualSide && there.reach() == reach;
    if (same || (coarse && serves(there, throwing)))
      if (const auto changed = changesBetween(before->things, before->set, before->bounds, scene.things, set, bounds))
        return make(there.after(set.meshes, *changed));
  }
  const Lighting lighting = lightingOf(scene.light);
  const Vec3 from = lighting.lights.front().from;
  if (!coarse) return make({set.meshes, from, lighting.soft, ShadowMap::usualSide, reach});
  // With room for where it may be dragged yet.
  constexpr float room = 1.25f;
  return make({set.meshes, from, lighting.soft, ShadowMap::coarseSide, {reach.middle, room * reach.radius}});
}

Rendered rendered(const Stand& stand, const Camera& camera, StopToken stop, Keep keep) {
  return rendered(stand.set.meshes, camera, lightingOf(stand), stop, keep);
}

std::optional<std::vector<Bounds>> changesBetween(const Stand& before, const Stand& after) {
  if (!(before.light == after.light) || before.ground != after.ground ||
      before.shadows.side() != after.shadows.side() || !(before.shadows.reach() == after.shadows.reach()))
    return {};
  return changesBetween(before.things, before.set, before.bounds, after.things, after.set, after.bounds);
}

std::optional<Patch> KeptPicture::partToPaint(const Stand& next, const Camera& camera) const {
  if (stand_ == nullptr || !sees(camera_, camera)) return {};
  const auto changed = changesBetween(*stand_, next);
  if (!changed) return {};
  float lowest = 0;  // of what shadows fall on
  for (const Stand* each : {stand_.get(), &next})
    for (const Bounds& bounds : each->bounds)
      if (!bounds.empty()) lowest = std::min(lowest, bounds.low.y());
  Patch out = owed_;
  for (const Bounds& each : *changed) {
    if (each.empty()) continue;
    const auto hull = next.shadows.hullOf(each, lowest);
    if (!hull) return {};
    out = joined(out, camera.partOf(*hull));
  }
  return out;
}

Box KeptPicture::paint(std::shared_ptr<const Stand> stand, const Camera& camera, const StopToken& stop) {
  const auto part = partToPaint(*stand, camera);
  if (!part) {
    stand_ = nullptr;
    seen_ = rendered(*stand, camera, stop);
  } else {
    owed_ = *part;
    renderPart(stand->set.meshes, camera, lightingOf(*stand), *part, seen_, stop);
  }
  owed_ = {};
  camera_ = camera;
  stand_ = std::move(stand);
  return part ? part->bounds() : boxOf(camera.size);
}

}  // namespace hscaffold::stage
