#include "core/stage/triangles.h"

#include <algorithm>
#include <cmath>
#include <limits>

#include "core/image/parallel.h"

namespace hscaffold::stage {
namespace {

constexpr float nearest = Camera::nearest;

using Corner = Triangle::Corner;

/// Middles of the outermost samples of a part.
struct Reach {
  float left, top, right, bottom;
  explicit Reach(const Box& part)
      : left(static_cast<float>(part.left * samplesAside) + 0.5f),
        top(static_cast<float>(part.top * samplesAside) + 0.5f),
        right(static_cast<float>(part.right * samplesAside) - 0.5f),
        bottom(static_cast<float>(part.bottom * samplesAside) - 0.5f) {}
  /// Whether all between these lies beside it.
  [[nodiscard]] bool misses(float fromX, float toX, float fromY, float toY) const {
    return toX < left || toY < top || fromX > right || fromY > bottom;
  }
};

/// Whether any sample's middle can lie in it: many are smaller than that, or lie beside the part.
bool meetsSamples(const std::array<Corner, 3>& at, const Reach& reach) {
  const float left = std::min({at[0].x, at[1].x, at[2].x}), right = std::max({at[0].x, at[1].x, at[2].x}),
              top = std::min({at[0].y, at[1].y, at[2].y}), bottom = std::max({at[0].y, at[1].y, at[2].y});
  if (reach.misses(left, right, top, bottom)) return false;
  const auto holdsMiddle = [](float from, float to) {
    // Both are below 2^22 where it matters; what is larger spans several samples.
    return to - from >= 1 || from < 0 || static_cast<float>(static_cast<int>(to + 0.5f)) - 0.5f >= from;
  };
  return holdsMiddle(left, right) && holdsMiddle(top, bottom);
}

/// Rows grow downwards: what turns counter-clockwise in space has an area below zero.
bool isTurnedAway(const std::array<Corner, 3>& at) {
  const auto& [p, q, r] = at;
  return (q.x - p.x) * (r.y - p.y) > (r.x - p.x) * (q.y - p.y);
}

}  // namespace

Triangles::Part Triangles::partOf(const Mesh& mesh, std::uint32_t number, const Camera& camera, const Box& part) {
  Part out;
  const Reach reach(part);
  const float width = static_cast<float>(camera.size.width) * samplesAside,
              height = static_cast<float>(camera.size.height) * samplesAside;
  const float focal = camera.millimetres / 36 * width, cx = 0.5f * width, cy = 0.5f * height;
  const auto& look = camera.look;
  const auto onScreen = [&](const Vec3& p) {  // p: in the eye's axes
    const float over = -1 / p.z();
    return Corner{cx + focal * p.x() * over, cy - focal * p.y() * over, over};
  };
  const auto inEye = [&](const Vec3& at) {
    const Vec3 p = at - camera.eye;
    const auto along = [&](int axis) { return look(axis, 0) * p.x() + look(axis, 1) * p.y() + look(axis, 2) * p.z(); };
    return Vec3(along(0), along(1), along(2));
  };
  std::vector<Corner> corners(mesh.at.size());  // over 0: behind the eye, or too near
  Vec3 low = Vec3::Constant(std::numeric_limits<float>::max()), high = -low;
  float left = low.x(), right = -left, top = left, bottom = -left;  // of what is ahead
  for (std::size_t i = 0; i < mesh.at.size(); ++i) {
    const Vec3 p = inEye(mesh.at[i]);
    low = low.cwiseMin(p);
    high = high.cwiseMax(p);
    if (-p.z() <= nearest) continue;
    const Corner& corner = corners[i] = onScreen(p);
    left = std::min(left, corner.x);
    right = std::max(right, corner.x);
    top = std::min(top, corner.y);
    bottom = std::max(bottom, corner.y);
  }
  const bool ahead = -high.z() > nearest;
  if (ahead && reach.misses(left, right, top, bottom)) return out;
  out.triangles.reserve(mesh.faces.size());
  // Of what is closed the far side is hidden by the near one, unless the eye is within, or so near that it is cut open.
  const bool outside = (low.array() > nearest).any() || (high.array() < -nearest).any();
  const std::size_t closed = outside ? mesh.closed : 0;
  for (std::uint32_t f = 0; f < mesh.faces.size(); ++f) {
    const auto& face = mesh.faces[f];
    const std::array<Corner, 3> at = {corners[face[0]], corners[face[1]], corners[face[2]]};
    const int before = (at[0].over > 0) + (at[1].over > 0) + (at[2].over > 0);
    if (before == 3) {
      if (f < closed && isTurnedAway(at)) continue;
      if (meetsSamples(at, reach)) out.triangles.push_back({at, number, f, nobody});
      continue;
    }
    if (before == 0) continue;
    // Cut where it passes the eye.
    struct Kept {
      Vec3 at, share;
    };
    std::array<Kept, 4> kept;
    std::size_t count = 0;
    for (std::size_t i = 0; i < 3; ++i) {
      const std::size_t next = (i + 1) % 3;
      const Vec3 a = inEye(mesh.at[face[i]]), b = inEye(mesh.at[face[next]]);
      const float fa = -a.z() - nearest, fb = -b.z() - nearest;
      const Vec3 sa = Vec3::Unit(static_cast<Eigen::Index>(i)), sb = Vec3::Unit(static_cast<Eigen::Index>(next));
      if (fa > 0) kept[count++] = {a, sa};
      if ((fa > 0) != (fb > 0)) {
        const float t = fa / (fa - fb);
        kept[count++] = {a + t * (b - a), sa + t * (sb - sa)};
      }
    }
    for (std::size_t k = 2; k < count; ++k) {
      const std::array<const Kept*, 3> fan = {&kept[0], &kept[k - 1], &kept[k]};
      const std::array<Corner, 3> cut = {onScreen(fan[0]->at), onScreen(fan[1]->at), onScreen(fan[2]->at)};
      if (!meetsSamples(cut, reach)) continue;
      out.triangles.push_back({cut, number, f, static_cast<std::uint32_t>(out.cuts.size())});
      out.cuts.push_back({fan[0]->share, fan[1]->share, fan[2]->share});
    }
  }
  return out;
}

Triangles::Triangles(std::span<const Mesh> meshes, const Camera& camera, bool throwsOnly, Patch part)
    : size_(camera.size), part_(std::move(part)), shows_(meshes.size()) {
  const Box box = part_.bounds();
  if (box.empty()) return;
  std::vector<Part> parts(meshes.size());
  parallelItems(meshes.size(), [&](std::size_t m) {
    if (!throwsOnly || meshes[m].material.throws)
      parts[m] = partOf(meshes[m], static_cast<std::uint32_t>(m), camera, box);
    shows_[m] = parts[m].triangles.empty() ? 0 : 1;
  });
  std::size_t count = 0;
  for (const Part& each : parts) count += each.triangles.size();
  all_.reserve(count);
  for (const Part& each : parts) {
    const auto first = static_cast<std::ptrdiff_t>(all_.size());
    all_.insert(all_.end(), each.triangles.begin(), each.triangles.end());
    if (each.cuts.empty()) continue;
    for (auto t = all_.begin() + first; t != all_.end(); ++t)
      if (t->cut != nobody) t->cut += static_cast<std::uint32_t>(cuts_.size());
    cuts_.insert(cuts_.end(), each.cuts.begin(), each.cuts.end());
  }
  strips_.resize((part_.rows.size() + stripRows - 1) / stripRows);
  const auto last = static_cast<float>(strips_.size() - 1), above = static_cast<float>(part_.top * samplesAside);
  for (std::uint32_t t = 0; t < all_.size(); ++t) {
    const auto& at = all_[t].at;
    const auto [top, bottom] = std::minmax({at[0].y, at[1].y, at[2].y});
    constexpr float high = stripRows * samplesAside;
    const int from = static_cast<int>(std::max(0.0f, top - above) / high),
              to = static_cast<int>(std::min(last, (bottom - above) / high));
    for (int strip = from; strip <= to; ++strip) strips_[static_cast<std::size_t>(strip)].push_back(t);
  }
}

void Triangles::nearestIn(std::size_t strip, Samples& into) const {
  into.width = size_.width * samplesAside;
  const std::size_t first = strip * stripRows;
  into.runs = std::span(part_.rows).subspan(first).first(std::min<std::size_t>(part_.rows.size() - first, stripRows));
  into.first = (part_.top + static_cast<int>(first)) * samplesAside;
  into.end = into.first + static_cast<int>(into.runs.size()) * samplesAside;
  const auto width = static_cast<std::size_t>(into.width), rows = static_cast<std::size_t>(into.end - into.first);
  into.over.resize(std::max(into.over.size(), width * rows + raster_detail::slack));
  into.winner.resize(into.over.size());
  for (std::size_t row = 0; row < rows; ++row) {
    const Patch::Run& run = into.runs[row / samplesAside];
    const auto at = static_cast<std::ptrdiff_t>(row * width) + run.left * samplesAside;
    const int count = std::max(0, run.right - run.left) * samplesAside;
    std::fill_n(into.over.begin() + at, count, 0.0f);
    std::fill_n(into.winner.begin() + at, count, nobody);
  }
  raster_detail::drawAll(all_.data(), strips_[strip], into);
}

std::array<float, 3> Triangles::ofFace(const Triangle& triangle, const std::array<float, 3>& shares) const {
  const Cut& cut = cuts_[triangle.cut];
  const Vec3 mixed = cut[0] * shares[0] + cut[1] * shares[1] + cut[2] * shares[2];
  return {mixed[0], mixed[1], mixed[2]};
}

}  // namespace hscaffold::stage
