#include "core/stage/shadow_map.h"

#include <algorithm>
#include <cmath>

namespace hscaffold::stage {

namespace {
constexpr int tile = 16;
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

bool ShadowMap::isDark(float x, float y, float over) const {
  const int column = static_cast<int>(x), row = static_cast<int>(y);
  if (x < 0 || y < 0 || column >= side_ || row >= side_) return false;
  return over_(column, row) > over;
}

float ShadowMap::tapped(float x, float y, float over) const {
  // Four samples, weighted by where the place lies between them.
  x = std::clamp(x - 0.5f, 0.0f, static_cast<float>(side_ - 2));
  y = std::clamp(y - 0.5f, 0.0f, static_cast<float>(side_ - 2));
  const int x0 = static_cast<int>(x), y0 = static_cast<int>(y);
  const float u = x - static_cast<float>(x0), v = y - static_cast<float>(y0);
  const float *above = over_.line(y0).data() + x0, *below = over_.line(y0 + 1).data() + x0;
  const auto dark = [over](float nearest) { return nearest > over ? 1.0f : 0.0f; };
  return (dark(above[0]) * (1 - u) + dark(above[1]) * u) * (1 - v) +
         (dark(below[0]) * (1 - u) + dark(below[1]) * u) * v;
}

ShadowMap::Seen ShadowMap::seen(const Vec3& place, const Vec3& normal) const {
  // A little off the surface, so that it does not shade itself.
  const Vec3 at = look_ * (place + normal * (2.0f * texel_) - eye_);
  return {at.x(), at.y(), at.z(), normal.dot(look_.row(2).transpose())};
}

float ShadowMap::shadowAt(const Seen& seen) const {
  if (over_.empty()) return 0;
  const float far = -seen[2], scale = focal_ / far;
  const float x = 0.5f * static_cast<float>(side_) + scale * seen[0],
              y = 0.5f * static_cast<float>(side_) - scale * seen[1];
  const int column = static_cast<int>(x) / tile, row = static_cast<int>(y) / tile;
  if (x < 0 || y < 0 || column >= tiles_.width() || row >= tiles_.height() || tiles_(column, row) * far <= 1) return 0;
  // And nearer the light by what it slopes within the border.
  const float facing = std::max(0.2f, seen[3]);
  const float slope = std::sqrt(std::max(0.0f, 1 - facing * facing)) / facing;
  const float over = 1 / (far - (1.2f + 1.2f * (soft_ + 1) * slope) * texel_ - 0.004f);
  // Far from a border all agree.
  const int dark = isDark(x - soft_, y - soft_, over) + isDark(x + soft_, y - soft_, over) + isDark(x, y, over) +
                   isDark(x - soft_, y + soft_, over) + isDark(x + soft_, y + soft_, over);
  if (dark == 0 || dark == 5) return dark == 0 ? 0.0f : 1.0f;
  float sum = 0;
  constexpr int taps = 4;
  for (int j = 0; j < taps; ++j)
    for (int i = 0; i < taps; ++i) {
      const float dx = (2 * static_cast<float>(i) + 1) / taps - 1, dy = (2 * static_cast<float>(j) + 1) / taps - 1;
      sum += tapped(x + dx * soft_, y + dy * soft_, over);
    }
  return sum / (taps * taps);
}

}  // namespace hscaffold::stage
