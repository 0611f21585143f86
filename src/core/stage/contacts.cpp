#include "core/stage/contacts.h"

#include <Eigen/Geometry>
#include <algorithm>
#include <atomic>
#include <optional>

#include "core/image/parallel.h"

namespace hscaffold::stage {
namespace {

struct Face {
  Bounds bounds;
  std::array<Vec3, 3> at;
};

/// Corners in one order whatever the face's own, so that neighbours cut their common side at the very same place.
bool comesFirst(const Vec3& a, const Vec3& b) {
  return std::lexicographical_compare(a.data(), a.data() + 3, b.data(), b.data() + 3);
}

struct Plane {
  Vec3 normal;
  float off;
  [[nodiscard]] float above(const Vec3& p) const { return normal.dot(p) - off; }
  static Plane of(const std::array<Vec3, 3>& at) {
    const Vec3 n = (at[1] - at[0]).cross(at[2] - at[0]).normalized();
    return {n, n.dot(at[0])};
  }
};

/// Where a face's sides go through a plane; nothing if they do not.
std::optional<std::array<Vec3, 2>> cutBy(const std::array<Vec3, 3>& at, const Plane& plane) {
  const std::array above = {plane.above(at[0]), plane.above(at[1]), plane.above(at[2])};
  std::array<Vec3, 2> out;
  std::size_t count = 0;
  for (std::size_t i = 0; i < 3; ++i) {
    const std::size_t next = (i + 1) % 3;
    // A corner on the plane counts as above it: each crossing is met once.
    if ((above[i] >= 0) == (above[next] >= 0)) continue;
    const bool turned = comesFirst(at[next], at[i]);
    const std::size_t a = turned ? next : i, b = turned ? i : next;
    if (count < 2) out[count] = at[a] + (at[b] - at[a]) * (above[a] / (above[a] - above[b]));
    ++count;
  }
  if (count != 2) return {};
  return out;
}

std::optional<std::array<Vec3, 2>> crossing(const Face& one, const Face& other) {
  const Plane first = Plane::of(one.at), second = Plane::of(other.at);
  const Vec3 along = first.normal.cross(second.normal);
  constexpr float parallel = 1e-4f;
  if (!(along.norm() > parallel)) return {};
  const auto a = cutBy(one.at, second), b = cutBy(other.at, first);
  if (!a || !b) return {};
  struct End {
    float place;
    const Vec3* at;
  };
  const auto ends = [&](const std::array<Vec3, 2>& of) {
    std::array<End, 2> out = {End{along.dot(of[0]), &of[0]}, End{along.dot(of[1]), &of[1]}};
    if (out[1].place < out[0].place) std::swap(out[0], out[1]);
    return out;
  };
  const auto p = ends(*a), q = ends(*b);
  const End& from = p[0].place > q[0].place ? p[0] : q[0];
  const End& to = p[1].place < q[1].place ? p[1] : q[1];
  if (!(from.place < to.place)) return {};
  return std::array{*from.at, *to.at};
}

/// Faces that reach into a part of space, by their left.
std::vector<Face> facesIn(const Mesh& mesh, const Bounds& part) {
  std::vector<Face> out;
  for (const auto& f : mesh.faces) {
    Face face{{}, {mesh.at[f[0]], mesh.at[f[1]], mesh.at[f[2]]}};
    for (const Vec3& p : face.at) face.bounds.take(p);
    if (face.bounds.meets(part)) out.push_back(face);
  }
  std::sort(out.begin(), out.end(), [](const Face& a, const Face& b) { return a.bounds.low.x() < b.bounds.low.x(); });
  return out;
}

void addGround(const Mesh& mesh, float ground, std::vector<Contact>& out) {
  const Plane plane{{0, 1, 0}, ground};
  for (const auto& f : mesh.faces) {
    const auto cut = cutBy({mesh.at[f[0]], mesh.at[f[1]], mesh.at[f[2]]}, plane);
    if (cut && (*cut)[0] != (*cut)[1]) out.push_back({mesh.object, (*cut)[0], (*cut)[1]});
  }
}

}  // namespace

std::vector<Contact> contactsOf(std::span<const Mesh* const> meshes, const float* ground, StopToken stop) {
  std::vector<Bounds> bounds(meshes.size());
  parallelItems(meshes.size(), [&](std::size_t m) { bounds[m] = boundsOf(*meshes[m]); });
  std::vector<std::pair<std::size_t, std::size_t>> pairs;
  for (std::size_t i = 0; i < meshes.size(); ++i)
    for (std::size_t j = i + 1; j < meshes.size(); ++j)
      if (bounds[i].meets(bounds[j])) pairs.emplace_back(i, j);
  std::vector<std::vector<Contact>> found(pairs.size() + meshes.size());
  std::atomic<std::size_t> tries = 0;
  parallelItems(pairs.size(), [&](std::size_t k) {
    if (stop.stop_requested() || tries > mostTries) return;
    const auto [i, j] = pairs[k];
    const Bounds both{bounds[i].low.cwiseMax(bounds[j].low), bounds[i].high.cwiseMin(bounds[j].high)};
    const auto ones = facesIn(*meshes[i], both), others = facesIn(*meshes[j], both);
    std::size_t here = meshes[i]->faces.size() + meshes[j]->faces.size(), first = 0;
    float widest = 0;
    for (const Face& other : others) widest = std::max(widest, other.bounds.high.x() - other.bounds.low.x());
    for (const Face& one : ones) {
      while (first < others.size() && others[first].bounds.low.x() + widest < one.bounds.low.x()) ++first;
      for (std::size_t o = first; o < others.size() && others[o].bounds.low.x() <= one.bounds.high.x(); ++o) {
        ++here;
        if (!one.bounds.meets(others[o].bounds)) continue;
        if (const auto cut = crossing(one, others[o])) found[k].push_back({meshes[i]->object, (*cut)[0], (*cut)[1]});
      }
    }
    tries += here;
  });
  throwIfStopped(stop);
  if (ground != nullptr)
    parallelItems(meshes.size(), [&](std::size_t m) {
      // What stands on the ground has edges of its own there; what is sunk by less than that, too.
      constexpr float through = 0.005f;
      if (bounds[m].low.y() < *ground - through && bounds[m].high.y() > *ground + through)
        addGround(*meshes[m], *ground, found[pairs.size() + m]);
    });
  std::vector<Contact> out;
  for (const auto& part : found) out.insert(out.end(), part.begin(), part.end());
  return out;
}

}  // namespace hscaffold::stage
