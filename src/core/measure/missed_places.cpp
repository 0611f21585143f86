#include "core/measure/missed_places.h"

#include <algorithm>
#include <array>
#include <cmath>

#include "core/measure/moments.h"

namespace hscaffold {
namespace {

/// Blocks across the longer side: what lies in neighbouring blocks stands together.
constexpr int blocksAcross = 16;

/// How what was missed runs: "upright", "long level line", "shape".
std::string shapeName(const Moments& of, double longest) {
  const auto spread = of.spread();
  const double xx = spread.xx / of.mass, yy = spread.yy / of.mass, xy = spread.xy / of.mass;
  const double middle = (xx + yy) / 2, apart = std::hypot((xx - yy) / 2, xy);
  const double along = middle + apart, across = std::max(0.25, middle - apart);
  constexpr double line = 12;  // variance along a line, against that across it
  if (along < line * across) return "shape";
  constexpr double degrees = 57.29578;
  const double angle = degrees * 0.5 * std::atan2(2 * xy, xx - yy);  // 0 level, 90 upright; y runs down
  const char* way = std::abs(angle) > 65   ? "upright"
                    : std::abs(angle) < 25 ? "level line"
                    : angle > 0            ? "falling line"
                                           : "rising line";
  // Evenly along a line, its length is the root of twelve times its variance.
  return (std::sqrt(12 * along) > 0.3 * longest ? "long " : "") + std::string(way);
}

std::string in(const std::string& place) {
  return (place == "left" || place == "right" ? " on the " : " in the ") + place;
}

}  // namespace

std::string placeName(double x, double y, Size frame) {
  static constexpr std::array<const char*, 9> names = {"upper left", "upper middle", "upper right",
                                                       "left",       "middle",       "right",
                                                       "lower left", "lower middle", "lower right"};
  const auto third = [](double at, int size) { return std::clamp(static_cast<int>(3 * at / std::max(1, size)), 0, 2); };
  return names[static_cast<std::size_t>(3 * third(y, frame.height) + third(x, frame.width))];
}

std::vector<MissedPlace> missedPlaces(View<std::uint16_t> misses, std::size_t most, Named named) {
  if (misses.empty()) return {};
  const int block = std::max(4, (std::max(misses.width(), misses.height()) + blocksAcross - 1) / blocksAcross);
  struct Block {
    Moments of;
    bool taken = false;
  };
  const int columns = (misses.width() + block - 1) / block, rows = (misses.height() + block - 1) / block;
  std::vector<Block> blocks(static_cast<std::size_t>(columns * rows));
  const auto at = [&](int column, int row) -> Block& {
    return blocks[static_cast<std::size_t>(row * columns + column)];
  };
  double all = 0;
  for (int y = 0; y < misses.height(); ++y)
    for (int x = 0; x < misses.width(); ++x)
      if (misses(x, y) > 0) {
        at(x / block, y / block).of.add(x + 0.5, y + 0.5);
        all += 1;
      }
  std::vector<MissedPlace> places;
  if (all <= 0) return places;
  // From the fullest block on, as far as neighbours are at least a third as full: long thin rests do not join all.
  for (;;) {
    int bestColumn = 0, bestRow = 0;
    double fullest = 0;
    for (int row = 0; row < rows; ++row)
      for (int column = 0; column < columns; ++column)
        if (!at(column, row).taken && at(column, row).of.mass > fullest) {
          fullest = at(column, row).of.mass;
          bestColumn = column;
          bestRow = row;
        }
    if (fullest <= 0 || fullest < 0.01 * all) break;
    MissedPlace place;
    Moments sum;
    int left = columns, right = 0, top = rows, bottom = 0;
    std::vector<std::pair<int, int>> open{{bestColumn, bestRow}};
    at(bestColumn, bestRow).taken = true;
    while (!open.empty()) {
      const auto [column, row] = open.back();
      open.pop_back();
      sum += at(column, row).of;
      left = std::min(left, column), right = std::max(right, column);
      top = std::min(top, row), bottom = std::max(bottom, row);
      for (int dy = -1; dy <= 1; ++dy)
        for (int dx = -1; dx <= 1; ++dx) {
          const int c = column + dx, r = row + dy;
          if (c < 0 || r < 0 || c >= columns || r >= rows || at(c, r).taken || at(c, r).of.mass < fullest / 3) continue;
          at(c, r).taken = true;
          open.emplace_back(c, r);
        }
    }
    place.x = sum.x / sum.mass;
    place.y = sum.y / sum.mass;
    place.share = sum.mass / all;
    place.extent = block * (1 + std::max(right - left, bottom - top));
    place.name = placeName(place.x, place.y, misses.size());
    if (named == Named::byShape)
      place.name = shapeName(sum, std::max(misses.width(), misses.height())) + in(place.name);
    if (place.share >= 0.05) places.push_back(std::move(place));
  }
  std::stable_sort(places.begin(), places.end(),
                   [](const MissedPlace& a, const MissedPlace& b) { return a.share > b.share; });
  if (places.size() > most) places.resize(most);
  return places;
}

}  // namespace hscaffold
