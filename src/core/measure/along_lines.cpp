#include "core/measure/along_lines.h"

#include <algorithm>
#include <cmath>
#include <numbers>

#include "core/image/parallel.h"

namespace hscaffold {
namespace {

constexpr std::uint8_t set = 128, farthest = 255;

/// The main axis of set pixels about one of them.
std::uint8_t wayAt(View<std::uint8_t> lines, int x, int y) {
  constexpr int reach = 3;
  constexpr double clear = 0.5;  // of how far they lie apart must be along one axis
  const int left = std::max(0, x - reach), right = std::min(lines.width() - 1, x + reach);
  // Sums of whole numbers, for this is done at every pixel of every line.
  int mass = 0, sx = 0, sy = 0, sxx = 0, sxy = 0, syy = 0;
  for (int v = std::max(0, y - reach); v <= std::min(lines.height() - 1, y + reach); ++v) {
    const std::uint8_t* row = lines.row(v);
    int count = 0, across = 0;
    for (int u = left; u <= right; ++u) {
      const int is = row[u] >= set ? 1 : 0, dx = u - x;
      count += is;
      across += is * dx;
      sxx += is * dx * dx;
    }
    const int dy = v - y;
    mass += count;
    sx += across;
    sy += dy * count;
    sxy += dy * across;
    syy += dy * dy * count;
  }
  const double xx = mass * sxx - sx * sx, xy = mass * sxy - sx * sy, yy = mass * syy - sy * sy;
  if (mass < 3 || std::hypot(xx - yy, 2 * xy) < clear * (xx + yy)) return anyWay;
  const double along = 0.5 * std::atan2(2 * xy, xx - yy) / std::numbers::pi;  // half turns
  return static_cast<std::uint8_t>((std::lround(along * anyWay) + anyWay) % anyWay);
}

/// Distances of a row, where they are not less already: by one more than those of the row beside it.
void oneFarther(std::uint8_t* row, const std::uint8_t* beside, int width) {
  for (int x = 0; x < width; ++x) {
    const auto next = static_cast<std::uint8_t>(std::min<std::uint8_t>(beside[x], farthest - 1) + 1);
    row[x] = std::min(row[x], next);
  }
}

}  // namespace

Image<std::uint8_t> waysOf(View<std::uint8_t> lines) {
  Image<std::uint8_t> out(lines.width(), lines.height(), anyWay);
  parallelRows(lines.height(), [&](int first, int end) {
    for (int y = first; y < end; ++y)
      for (int x = 0; x < lines.width(); ++x)
        if (lines(x, y) >= set) out(x, y) = wayAt(lines, x, y);
  });
  return out;
}

AlongLines::AlongLines(View<std::uint8_t> lines) {
  constexpr std::uint8_t none = anyWay + 1;
  auto ways = waysOf(lines);
  const int width = lines.width(), height = lines.height();
  for (int y = 0; y < height; ++y)
    std::transform(ways.row(y), ways.row(y) + width, lines.row(y), ways.row(y),
                   [](std::uint8_t way, std::uint8_t line) { return line >= set ? way : none; });
  parallelItems(upright_.size(), [&](std::size_t way) {
    std::array<std::uint8_t, none + 1> off{};  // of a pixel by its way
    for (int w = 0; w <= anyWay; ++w)
      off[static_cast<std::size_t>(w)] =
          way == anyWay || w == anyWay || waysBetween(static_cast<int>(way), w) <= 1 ? 0 : farthest;
    off[none] = farthest;
    Image<std::uint8_t> out(width, height);
    for (int y = 0; y < height; ++y)
      std::transform(ways.row(y), ways.row(y) + width, out.row(y), [&off](std::uint8_t w) { return off[w]; });
    for (int y = 1; y < height; ++y) oneFarther(out.row(y), out.row(y - 1), width);
    for (int y = height - 2; y >= 0; --y) oneFarther(out.row(y), out.row(y + 1), width);
    upright_[way] = std::move(out);
  });
}

float AlongLines::distance(int x, int y, std::uint8_t way, float atMost) const {
  const std::uint8_t* row = upright_[way].row(y);
  const int width = upright_[way].width();
  float nearest = atMost * atMost;
  const auto look = [&](int at, int off) {
    if (at < 0 || at >= width) return;
    nearest = std::min(nearest, static_cast<float>(off * off + row[at] * row[at]));
  };
  look(x, 0);
  for (int off = 1; static_cast<float>(off * off) < nearest; ++off) {
    look(x - off, off);
    look(x + off, off);
  }
  return std::sqrt(nearest);
}

}  // namespace hscaffold
