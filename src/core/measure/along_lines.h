/// Distances to lines that run the same way: one that crosses another does not follow it.
#pragma once

#include <vector>

#include "core/image/image.h"

namespace hscaffold {

/// Ways a line can run: eighths of half a turn, counted from level, clockwise; and one for what runs no clear way.
inline constexpr std::uint8_t anyWay = 8;

/// The way that lines run at each of their pixels (128 or more), by the structure tensor of the map.
Image<std::uint8_t> waysOf(View<std::uint8_t> lines);

class AlongLines {
 public:
  /// @param lines  128 or more where they are.
  explicit AlongLines(View<std::uint8_t> lines);

  /// In pixels, to the nearest line that runs the way, at most an eighth of half a turn beside it, or no clear way.
  [[nodiscard]] float distance(int x, int y, std::uint8_t way) const { return to_[way](x, y); }

 private:
  std::vector<Image<float>> to_;  ///< by way
};

}  // namespace hscaffold
