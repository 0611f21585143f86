#include "core/strokes/thinning.h"

#include <array>
#include <bit>
#include <vector>

namespace hscaffold {
namespace {

/// Neighbours in order round the pixel: E, NE, N, NW, W, SW, S, SE; bit i is neighbour i.
constexpr std::array<bool, 256> removableTable() {
  std::array<bool, 256> table{};
  for (unsigned around = 0; around < 256; ++around) {
    const auto empty = [&](unsigned i) { return (around >> (i % 8) & 1) == 0 ? 1 : 0; };
    int crossings = 0;
    for (unsigned i = 0; i < 8; i += 2) crossings += empty(i) - empty(i) * empty(i + 1) * empty(i + 2);
    table[around] = crossings == 1 && std::popcount(around) > 1;
  }
  return table;
}
constexpr auto removable = removableTable();

class Peeler {
 public:
  explicit Peeler(View<std::uint8_t> mask)
      : width_(mask.width() + 2),
        cells_(static_cast<std::size_t>(width_) * static_cast<std::size_t>(mask.height() + 2)),
        around_{1, 1 - width_, -width_, -width_ - 1, -1, width_ - 1, width_, width_ + 1} {
    for (int y = 0; y < mask.height(); ++y)
      for (int x = 0; x < mask.width(); ++x) cells_[at(x, y)] = mask(x, y) != 0 ? set : 0;
    for (int y = 0; y < mask.height(); ++y)
      for (int x = 0; x < mask.width(); ++x) {
        const auto p = at(x, y);
        if (cells_[p] == set && onBorder(p)) enlist(p);
      }
    active_.swap(next_);
  }

  /// One layer from every side. @return whether anything was peeled off.
  bool peel() {
    for (const std::size_t p : active_) cells_[p] &= static_cast<std::uint8_t>(~listed);
    bool any = false;
    for (const int side : {-width_, width_, -1, 1}) {
      chosen_.clear();
      for (const std::size_t p : active_)
        if (cells_[p] != 0 && cells_[moved(p, side)] == 0 && removable[neighbours(p)]) chosen_.push_back(p);
      for (const std::size_t p : chosen_) {
        if (!removable[neighbours(p)]) continue;
        cells_[p] = 0;
        any = true;
        for (const int step : around_)
          if (const auto q = moved(p, step); cells_[q] == set) enlist(q);
      }
    }
    active_.swap(next_);
    next_.clear();
    return any;
  }

  [[nodiscard]] Image<std::uint8_t> result(Size size) const {
    Image<std::uint8_t> out(size);
    for (int y = 0; y < size.height; ++y)
      for (int x = 0; x < size.width; ++x) out(x, y) = cells_[at(x, y)] != 0 ? 1 : 0;
    return out;
  }

 private:
  static constexpr std::uint8_t set = 1, listed = 2;
  [[nodiscard]] std::size_t at(int x, int y) const {
    return static_cast<std::size_t>(y + 1) * static_cast<std::size_t>(width_) + static_cast<std::size_t>(x + 1);
  }
  [[nodiscard]] static std::size_t moved(std::size_t p, int step) {
    return static_cast<std::size_t>(static_cast<std::ptrdiff_t>(p) + step);
  }
  [[nodiscard]] unsigned neighbours(std::size_t p) const {
    unsigned bits = 0;
    for (std::size_t i = 0; i < 8; ++i) bits |= (cells_[moved(p, around_[i])] != 0 ? 1u : 0u) << i;
    return bits;
  }
  [[nodiscard]] bool onBorder(std::size_t p) const {
    return cells_[p - 1] == 0 || cells_[p + 1] == 0 || cells_[moved(p, width_)] == 0 || cells_[moved(p, -width_)] == 0;
  }
  void enlist(std::size_t p) {
    cells_[p] |= listed;
    next_.push_back(p);
  }

  int width_;
  std::vector<std::uint8_t> cells_;  ///< with an empty pixel all round
  std::array<int, 8> around_;
  std::vector<std::size_t> active_, next_, chosen_;
};

}  // namespace

Image<std::uint8_t> thinned(View<std::uint8_t> mask, StopToken stop) {
  if (mask.empty()) return {};
  Peeler peeler(mask);
  while (peeler.peel()) throwIfStopped(stop);
  return peeler.result(mask.size());
}

}  // namespace hscaffold
