#include "core/engine/standin/partition.h"

#include <algorithm>
#include <array>
#include <bit>
#include <cmath>
#include <numeric>

namespace hscaffold::standin {
namespace {

class Basins {
 public:
  int add(float peak) {
    parent_.push_back(static_cast<int>(parent_.size()));
    peak_.push_back(peak);
    return parent_.back();
  }
  int find(int i) {
    while (parent_[static_cast<std::size_t>(i)] != i) {
      parent_[static_cast<std::size_t>(i)] = parent_[static_cast<std::size_t>(parent_[static_cast<std::size_t>(i)])];
      i = parent_[static_cast<std::size_t>(i)];
    }
    return i;
  }
  [[nodiscard]] float peak(int root) const { return peak_[static_cast<std::size_t>(root)]; }
  void join(int a, int b) {
    if (peak(a) < peak(b)) std::swap(a, b);
    parent_[static_cast<std::size_t>(b)] = a;
  }
  [[nodiscard]] std::size_t size() const { return parent_.size(); }

 private:
  std::vector<int> parent_;
  std::vector<float> peak_;
};

/// Pixels by distance, the farthest first, equals in reading order. Distances are never negative, so that their bits
/// order as they do: a radix sort.
std::vector<std::int32_t> farthestFirst(const Image<float>& distance) {
  struct Entry {
    std::uint32_t key;
    std::int32_t pixel;
  };
  constexpr int digit = 11;
  constexpr std::uint32_t mask = (1u << digit) - 1;
  std::vector<Entry> entries, sorted;
  entries.reserve(distance.size().area());
  for (int y = 0; y < distance.height(); ++y)
    for (int x = 0; x < distance.width(); ++x)
      entries.push_back({~std::bit_cast<std::uint32_t>(distance(x, y)), y * distance.width() + x});
  sorted.resize(entries.size());
  for (int shift = 0; shift < 32; shift += digit) {
    std::array<std::size_t, mask + 2> place{};
    for (const Entry& e : entries) ++place[((e.key >> shift) & mask) + 1];
    std::partial_sum(place.begin(), place.end(), place.begin());
    for (const Entry& e : entries) sorted[place[(e.key >> shift) & mask]++] = e;
    std::swap(entries, sorted);
  }
  std::vector<std::int32_t> out;
  out.reserve(entries.size());
  for (const Entry& e : entries) out.push_back(e.pixel);
  return out;
}

}  // namespace

Image<float> distanceToLines(View<float> lines) {
  const int width = lines.width(), height = lines.height();
  Image<float> d(width, height, static_cast<float>(width + height));
  constexpr float straight = 1.0f, slanted = 4.0f / 3.0f;
  const auto relax = [&](int x, int y, int nx, int ny, float step) {
    if (nx >= 0 && ny >= 0 && nx < width && ny < height) d(x, y) = std::min(d(x, y), d(nx, ny) + step);
  };
  for (int y = 0; y < height; ++y) {
    for (int x = 0; x < width; ++x) {
      if (lines(x, y) > 0.5f) d(x, y) = 0;
      relax(x, y, x - 1, y, straight);
      relax(x, y, x, y - 1, straight);
      relax(x, y, x - 1, y - 1, slanted);
      relax(x, y, x + 1, y - 1, slanted);
    }
  }
  for (int y = height - 1; y >= 0; --y) {
    for (int x = width - 1; x >= 0; --x) {
      relax(x, y, x + 1, y, straight);
      relax(x, y, x, y + 1, straight);
      relax(x, y, x + 1, y + 1, slanted);
      relax(x, y, x - 1, y + 1, slanted);
    }
  }
  return d;
}

Partition partitionBy(View<float> lines) {
  Partition out;
  out.distance = distanceToLines(lines);
  const int width = lines.width(), height = lines.height();
  out.label = Image<std::int32_t>(width, height, -1);
  const auto order = farthestFirst(out.distance);
  Basins basins;
  for (const std::int32_t index : order) {
    const int x = index % width, y = index / width;
    const float level = out.distance(x, y);
    int home = -1;
    for (const auto& [dx, dy] : {std::pair{1, 0}, {-1, 0}, {0, 1}, {0, -1}}) {
      const int nx = x + dx, ny = y + dy;
      if (nx < 0 || ny < 0 || nx >= width || ny >= height || out.label(nx, ny) < 0) continue;
      const int other = basins.find(out.label(nx, ny));
      if (home < 0) {
        home = other;
      } else if (other != home) {
        const float smaller = std::min(basins.peak(home), basins.peak(other));
        // On a line nothing joins; in the open, basins join through gaps that are wide for them.
        if (level > 0 && (smaller < 2.5f || level > 0.58f * smaller)) {
          basins.join(home, other);
          home = basins.find(home);
        } else if (basins.peak(other) > basins.peak(home)) {
          home = other;
        }
      }
    }
    out.label(x, y) = home >= 0 ? home : basins.add(level);
  }
  std::vector<int> number(basins.size(), -1);
  for (int y = 0; y < height; ++y) {
    for (int x = 0; x < width; ++x) {
      const int root = basins.find(out.label(x, y));
      int& final = number[static_cast<std::size_t>(root)];
      if (final < 0) final = out.count++;
      out.label(x, y) = final;
    }
  }
  return out;
}

}  // namespace hscaffold::standin
