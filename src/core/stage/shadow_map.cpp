#include "core/stage/shadow_map.h"

#include <algorithm>
#include <cmath>

namespace hscaffold::stage {

namespace {
constexpr int tile = raster_detail::shadowTile;
constexpr float away = 40;  // of the light's eye, in radii of the set: nearly parallel, and within what floats resolve
constexpr float widest = 30;  // metres about the middle that have shadows at all
}  // namespace

ShadowMap::ShadowMap(std::span<const Mesh> meshes, const Vec3& from, float soft, int side)
    : side_(side / (2 * tile) * (2 * tile)) {
  Vec3 low = Vec3::Constant(widest), high = Vec3::Constant(-widest);
  for (const Mesh& mesh : meshes) {
    if (!mesh.material.throws) continue;
    for (const Vec3& p : mesh.at) {
      const Vec3 kept = p.cwiseMax(-widest).cwiseMin(widest);
      low = low.cwiseMin(kept);
      high = high.cwiseMax(kept);
    }
  }
  if ((high - low).minCoeff() < 0) return;
  const Vec3 middle = (low + high) / 2;
  const float radius = std::max(0.5f, (high - low).norm() / 2);
  const float distance = away * radius;
  const Camera camera =
      lookingAt(middle + from * distance, middle, 36 * distance / (2 * radius), {side_ / 2, side_ / 2});
  over_ = nearestOf(meshes, camera, true);
  look_ = camera.look;
  eye_ = camera.eye;
  focal_ = distance / (2 * radius) * static_cast<float>(side_);
  texel_ = 2 * radius / static_cast<float>(side_);
  soft_ = std::clamp(soft / texel_, 1.0f, static_cast<float>(tile) - 2);
  // What is nearest in a tile or beside it: what is nearer still has no shadow, which settles most places at once.
  const int count = side_ / tile;
  Image<float> highest(Size{count, count});
  for (int y = 0; y < side_; ++y)
    for (int x = 0; x < side_; ++x) highest(x / tile, y / tile) = std::max(highest(x / tile, y / tile), over_(x, y));
  tiles_ = Image<float>(Size{count, count});
  for (int y = 0; y < count; ++y)
    for (int x = 0; x < count; ++x)
      for (int dy = -1; dy <= 1; ++dy)
        for (int dx = -1; dx <= 1; ++dx) tiles_(x, y) = std::max(tiles_(x, y), highest.view().clamped(x + dx, y + dy));
}

ShadowMap::Seen ShadowMap::seen(const Vec3& place, const Vec3& normal) const {
  // A little off the surface, so that it does not shade itself.
  const Vec3 at = look_ * (place + normal * (2.0f * texel_) - eye_);
  return {at.x(), at.y(), at.z(), normal.dot(look_.row(2).transpose())};
}

ShadowField ShadowMap::field() const {
  if (over_.empty()) return {};
  const auto over = over_.view(), tiles = tiles_.view();
  return {over.row(0), tiles.row(0), over.stride(), tiles.stride(), side_, focal_, texel_, soft_};
}

}  // namespace hscaffold::stage
