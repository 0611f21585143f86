#include "core/stage/rays.h"

#include <Eigen/Geometry>
#include <algorithm>
#include <array>
#include <limits>

#include "core/image/parallel.h"

namespace hscaffold::stage {

/// Shares out the faces of one mesh: their middles are moved about, and faces follow when all is settled.
class Rays::Grower {
 public:
  Grower(const Mesh& mesh, Tree& tree) : mesh_(mesh), tree_(tree) {
    middles_.reserve(mesh.faces.size());
    for (std::uint32_t f = 0; f < mesh.faces.size(); ++f) {
      const auto& [a, b, c] = mesh.faces[f];
      middles_.push_back({(mesh.at[a] + mesh.at[b] + mesh.at[c]) / 3, f});
    }
    tree.faces.reserve(middles_.size());
    tree.nodes.reserve(middles_.size());
    grow(0, static_cast<std::uint32_t>(middles_.size()));
  }

 private:
  struct Middle {
    Vec3 at;
    std::uint32_t face;
  };
  static constexpr float endless = std::numeric_limits<float>::max();

  void grow(std::uint32_t first, std::uint32_t end) {
    constexpr std::uint32_t leaf = 4;
    const std::size_t at = tree_.nodes.size();
    tree_.nodes.emplace_back();
    Vec3 low = Vec3::Constant(endless), high = -low;
    for (std::uint32_t i = first; i < end; ++i) {
      low = low.cwiseMin(middles_[i].at);
      high = high.cwiseMax(middles_[i].at);
    }
    int side = 0;
    (high - low).maxCoeff(&side);
    if (end - first <= leaf || !(high[side] > low[side])) {
      tree_.nodes[at] = leafOf(first, end);
      return;
    }
    const std::uint32_t middle = first + (end - first) / 2;
    std::nth_element(middles_.begin() + first, middles_.begin() + middle, middles_.begin() + end,
                     [side](const Middle& a, const Middle& b) { return a.at[side] < b.at[side]; });
    grow(first, middle);
    const auto second = static_cast<std::uint32_t>(tree_.nodes.size());
    grow(middle, end);
    Node& node = tree_.nodes[at];
    node.first = second;
    node.low = tree_.nodes[at + 1].low.cwiseMin(tree_.nodes[second].low);
    node.high = tree_.nodes[at + 1].high.cwiseMax(tree_.nodes[second].high);
  }

  Node leafOf(std::uint32_t first, std::uint32_t end) {
    Node out{Vec3::Constant(endless), Vec3::Constant(-endless), static_cast<std::uint32_t>(tree_.faces.size()),
             end - first};
    for (std::uint32_t i = first; i < end; ++i) {
      const auto& [a, b, c] = mesh_.faces[middles_[i].face];
      const Vec3 &p = mesh_.at[a], &q = mesh_.at[b], &r = mesh_.at[c];
      out.low = out.low.cwiseMin(p).cwiseMin(q).cwiseMin(r);
      out.high = out.high.cwiseMax(p).cwiseMax(q).cwiseMax(r);
      tree_.faces.push_back({p, q - p, r - p, mesh_.object});
    }
    // A little larger, so that flat boxes are met.
    out.low -= Vec3::Constant(1e-5f);
    out.high += Vec3::Constant(1e-5f);
    return out;
  }

  const Mesh& mesh_;
  Tree& tree_;
  std::vector<Middle> middles_;
};

Rays::Rays(std::span<const Mesh> meshes) : trees_(meshes.size()) {
  parallelItems(meshes.size(), [&](std::size_t m) {
    if (!meshes[m].faces.empty()) Grower(meshes[m], trees_[m]);
  });
  std::erase_if(trees_, [](const Tree& tree) { return tree.faces.empty(); });
}

template <bool any>
void Rays::meet(const Tree& tree, const Vec3& from, const Vec3& way, Met& out) {
  const Vec3 over = way.cwiseInverse();
  const auto enters = [&](const Node& node) {
    const Vec3 a = (node.low - from).cwiseProduct(over), b = (node.high - from).cwiseProduct(over);
    return std::max(0.0f, a.cwiseMin(b).maxCoeff()) <= std::min(out.along, a.cwiseMax(b).minCoeff());
  };
  std::array<std::uint32_t, 64> waiting{};
  std::size_t count = 1;
  while (count > 0) {
    const std::uint32_t at = waiting[--count];
    const Node& node = tree.nodes[at];
    if (!enters(node)) continue;
    if (node.count == 0) {
      if (count + 2 > waiting.size()) continue;  // deeper than halves of four thousand million faces go
      waiting[count++] = node.first;
      waiting[count++] = at + 1;
      continue;
    }
    for (std::uint32_t i = node.first; i < node.first + node.count; ++i) {
      const Face& face = tree.faces[i];
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
        if constexpr (any) return;
      }
    }
  }
}

Rays::Met Rays::first(const Vec3& from, const Vec3& way, float most) const {
  Met out{most, 0};
  for (const Tree& tree : trees_) meet<false>(tree, from, way, out);
  return out;
}

bool Rays::blocked(const Vec3& from, const Vec3& way, float most) const {
  Met out{most, 0};
  for (const Tree& tree : trees_) {
    meet<true>(tree, from, way, out);
    if (out.object != 0) return true;
  }
  return false;
}

}  // namespace hscaffold::stage
