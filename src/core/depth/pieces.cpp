// Cells grouped into pieces: Kruskal's order, joined while the border is no stronger than what is inside both sides.
#include <algorithm>
#include <cmath>
#include <numeric>

#include "core/depth/seen.h"

namespace hscaffold::depth {
namespace {

class Groups {
 public:
  explicit Groups(std::size_t count) : parent_(count), size_(count, 1), inside_(count, 0.0f) {
    std::iota(parent_.begin(), parent_.end(), 0);
  }
  int find(int i) {
    while (parent_[at(i)] != i) i = parent_[at(i)] = parent_[at(parent_[at(i)])];
    return i;
  }
  void join(int a, int b, float weight) {
    if (size_[at(a)] < size_[at(b)]) std::swap(a, b);
    parent_[at(b)] = a;
    size_[at(a)] += size_[at(b)];
    inside_[at(a)] = std::max({inside_[at(a)], inside_[at(b)], weight});
  }
  [[nodiscard]] float limit(int root, float scale) const {
    return inside_[at(root)] + scale / static_cast<float>(size_[at(root)]);
  }
  [[nodiscard]] int size(int root) const { return size_[at(root)]; }

 private:
  static std::size_t at(int i) { return static_cast<std::size_t>(i); }
  std::vector<int> parent_, size_;
  std::vector<float> inside_;
};

}  // namespace

std::vector<int> piecesOf(const Superpixels& patches, float scale, int smallest) {
  struct Edge {
    float weight;
    int a, b;
  };
  std::vector<Edge> edges;
  for (const Border& border : patches.borders) edges.push_back({apartness(patches, border), border.a, border.b});
  std::stable_sort(edges.begin(), edges.end(), [](const Edge& p, const Edge& q) { return p.weight < q.weight; });
  Groups groups(patches.cells.size());
  for (const Edge& edge : edges) {
    const int a = groups.find(edge.a), b = groups.find(edge.b);
    if (a != b && edge.weight <= std::min(groups.limit(a, scale), groups.limit(b, scale)))
      groups.join(a, b, edge.weight);
  }
  for (const Edge& edge : edges) {
    const int a = groups.find(edge.a), b = groups.find(edge.b);
    if (a != b && std::min(groups.size(a), groups.size(b)) < smallest) groups.join(a, b, edge.weight);
  }
  std::vector<int> number(patches.cells.size(), -1), out(patches.cells.size());
  int next = 0;
  for (std::size_t i = 0; i < out.size(); ++i) {
    int& root = number[static_cast<std::size_t>(groups.find(static_cast<int>(i)))];
    if (root < 0) root = next++;
    out[i] = root;
  }
  return out;
}

}  // namespace hscaffold::depth
