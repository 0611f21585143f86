#include "core/stage/shadow_map.h"

#include <algorithm>
#include <array>
#include <cmath>
#include <vector>

#include "core/image/parallel.h"

namespace hscaffold::stage {

namespace {
constexpr int mostSteps = 4;
constexpr float widestBorder = 14;  // samples
constexpr float away = 40;  // of the light's eye, in radii of the set: nearly parallel, and within what floats resolve
constexpr float widest = 30;  // metres about the middle that have shadows at all

/// What half of a square's samples exceed; those are few, and mostly of two kinds.
float middleOf(const Image<float>& of, int left, int top, int side) {
  std::array<float, mostSteps * mostSteps> all;
  auto end = all.begin();
  for (int y = top; y < top + side; ++y) end = std::copy_n(of.row(y) + left, side, end);
  const auto [least, most] = std::minmax_element(all.begin(), end);
  if (*least == *most) return *least;
  const auto middle = all.begin() + (end - all.begin()) / 2;
  std::nth_element(all.begin(), middle, end);
  return *middle;
}

/// The best of each sample and those up to `reach` beside, above and below it, in a box.
template <typename Better>
void spread(const Image<float>& from, int reach, const Box& box, Image<float>& into, Better better) {
  parallelRows(box.height(), [&](int first, int end) {
    // Samples beyond the picture are those at its rim.
    std::vector<float> high(static_cast<std::size_t>(box.width() + 2 * reach));
    for (int y = box.top + first; y < box.top + end; ++y) {
      const int left = std::max(0, box.left - reach), right = std::min(from.width(), box.right + reach);
      float* line = high.data() + (left - (box.left - reach));
      const auto take = [&](int row) { return from.row(std::clamp(row, 0, from.height() - 1)) + left; };
      std::copy_n(take(y - reach), right - left, line);
      for (int row = y - reach + 1; row <= y + reach; ++row) {
        const float* other = take(row);
        for (int x = 0; x < right - left; ++x) line[x] = better(line[x], other[x]);
      }
      std::fill(high.data(), line, line[0]);
      std::fill(line + (right - left), high.data() + high.size(), line[right - left - 1]);
      float* out = into.row(y) + box.left;
      std::copy_n(high.data(), box.width(), out);
      for (int by = 1; by <= 2 * reach; ++by)
        for (int x = 0; x < box.width(); ++x) out[x] = better(out[x], high[static_cast<std::size_t>(x + by)]);
    }
  });
}

/// The fields of so many samples along their sides that a box of samples reaches into.
Box fieldsOf(const Box& samples, int side) {
  const auto up = [&](int v) { return (v + side - 1) / side; };
  return {samples.left / side, samples.top / side, up(samples.right), up(samples.bottom)};
}
}  // namespace

Bounds ShadowMap::thrownBy(std::span<const Mesh> meshes, std::span<const Bounds> bounds) {
  Bounds all;
  for (std::size_t m = 0; m < meshes.size(); ++m) {
    if (!meshes[m].material.throws || bounds[m].empty()) continue;
    for (const Vec3* corner : {&bounds[m].low, &bounds[m].high}) all.take(corner->cwiseMax(-widest).cwiseMin(widest));
  }
  return all;
}

ShadowMap::Reach ShadowMap::reachOf(const Bounds& throwing) {
  if (throwing.empty()) return {};
  return {(throwing.low + throwing.high) / 2, std::max(0.5f, (throwing.high - throwing.low).norm() / 2)};
}

ShadowMap::ShadowMap(std::span<const Mesh> meshes, const Vec3& from, float soft, int side)
    : ShadowMap(meshes, from, soft, side, reachOf(thrownBy(meshes, boundsOf(meshes)))) {}

ShadowMap::ShadowMap(std::span<const Mesh> meshes, const Vec3& from, float soft, int side, const Reach& reach)
    : reach_(reach), side_(side / (2 * mostSteps) * (2 * mostSteps)) {
  if (reach.radius <= 0) return;
  const float distance = away * reach.radius;
  camera_ = lookingAt(reach.middle + from * distance, reach.middle, 36 * distance / (2 * reach.radius),
                      {side_ / 2, side_ / 2});
  focal_ = distance / (2 * reach.radius) * static_cast<float>(side_);
  texel_ = 2 * reach.radius / static_cast<float>(side_);
  soft_ = std::clamp(soft / texel_, 1.0f, widestBorder);
  // In a picture of the map that is so small that a border has few samples.
  while (soft_ >= static_cast<float>(raster_detail::softest * step_) && step_ < mostSteps) step_ *= 2;
  over_ = Image<float>(Size{side_, side_});
  if (step_ > 1) looked_ = Image<float>(Size{side_ / step_, side_ / step_});
  most_ = Image<float>(looked().size());
  least_ = Image<float>(looked().size());
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
  out.step_ = step_;
  out.focal_ = focal_;
  out.texel_ = texel_;
  out.soft_ = soft_;
  out.over_ = over_.clone();
  out.looked_ = looked_.clone();
  out.most_ = most_.clone();
  out.least_ = least_.clone();
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
  const Box samples = {2 * box.left, 2 * box.top, 2 * box.right, 2 * box.bottom};
  const Box fields = fieldsOf(samples, step_);
  if (step_ > 1)
    parallelRows(fields.height(), [&](int first, int end) {
      for (int y = fields.top + first; y < fields.top + end; ++y)
        for (int x = fields.left; x < fields.right; ++x) looked_(x, y) = middleOf(over_, x * step_, y * step_, step_);
    });
  const Box about = cut(grown(fields, borderReach()), looked().size());
  spread(looked(), borderReach(), about, most_, [](float a, float b) { return a < b ? b : a; });
  spread(looked(), borderReach(), about, least_, [](float a, float b) { return a < b ? a : b; });
}

int ShadowMap::borderReach() const { return static_cast<int>(std::ceil(soft_ / static_cast<float>(step_))); }

std::optional<std::array<Vec3, 16>> ShadowMap::hullOf(const Bounds& bounds, float lowest) const {
  if ((bounds.low.array() < -widest).any() || (bounds.high.array() > widest).any()) return {};
  // As wide as borders are blurred, and what `seen` goes off the surface.
  const float wider = 1.1f * (soft_ + 5 + mostSteps) * texel_;
  std::array<Vec3, 16> out;
  const Vec3 more = Vec3::Constant(wider);
  const auto corners = Bounds{bounds.low - more, bounds.high + more}.corners();
  for (std::size_t i = 0; i < corners.size(); ++i) {
    out[2 * i] = out[2 * i + 1] = corners[i];
    const Vec3 way = corners[i] - camera_.eye;
    if (way.y() >= 0) return {};  // no light comes down to it
    if (corners[i].y() > lowest) out[2 * i + 1] += way * ((lowest - corners[i].y()) / way.y());
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
  const auto step = static_cast<float>(step_);
  return {.over = looked().row(0),
          .most = most_.row(0),
          .least = least_.row(0),
          .stride = most_.stride(),
          .side = most_.width(),
          .focal = focal_ / step,
          .texel = texel_ * step,
          .soft = soft_ / step,
          .off = 1.2f * texel_ + 0.004f};
}

}  // namespace hscaffold::stage
