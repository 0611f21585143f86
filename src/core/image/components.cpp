#include "core/image/components.h"

#include <numeric>

namespace hscaffold {
namespace {

struct Run {
  int y, first, end;
};

struct Sets {
  std::vector<std::int32_t> parent;
  std::int32_t root(std::int32_t i) {
    auto at = [this](std::int32_t k) -> std::int32_t& { return parent[static_cast<std::size_t>(k)]; };
    while (at(i) != i) i = at(i) = at(at(i));
    return i;
  }
  void join(std::int32_t a, std::int32_t b) {
    a = root(a);
    b = root(b);
    // The earlier run leads, so that pieces are numbered by their first pixels.
    parent[static_cast<std::size_t>(std::max(a, b))] = std::min(a, b);
  }
};

}  // namespace

Components componentsOf(View<std::uint8_t> mask, Connected connected) {
  const int touch = connected == Connected::eight ? 1 : 0;
  std::vector<Run> runs;
  Sets sets;
  std::size_t above = 0, aboveEnd = 0;
  for (int y = 0; y < mask.height(); ++y) {
    const std::size_t here = runs.size();
    std::size_t candidate = above;
    const std::uint8_t* row = mask.row(y);
    for (int x = 0; x < mask.width();) {
      if (row[x] == 0) {
        ++x;
        continue;
      }
      Run run{y, x, x};
      while (run.end < mask.width() && row[run.end] != 0) ++run.end;
      x = run.end;
      const auto index = static_cast<std::int32_t>(runs.size());
      sets.parent.push_back(index);
      runs.push_back(run);
      while (candidate < aboveEnd && runs[candidate].end + touch <= run.first) ++candidate;
      for (std::size_t c = candidate; c < aboveEnd && runs[c].first < run.end + touch; ++c)
        sets.join(static_cast<std::int32_t>(c), index);
    }
    above = here;
    aboveEnd = runs.size();
  }
  Components out;
  out.label = Image<std::int32_t>(mask.width(), mask.height(), -1);
  std::vector<std::int32_t> number(runs.size(), -1);
  for (std::size_t i = 0; i < runs.size(); ++i) {
    const auto root = static_cast<std::size_t>(sets.root(static_cast<std::int32_t>(i)));
    const Run& run = runs[i];
    if (number[root] < 0) {
      number[root] = static_cast<std::int32_t>(out.all.size());
      out.all.push_back({0, run.first, run.y, run.end - 1, run.y});
    }
    Component& piece = out.all[static_cast<std::size_t>(number[root])];
    piece.area += run.end - run.first;
    piece.left = std::min(piece.left, run.first);
    piece.right = std::max(piece.right, run.end - 1);
    piece.bottom = run.y;
    std::fill(out.label.row(run.y) + run.first, out.label.row(run.y) + run.end, number[root]);
  }
  return out;
}

}  // namespace hscaffold
