/// Things that are joined, one pair at a time (union-find).
#pragma once

#include <cstddef>
#include <numeric>
#include <vector>

namespace hscaffold {

class Groups {
 public:
  explicit Groups(std::size_t count) : root_(count) { std::iota(root_.begin(), root_.end(), std::size_t{0}); }
  /// The one that stands for the group of `i`.
  [[nodiscard]] std::size_t of(std::size_t i) const {
    while (root_[i] != i) i = root_[i];
    return i;
  }
  /// The group of `other` goes into that of `i`, whose name stays.
  void join(std::size_t i, std::size_t other) { root_[of(other)] = of(i); }

 private:
  std::vector<std::size_t> root_;
};

}  // namespace hscaffold
