#include "core/stage/shadow_map.h"

#include <algorithm>
#include <cmath>

namespace hscaffold::stage {

namespace {
constexpr int tile = raster_detail::shadowTile;
constexpr float away = 40;  // of the light's eye, in radii of the set: nearly parallel, and within what floats resolve
constexpr float widest = 30;  // metres about the middle that have shadows at all
}  // namespace

Bounds ShadowMap::thrownBy(std::span<const Mesh> meshes) {
  Bounds all;
  for (const Mesh& mesh : meshes) {
    if (!mesh.material.throws) continue;
    for (const Vec3& p : mesh.at) all.take(p.cwiseMax(-widest).cwiseMin(widest));
  }
  return all;
}

ShadowMap::Reach ShadowMap::reachOf(const Bounds& throwing) {
  if (throwing.empty()) return {};
  return {(throwing.low + throwing.high) / 2, std::max(0.5f, (throwing.high - throwing.low).norm() / 2)};
}

ShadowMap::ShadowMap(std::span<const Mesh> meshes, const Vec3& from, float soft, int side)
    : ShadowMap(meshes, from, soft, side, reachOf(thrownBy(meshes))) {}

ShadowMap::ShadowMap(std::span<const Mesh> meshes, const Vec3& from, float soft, int side, const Reach& reach)
    : reach_(reach), side_(side / (2 * tile) * (2 * tile)) {
  if (reach.radius <= 0) return;
  const float distance = away * reach.radius;
  camera_ = lookingAt(reach.middle + from * distance, reach.middle, 36 * distance / (2 * reach.radius),
                      {side_ / 2, side_ / 2});
  focal_ = distance / (2 * reach.radius) * static_cast<float>(side_);
  texel_ = 2 * reach.radius / static_cast<float>(side_);
  soft_ = std::clamp(soft / texel_, 1.0f, static_cast<float>(tile) - 2);
  over_ = Image<float>(Size{side_, side_});
  most_ = Image<float>(Size{side_ / tile, side_ / tile});
  tiles_ = Image<float>(most_.size());
  draw(meshes, patchOf(boxOf(camera_.size)));
}

bool ShadowMap::holds(const Bounds& bounds) const {
  if (bounds.empty() || over_.empty()) return false;
  const auto corners = bounds.corners();
  return std::all_of(corners.begin(), corners.end(), [&](const Vec3& corner) {
    const auto at = camera_.seen(corner);
    const auto side = static_cast<float>(camera_.size.width);
    return at.far > 0 && at.x >= 0 && at.y >= 0 && at.x <= side && at.y <= side;
  });
}

ShadowMap ShadowMap::after(std::span<const Mesh> meshes, std::span<const Bounds> changed) const {
  ShadowMap out;
  out.reach_ = reach_;
  out.camera_ = camera_;
  out.side_ = side_;
  out.focal_ = focal_;
  out.texel_ = texel_;
  out.soft_ = soft_;
  out.over_ = over_.clone();
  out.most_ = most_.clone();
  out.tiles_ = tiles_.clone();
  if (over_.empty()) return out;
  Patch part;
  for (const Bounds& each : changed)
    if (!each.empty()) part = joined(part, camera_.partOf(each.corners()));
  out.draw(meshes, part);
  return out;
}

void ShadowMap::draw(std::span<const Mesh> meshes, const Patch& part) {
  const Box box = part.bounds();
  if (box.empty()) return;
  nearestInto(meshes, camera_, true, part, over_);
  // What is nearest in a tile or beside it: what is nearer still has no shadow, which settles most places at once.
  const Box changed = {2 * box.left / tile, 2 * box.top / tile, (2 * box.right + tile - 1) / tile,
                       (2 * box.bottom + tile - 1) / tile};
  for (int y = changed.top; y < changed.bottom; ++y)
    for (int x = changed.left; x < changed.right; ++x) {
      float most = 0;
      for (int row = y * tile; row < (y + 1) * tile; ++row)
        for (const float over : over_.line(row).subspan(static_cast<std::size_t>(x * tile), tile))
          most = std::max(most, over);
      most_(x, y) = most;
    }
  const Box round = cut(grown(changed, 1), tiles_.size());
  for (int y = round.top; y < round.bottom; ++y)
    for (int x = round.left; x < round.right; ++x) {
      float most = 0;
      for (int dy = -1; dy <= 1; ++dy)
        for (int dx = -1; dx <= 1; ++dx) most = std::max(most, most_.view().clamped(x + dx, y + dy));
      tiles_(x, y) = most;
    }
}

std::array<Vec3, 16> ShadowMap::hullOf(const Bounds& bounds, float lowest) const {
  // As wide as borders are blurred, and what `seen` goes off the surface.
  const float wider = 1.1f * (soft_ + 5) * texel_;
  std::array<Vec3, 16> out;
  const Vec3 more = Vec3::Constant(wider);
  const auto corners = Bounds{bounds.low - more, bounds.high + more}.corners();
  for (std::size_t i = 0; i < corners.size(); ++i) {
    out[2 * i] = out[2 * i + 1] = corners[i];
    const Vec3 way = corners[i] - camera_.eye;
    if (way.y() < 0 && corners[i].y() > lowest) out[2 * i + 1] += way * ((lowest - corners[i].y()) / way.y());
  }
  return out;
}

ShadowMap::Seen ShadowMap::seen(const Vec3& place, const Vec3& normal) const {
  // A little off the surface, so that it does not shade itself.
  const Vec3 at = camera_.look * (place + normal * (2.0f * texel_) - camera_.eye);
  return {at.x(), at.y(), at.z(), normal.dot(camera_.look.row(2).transpose())};
}

ShadowField ShadowMap::field() const {
  if (over_.empty()) return {};
  const auto over = over_.view(), tiles = tiles_.view();
  return {over.row(0), tiles.row(0), over.stride(), tiles.stride(), side_, focal_, texel_, soft_};
}

}  // namespace hscaffold::stage
