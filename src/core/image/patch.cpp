#include "core/image/patch.h"

#include <algorithm>
#include <cmath>
#include <limits>
#include <tuple>

namespace hscaffold {
namespace {

/// Corners of the convex hull in their order (Andrew 1979, "Another efficient algorithm for convex hulls in two
/// dimensions").
std::vector<Point> cornersOfHull(std::span<const Point> points) {
  std::vector<Point> sorted(points.begin(), points.end()), out;
  std::sort(sorted.begin(), sorted.end(),
            [](const Point& a, const Point& b) { return std::tie(a.x, a.y) < std::tie(b.x, b.y); });
  const auto chain = [&](auto first, auto last) {
    const std::size_t begun = out.size();
    for (; first != last; ++first) {
      const auto turns = [&] {
        const Point a = out[out.size() - 1] - out[out.size() - 2], b = *first - out[out.size() - 2];
        return a.x * b.y - a.y * b.x > 0;
      };
      while (out.size() >= begun + 2 && !turns()) out.pop_back();
      out.push_back(*first);
    }
  };
  chain(sorted.begin(), sorted.end());
  chain(sorted.rbegin(), sorted.rend());
  return out;
}

}  // namespace

Box Patch::bounds() const {
  Box out;
  for (std::size_t i = 0; i < rows.size(); ++i) {
    const int y = top + static_cast<int>(i);
    out = joined(out, {rows[i].left, y, rows[i].right, y + 1});
  }
  return out;
}

Patch patchOf(const Box& box) {
  if (box.empty()) return {};
  return {box.top, std::vector<Patch::Run>(static_cast<std::size_t>(box.height()), {box.left, box.right})};
}

Patch joined(const Patch& a, const Patch& b) {
  const Box both = joined(a.bounds(), b.bounds());
  Patch out = patchOf({0, both.top, 1, both.bottom});
  std::fill(out.rows.begin(), out.rows.end(), Patch::Run{});
  for (const Patch* each : {&a, &b})
    for (std::size_t i = 0; i < each->rows.size(); ++i) {
      if (each->rows[i].empty()) continue;
      auto& run = out.rows[static_cast<std::size_t>(each->top - out.top) + i];
      run = run.empty() ? each->rows[i]
                        : Patch::Run{std::min(run.left, each->rows[i].left), std::max(run.right, each->rows[i].right)};
    }
  return out;
}

Patch hullOf(std::span<const Point> points, double rim, Size frame) {
  if (points.empty()) return {};
  const auto hull = cornersOfHull(points);
  const auto [high, low] =
      std::minmax_element(hull.begin(), hull.end(), [](const auto& a, const auto& b) { return a.y < b.y; });
  const auto row = [&](double y) { return static_cast<int>(std::clamp(std::floor(y), 0.0, double(frame.height))); };
  Patch out = patchOf({0, row(high->y - rim), 1, row(low->y + rim + 1)});
  for (std::size_t i = 0; i < out.rows.size(); ++i) {
    const double y = out.top + static_cast<double>(i), above = y - rim, below = y + 1 + rim;
    double left = std::numeric_limits<double>::max(), right = -left;
    for (std::size_t k = 0; k < hull.size(); ++k) {
      // The part of a side that runs through the row, with its rim.
      Point a = hull[k], b = hull[(k + 1) % hull.size()];
      if (a.y > b.y) std::swap(a, b);
      if (b.y < above || a.y > below) continue;
      const auto across = [&](double at) { return a.x + (b.x - a.x) * (at - a.y) / (b.y - a.y); };
      const bool level = a.y == b.y;
      const double enters = level ? a.x : across(std::max(a.y, above)),
                   leaves = level ? b.x : across(std::min(b.y, below));
      left = std::min({left, enters, leaves});
      right = std::max({right, enters, leaves});
    }
    const auto column = [&](double x) { return static_cast<int>(std::clamp(x, 0.0, double(frame.width))); };
    out.rows[i] =
        left > right ? Patch::Run{} : Patch::Run{column(std::floor(left - rim)), column(std::ceil(right + rim))};
    if (out.rows[i].empty()) out.rows[i] = {};
  }
  return out;
}

}  // namespace hscaffold
