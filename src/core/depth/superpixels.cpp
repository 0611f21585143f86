#include "core/depth/superpixels.h"

#include <algorithm>
#include <cmath>
#include <limits>

#include "core/image/parallel.h"

namespace hscaffold::depth {
namespace {

constexpr int rounds = 6;
/// How much a cell's spacing counts against colour: larger makes rounder cells.
constexpr float compactness = 12;

float squaredDifference(CieLab a, CieLab b) {
  return (a.l - b.l) * (a.l - b.l) + (a.a - b.a) * (a.a - b.a) + (a.b - b.b) * (a.b - b.b);
}

struct Grid {
  int columns = 1, rows = 1;
  Size size;
  [[nodiscard]] int columnOf(float x) const {
    return std::clamp(static_cast<int>(x * static_cast<float>(columns) / static_cast<float>(size.width)), 0,
                      columns - 1);
  }
  [[nodiscard]] int rowOf(float y) const {
    return std::clamp(static_cast<int>(y * static_cast<float>(rows) / static_cast<float>(size.height)), 0, rows - 1);
  }
};

Grid gridFor(Size size, int wanted) {
  const double side = std::sqrt(static_cast<double>(size.area()) / std::max(1, wanted));
  return {std::clamp(static_cast<int>(std::lround(size.width / side)), 1, size.width),
          std::clamp(static_cast<int>(std::lround(size.height / side)), 1, size.height), size};
}

/// Each pixel to the best of the nine cells that started round it: no cell strays far from its start.
void assign(View<CieLab> picture, const Grid& grid, const std::vector<Cell>& cells, float spacing,
            Image<std::int32_t>& out) {
  const float pull = compactness * compactness / (spacing * spacing);
  parallelRows(picture.height(), [&](int first, int end) {
    for (int y = first; y < end; ++y) {
      const float py = static_cast<float>(y) + 0.5f;
      const int row = grid.rowOf(py);
      for (int x = 0; x < picture.width(); ++x) {
        const float px = static_cast<float>(x) + 0.5f;
        const int column = grid.columnOf(px);
        float best = std::numeric_limits<float>::max();
        for (int r = std::max(0, row - 1); r <= std::min(grid.rows - 1, row + 1); ++r) {
          for (int c = std::max(0, column - 1); c <= std::min(grid.columns - 1, column + 1); ++c) {
            const int index = r * grid.columns + c;
            const Cell& cell = cells[static_cast<std::size_t>(index)];
            const float far = squaredDifference(picture(x, y), cell.colour) +
                              pull * ((cell.x - px) * (cell.x - px) + (cell.y - py) * (cell.y - py));
            if (far < best) {
              best = far;
              out(x, y) = index;
            }
          }
        }
      }
    }
  });
}

std::vector<Cell> meansOf(View<CieLab> picture, View<std::int32_t> cell, std::size_t count) {
  struct Sum {
    double l = 0, a = 0, b = 0, x = 0, y = 0;
  };
  std::vector<Sum> sums(count);
  std::vector<Cell> out(count);
  for (int y = 0; y < picture.height(); ++y) {
    for (int x = 0; x < picture.width(); ++x) {
      const auto i = static_cast<std::size_t>(cell(x, y));
      const CieLab c = picture(x, y);
      Sum& sum = sums[i];
      sum.l += static_cast<double>(c.l);
      sum.a += static_cast<double>(c.a);
      sum.b += static_cast<double>(c.b);
      sum.x += x + 0.5;
      sum.y += y + 0.5;
      ++out[i].area;
    }
  }
  for (std::size_t i = 0; i < count; ++i) {
    if (out[i].area == 0) continue;
    const auto mean = [&](double sum) { return static_cast<float>(sum / out[i].area); };
    out[i].colour = {mean(sums[i].l), mean(sums[i].a), mean(sums[i].b)};
    out[i].x = mean(sums[i].x);
    out[i].y = mean(sums[i].y);
  }
  return out;
}

/// Connected pieces get numbers of their own; those under a quarter of a cell go to the piece before them.
std::size_t connect(Image<std::int32_t>& cell, int smallest) {
  Image<std::int32_t> label(cell.width(), cell.height(), -1);
  std::vector<std::pair<int, int>> found;
  std::int32_t next = 0;
  for (int y = 0; y < cell.height(); ++y) {
    for (int x = 0; x < cell.width(); ++x) {
      if (label(x, y) >= 0) continue;
      const std::int32_t before = x > 0 ? label(x - 1, y) : y > 0 ? label(x, y - 1) : -1;
      found.assign(1, {x, y});
      label(x, y) = next;
      for (std::size_t i = 0; i < found.size(); ++i) {
        const auto [fx, fy] = found[i];
        for (const auto& [dx, dy] : {std::pair{1, 0}, {-1, 0}, {0, 1}, {0, -1}}) {
          const int nx = fx + dx, ny = fy + dy;
          if (nx < 0 || ny < 0 || nx >= cell.width() || ny >= cell.height()) continue;
          if (label(nx, ny) >= 0 || cell(nx, ny) != cell(x, y)) continue;
          label(nx, ny) = next;
          found.emplace_back(nx, ny);
        }
      }
      if (static_cast<int>(found.size()) < smallest && before >= 0)
        for (const auto& [fx, fy] : found) label(fx, fy) = before;
      else
        ++next;
    }
  }
  cell = std::move(label);
  return static_cast<std::size_t>(next);
}

std::vector<Border> bordersOf(View<CieLab> picture, View<std::int32_t> cell) {
  struct Pair {
    std::int64_t key;
    float contrast;
  };
  std::vector<Pair> pairs;
  const auto count = [&](int x, int y, int nx, int ny) {
    const std::int32_t a = std::min(cell(x, y), cell(nx, ny)), b = std::max(cell(x, y), cell(nx, ny));
    if (a != b)
      pairs.push_back(
          {(static_cast<std::int64_t>(a) << 32) | b, std::sqrt(squaredDifference(picture(x, y), picture(nx, ny)))});
  };
  for (int y = 0; y < cell.height(); ++y) {
    for (int x = 0; x < cell.width(); ++x) {
      if (x + 1 < cell.width()) count(x, y, x + 1, y);
      if (y + 1 < cell.height()) count(x, y, x, y + 1);
    }
  }
  std::stable_sort(pairs.begin(), pairs.end(), [](const Pair& a, const Pair& b) { return a.key < b.key; });
  std::vector<Border> out;
  for (std::size_t i = 0; i < pairs.size();) {
    Border border{static_cast<int>(pairs[i].key >> 32), static_cast<int>(pairs[i].key & 0x7fffffff), 0, 0};
    const std::int64_t key = pairs[i].key;
    for (; i < pairs.size() && pairs[i].key == key; ++i) {
      ++border.length;
      border.contrast += pairs[i].contrast;
    }
    border.contrast /= static_cast<float>(border.length);
    out.push_back(border);
  }
  return out;
}

}  // namespace

float colourDifference(CieLab a, CieLab b) { return std::hypot(a.l - b.l, a.a - b.a, a.b - b.b); }

float apartness(const Superpixels& patches, const Border& border) {
  const float mean = colourDifference(patches.cells[static_cast<std::size_t>(border.a)].colour,
                                      patches.cells[static_cast<std::size_t>(border.b)].colour);
  return 0.6f * mean + 0.4f * border.contrast;
}

Superpixels superpixelsOf(View<CieLab> picture, int wanted, StopToken stop) {
  Superpixels out;
  if (picture.empty()) return out;
  const Grid grid = gridFor(picture.size(), wanted);
  out.spacing = std::sqrt(static_cast<float>(picture.size().area()) / static_cast<float>(grid.columns * grid.rows));
  out.cell = Image<std::int32_t>(picture.size());
  for (int y = 0; y < picture.height(); ++y)
    for (int x = 0; x < picture.width(); ++x)
      out.cell(x, y) =
          grid.rowOf(static_cast<float>(y) + 0.5f) * grid.columns + grid.columnOf(static_cast<float>(x) + 0.5f);
  auto cells = meansOf(picture, out.cell, static_cast<std::size_t>(grid.columns * grid.rows));
  for (int i = 0; i < rounds; ++i) {
    throwIfStopped(stop);
    assign(picture, grid, cells, out.spacing, out.cell);
    auto next = meansOf(picture, out.cell, cells.size());
    for (std::size_t c = 0; c < cells.size(); ++c)
      if (next[c].area > 0) cells[c] = next[c];
  }
  const auto count = connect(out.cell, static_cast<int>(out.spacing * out.spacing / 4));
  out.cells = meansOf(picture, out.cell, count);
  out.borders = bordersOf(picture, out.cell);
  return out;
}

}  // namespace hscaffold::depth
