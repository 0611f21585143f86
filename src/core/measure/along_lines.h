/// Distances to lines that run the same way: one that crosses another does not follow it.
#pragma once

#include <array>

#include "core/image/image.h"

namespace hscaffold {

/// Ways a line can run: eighths of half a turn, counted from level, clockwise; and one for what runs no clear way.
inline constexpr std::uint8_t anyWay = 8;

/// By so many ways two of them differ, round the half turn. Neither may be `anyWay`.
inline int waysBetween(int a, int b) {
  const int apart = a > b ? a - b : b - a;
  return apart < anyWay - apart ? apart : anyWay - apart;
}

/// The way that thin lines run at each of their pixels (128 or more): the main axis of the pixels about it.
Image<std::uint8_t> waysOf(View<std::uint8_t> lines);

class AlongLines {
 public:
  /// @param lines  thin; 128 or more where they are.
  explicit AlongLines(View<std::uint8_t> lines);

  /// In pixels, to the nearest line that runs the way, at most an eighth of half a turn beside it, or no clear way.
  /// @param atMost  what lies farther off is that far, up to 255.
  [[nodiscard]] float distance(int x, int y, std::uint8_t way, float atMost) const;

 private:
  /// By way: how far above or below the nearest of its lines is in the same column, 255 at most.
  std::array<Image<std::uint8_t>, anyWay + 1> upright_;
};

}  // namespace hscaffold
