/// What hangs together with a place.
#pragma once

#include <utility>
#include <vector>

#include "core/image/image.h"

namespace hscaffold {

/// What can be reached from a place within a picture by steps over 4 neighbours, 255 or 0.
/// @param may  may(x, y, nextX, nextY): whether that step can be taken
template <typename May>
Image<std::uint8_t> reachedFrom(Size size, int x, int y, May&& may) {
  Image<std::uint8_t> out(size);
  std::vector<std::pair<int, int>> open{{x, y}};
  out(x, y) = 255;
  while (!open.empty()) {
    const auto [px, py] = open.back();
    open.pop_back();
    for (const auto& [dx, dy] : {std::pair{1, 0}, {-1, 0}, {0, 1}, {0, -1}}) {
      const int nx = px + dx, ny = py + dy;
      if (nx < 0 || ny < 0 || nx >= size.width || ny >= size.height || out(nx, ny) != 0 || !may(px, py, nx, ny))
        continue;
      out(nx, ny) = 255;
      open.emplace_back(nx, ny);
    }
  }
  return out;
}

}  // namespace hscaffold
