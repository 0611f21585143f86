#include "core/measure/missed_places.h"

#include <algorithm>
#include <array>
#include <cmath>

namespace hscaffold {
namespace {

/// Blocks across the longer side: what lies in neighbouring blocks stands together.
constexpr int blocksAcross = 16;

}  // namespace

std::string placeName(double x, double y, Size frame) {
  static constexpr std::array<const char*, 9> names = {"upper left", "upper middle", "upper right",
                                                       "left",       "middle",       "right",
                                                       "lower left", "lower middle", "lower right"};
  const auto third = [](double at, int size) { return std::clamp(static_cast<int>(3 * at / std::max(1, size)), 0, 2); };
  return names[static_cast<std::size_t>(3 * third(y, frame.height) + third(x, frame.width))];
}

std::vector<MissedPlace> missedPlaces(View<std::uint16_t> misses, std::size_t most) {
  if (misses.empty()) return {};
  const int block = std::max(4, (std::max(misses.width(), misses.height()) + blocksAcross - 1) / blocksAcross);
  struct Block {
    double mass = 0, x = 0, y = 0;
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
        Block& of = at(x / block, y / block);
        of.mass += 1;
        of.x += x + 0.5;
        of.y += y + 0.5;
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
        if (!at(column, row).taken && at(column, row).mass > fullest) {
          fullest = at(column, row).mass;
          bestColumn = column;
          bestRow = row;
        }
    if (fullest <= 0 || fullest < 0.01 * all) break;
    MissedPlace place;
    double mass = 0;
    int left = columns, right = 0, top = rows, bottom = 0;
    std::vector<std::pair<int, int>> open{{bestColumn, bestRow}};
    at(bestColumn, bestRow).taken = true;
    while (!open.empty()) {
      const auto [column, row] = open.back();
      open.pop_back();
      const Block& of = at(column, row);
      mass += of.mass;
      place.x += of.x;
      place.y += of.y;
      left = std::min(left, column), right = std::max(right, column);
      top = std::min(top, row), bottom = std::max(bottom, row);
      for (int dy = -1; dy <= 1; ++dy)
        for (int dx = -1; dx <= 1; ++dx) {
          const int c = column + dx, r = row + dy;
          if (c < 0 || r < 0 || c >= columns || r >= rows || at(c, r).taken || at(c, r).mass < fullest / 3) continue;
          at(c, r).taken = true;
          open.emplace_back(c, r);
        }
    }
    place.x /= mass;
    place.y /= mass;
    place.share = mass / all;
    place.extent = block * (1 + std::max(right - left, bottom - top));
    place.name = placeName(place.x, place.y, misses.size());
    if (place.share >= 0.05) places.push_back(std::move(place));
  }
  std::stable_sort(places.begin(), places.end(),
                   [](const MissedPlace& a, const MissedPlace& b) { return a.share > b.share; });
  if (places.size() > most) places.resize(most);
  return places;
}

}  // namespace hscaffold
