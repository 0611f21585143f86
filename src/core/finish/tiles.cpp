#include "core/finish/tiles.h"

#include <fmt/format.h>

#include <algorithm>
#include <array>
#include <cmath>
#include <limits>

#include "core/image/colour.h"
#include "core/image/parallel.h"
#include "core/problem.h"

namespace hscaffold {
namespace {

constexpr int ramp = 8;  ///< pixels over which one tile goes over into the next

int onNextStep(int value, int step) { return (value + step - 1) / step * step; }

float linearOf(std::uint8_t value) { return srgb16ToLinear(static_cast<std::uint16_t>(257 * value)); }

Rgb8 mixed(Rgb8 a, Rgb8 b, float share) {
  const auto mix = [share](std::uint8_t from, std::uint8_t to) {
    if (from == to) return from;
    const float u = linearOf(from), v = linearOf(to);
    return linearToSrgb8(u + (v - u) * share);
  };
  return {mix(a.r, b.r), mix(a.g, b.g), mix(a.b, b.b)};
}

float brightness(Rgb8 c) {
  return (0.299f * static_cast<float>(c.r) + 0.587f * static_cast<float>(c.g) + 0.114f * static_cast<float>(c.b)) / 255;
}

float difference(Rgb8 a, Rgb8 b) {
  const auto squared = [](int u, int v) { return static_cast<float>((u - v) * (u - v)); };
  return (squared(a.r, b.r) + squared(a.g, b.g) + squared(a.b, b.b)) / (3 * 255.0f * 255.0f);
}

/// How far the new tile shows at this distance beyond its border, [0, 1].
float shareAt(int beyond) {
  const float t = std::clamp((static_cast<float>(beyond) + 0.5f) / ramp + 0.5f, 0.0f, 1.0f);
  return t * t * (3 - 2 * t);
}

}  // namespace

TilePlan tilesFor(Size whole, std::int64_t mostPixels, int step, int overlap) {
  overlap = std::max(overlap, leastOverlap);
  const auto side = [&](int length, int parts) {
    return std::min(length, onNextStep((length + (parts - 1) * overlap + parts - 1) / parts, step));
  };
  constexpr int most = 64;  // along a side
  int columns = 0, rows = 0;
  double squarest = 0;
  for (int r = 1; r <= most; ++r)
    for (int c = 1; c <= most; ++c) {
      if (columns > 0 && c * r > columns * rows) break;
      const int width = side(whole.width, c), height = side(whole.height, r);
      // A tile that is hardly more than its overlaps makes no headway.
      const bool useful = (c == 1 || width >= 2 * overlap + step) && (r == 1 || height >= 2 * overlap + step);
      if (!useful || (mostPixels > 0 && std::int64_t{width} * height > mostPixels)) continue;
      const double square = static_cast<double>(std::min(width, height)) / std::max(width, height);
      if (columns == 0 || c * r < columns * rows || square > squarest) columns = c, rows = r, squarest = square;
    }
  if (columns == 0)
    throw badInput(fmt::format("A picture of {} x {} cannot be made of parts of {:.2f} megapixels: they are too small.",
                               whole.width, whole.height, static_cast<double>(mostPixels) / 1e6));
  TilePlan plan{whole, columns, rows, {}};
  const int width = side(whole.width, columns), height = side(whole.height, rows);
  const auto place = [](int number, int parts, int length, int size) {
    return parts == 1 ? 0 : static_cast<int>(std::lround(static_cast<double>(number) * (length - size) / (parts - 1)));
  };
  for (int r = 0; r < rows; ++r)
    for (int c = 0; c < columns; ++c) {
      const int left = place(c, columns, whole.width, width), top = place(r, rows, whole.height, height);
      plan.tiles.push_back({left, top, left + width, top + height});
    }
  return plan;
}

TileJoiner::TileJoiner(TilePlan plan) : plan_(std::move(plan)), picture_(plan_.whole) {}

TileJoiner::Seam TileJoiner::seamOf(View<Rgb8> tile, const Box& overlap, bool upright) const {
  const Box& box = plan_.tiles[next_];
  const int length = upright ? overlap.height() : overlap.width(),
            breadth = upright ? overlap.width() : overlap.height();
  // Lines go along the border, places lie across it.
  const auto at = [&](int line, int place) {
    const int x = upright ? overlap.left + place : overlap.left + line,
              y = upright ? overlap.top + line : overlap.top + place;
    return std::pair{picture_(x, y), tile(x - box.left, y - box.top)};
  };
  const int margin = std::min(ramp / 2, (breadth - 1) / 2), first = margin, end = breadth - margin;
  const auto count = static_cast<std::size_t>(end - first);
  std::vector<float> here(static_cast<std::size_t>(breadth)), cost(count), sum(count), before(count);
  std::vector<std::int8_t> came(static_cast<std::size_t>(length) * count);
  for (int line = 0; line < length; ++line) {
    auto last = at(line, 0);
    for (int place = 0; place < breadth; ++place) {
      const auto pixels = at(line, place);
      // Where both agree, it keeps away from edges: what runs along one would be taken for it.
      const float edge = brightness(pixels.second) - brightness(last.second);
      here[static_cast<std::size_t>(place)] = difference(pixels.first, pixels.second) + 0.1f * edge * edge;
      last = pixels;
    }
    // All that the ramp goes over counts.
    for (std::size_t p = 0; p < count; ++p) {
      cost[p] = 0;
      for (int i = 0; i <= 2 * margin; ++i) cost[p] += here[p + static_cast<std::size_t>(i)];
    }
    for (std::size_t p = 0; p < count; ++p) {
      int from = 0;
      if (line > 0) {
        float least = before[p];
        if (p > 0 && before[p - 1] < least) least = before[p - 1], from = -1;
        if (p + 1 < count && before[p + 1] < least) least = before[p + 1], from = 1;
        sum[p] = least + cost[p];
      } else {
        sum[p] = cost[p];
      }
      came[static_cast<std::size_t>(line) * count + p] = static_cast<std::int8_t>(from);
    }
    std::swap(sum, before);
  }
  Seam seam{upright, upright ? overlap.top : overlap.left, std::vector<int>(static_cast<std::size_t>(length))};
  auto p = static_cast<std::size_t>(std::min_element(before.begin(), before.end()) - before.begin());
  for (int line = length - 1; line >= 0; --line) {
    seam.at[static_cast<std::size_t>(line)] = (upright ? overlap.left : overlap.top) + first + static_cast<int>(p);
    p = static_cast<std::size_t>(static_cast<int>(p) + came[static_cast<std::size_t>(line) * count + p]);
  }
  return seam;
}

void TileJoiner::lay(View<Rgb8> tile) {
  const Box& box = plan_.tiles.at(next_);
  if (tile.size() != box.size()) throw badInput("A tile is not of the size that was asked for.");
  const auto columns = static_cast<std::size_t>(plan_.columns);
  std::optional<Seam> left, top;
  if (next_ % columns > 0) {
    const Box& beside = plan_.tiles[next_ - 1];
    left = seamOf(tile, {box.left, box.top, beside.right, box.bottom}, true);
  }
  if (next_ >= columns) {
    const Box& above = plan_.tiles[next_ - columns];
    top = seamOf(tile, {box.left, box.top, box.right, above.bottom}, false);
  }
  parallelRows(box.height(), [&](int first, int end) {
    for (int y = first; y < end; ++y) {
      const int py = box.top + y;
      for (int x = 0; x < box.width(); ++x) {
        const int px = box.left + x;
        float share = 1;
        if (left) share = std::min(share, shareAt(px - left->at[static_cast<std::size_t>(y)]));
        if (top) share = std::min(share, shareAt(py - top->at[static_cast<std::size_t>(x)]));
        Rgb8& to = picture_(px, py);
        to = share >= 1 ? tile(x, y) : share <= 0 ? to : mixed(to, tile(x, y), share);
      }
    }
  });
  if (left) seams_.push_back(std::move(*left));
  if (top) seams_.push_back(std::move(*top));
  ++next_;
}

Joins TileJoiner::joins() const {
  constexpr int beside = 32;
  double allAcross = 0, allBeside = 0, worst = 0;
  for (const Seam& seam : seams_) {
    double across = 0, near = 0;
    std::int64_t acrossCount = 0, nearCount = 0;
    const int breadth = seam.upright ? picture_.width() : picture_.height();
    for (std::size_t i = 0; i < seam.at.size(); ++i) {
      const int line = seam.first + static_cast<int>(i);
      const auto at = [&](int place) {
        return brightness(seam.upright ? picture_(place, line) : picture_(line, place));
      };
      for (int place = std::max(1, seam.at[i] - beside); place < std::min(breadth, seam.at[i] + beside); ++place) {
        const auto edge = static_cast<double>(at(place) - at(place - 1));
        const int away = std::abs(place - seam.at[i]);
        if (away <= ramp / 2) {
          across += edge * edge;
          ++acrossCount;
        } else if (away > ramp) {
          near += edge * edge;
          ++nearCount;
        }
      }
    }
    if (acrossCount == 0 || nearCount == 0) continue;
    // Below half a step of eight bits nothing is seen.
    constexpr double unseen = 0.25 / (255.0 * 255.0);
    const double a = across / static_cast<double>(acrossCount) + unseen,
                 b = near / static_cast<double>(nearCount) + unseen;
    allAcross += a * static_cast<double>(seam.at.size());
    allBeside += b * static_cast<double>(seam.at.size());
    worst = std::max(worst, a / b);
  }
  return allBeside > 0 ? Joins{allAcross / allBeside, worst} : Joins{};
}

}  // namespace hscaffold
