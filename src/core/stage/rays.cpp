#include "core/stage/rays.h"

#include <Eigen/Geometry>
#include <algorithm>
#include <array>
#include <limits>

namespace hscaffold::stage {

Rays::Rays(std::span<const Mesh> meshes) {
  for (const Mesh& mesh : meshes)
    for (const auto& [a, b, c] : mesh.faces)
      faces_.push_back({mesh.at[a], mesh.at[b] - mesh.at[a], mesh.at[c] - mesh.at[a], mesh.object});
  nodes_.reserve(faces_.size() / 2 + 2);
  if (!faces_.empty()) build(0, static_cast<std::uint32_t>(faces_.size()));
}

void Rays::build(std::uint32_t first, std::uint32_t end) {
  constexpr std::uint32_t leaf = 4;
  const std::size_t at = nodes_.size();
  nodes_.emplace_back();
  constexpr float endless = std::numeric_limits<float>::max();
  Vec3 low = Vec3::Constant(endless), high = -low, lowCentre = low, highCentre = high;
  const auto centre = [](const Face& face) { return Vec3(face.a + (face.ab + face.ac) / 3); };
  for (std::uint32_t i = first; i < end; ++i) {
    const Face& face = faces_[i];
    for (const Vec3& p : {face.a, Vec3(face.a + face.ab), Vec3(face.a + face.ac)}) {
      low = low.cwiseMin(p);
      high = high.cwiseMax(p);
    }
    lowCentre = lowCentre.cwiseMin(centre(face));
    highCentre = highCentre.cwiseMax(centre(face));
  }
  // A little larger, so that flat boxes are met.
  nodes_[at].low = low - Vec3::Constant(1e-5f);
  nodes_[at].high = high + Vec3::Constant(1e-5f);
  int side = 0;
  (highCentre - lowCentre).maxCoeff(&side);
  if (end - first <= leaf || highCentre[side] <= lowCentre[side]) {
    nodes_[at].first = first;
    nodes_[at].count = end - first;
    return;
  }
  const std::uint32_t middle = first + (end - first) / 2;
  std::nth_element(faces_.begin() + first, faces_.begin() + middle, faces_.begin() + end,
                   [&](const Face& a, const Face& b) { return centre(a)[side] < centre(b)[side]; });
  build(first, middle);
  nodes_[at].first = static_cast<std::uint32_t>(nodes_.size());
  build(middle, end);
}

template <bool any>
Rays::Met Rays::meet(const Vec3& from, const Vec3& way, float most) const {
  Met out{most, 0};
  if (nodes_.empty()) return out;
  const Vec3 over = way.cwiseInverse();
  const auto enters = [&](const Node& node) {
    const Vec3 a = (node.low - from).cwiseProduct(over), b = (node.high - from).cwiseProduct(over);
    return std::max(0.0f, a.cwiseMin(b).maxCoeff()) <= std::min(out.along, a.cwiseMax(b).minCoeff());
  };
  std::array<std::uint32_t, 64> waiting{};
  std::size_t count = 1;
  while (count > 0) {
    const std::uint32_t at = waiting[--count];
    const Node& node = nodes_[at];
    if (!enters(node)) continue;
    if (node.count == 0) {
      if (count + 2 > waiting.size()) continue;  // deeper than halves of four thousand million faces go
      waiting[count++] = node.first;
      waiting[count++] = at + 1;
      continue;
    }
    for (std::uint32_t i = node.first; i < node.first + node.count; ++i) {
      const Face& face = faces_[i];
      const Vec3 p = way.cross(face.ac);
      const float whole = face.ab.dot(p);
      if (whole == 0) continue;
      const Vec3 off = from - face.a;
      const float u = off.dot(p) / whole;
      if (!(u >= 0 && u <= 1)) continue;
      const Vec3 q = off.cross(face.ab);
      const float v = way.dot(q) / whole;
      if (!(v >= 0 && u + v <= 1)) continue;
      const float along = face.ac.dot(q) / whole;
      if (along > 0 && along < out.along) {
        out = {along, face.object};
        if constexpr (any) return out;
      }
    }
  }
  return out;
}

Rays::Met Rays::first(const Vec3& from, const Vec3& way, float most) const { return meet<false>(from, way, most); }
bool Rays::blocked(const Vec3& from, const Vec3& way, float most) const {
  return meet<true>(from, way, most).object != 0;
}

}  // namespace hscaffold::stage
