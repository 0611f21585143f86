/// What the lines of a map enclose: masses bounded by strokes that say much, and small cells inside them. Both are
/// found once, from all lines, so that nothing changes its name or value with the weight; how much of it is taken
/// follows from the strokes that are obeyed.
#pragma once

#include <array>
#include <cstdint>
#include <vector>

#include "core/engine/standin/chains.h"
#include "core/engine/standin/composition.h"
#include "core/engine/standin/obedience.h"
#include "core/engine/standin/partition.h"
#include "core/image/components.h"

namespace hscaffold::standin {

struct Mass {
  double area = 0, x = 0, y = 0;                                  ///< pixels; sums of places
  float peak = 0;                                                 ///< of the distance to its lines, in pixels
  bool top = false, bottom = false, left = false, right = false;  ///< where it touches the frame
  Component box;                                                  ///< of its pixels
  bool dense = false;                                             ///< full of strokes
  bool opening = false;                                           ///< between things: what is behind is seen
  std::array<double, Fields::count> sums{};                       ///< of the prompt's own composition inside
  std::array<float, Fields::count> wanted{};                      ///< what the mass is, when it is taken
  [[nodiscard]] bool enclosed() const { return !top && !bottom && !left && !right; }
};

/// Where two masses meet.
struct MassBorder {
  int a = 0, b = 0;
  std::vector<std::int32_t> pixels;  ///< indices, row by row
};

struct Masses {
  Image<std::int32_t> label;
  Image<float> distance;  ///< to the lines that bound masses, in pixels
  std::vector<Mass> all;
  std::vector<MassBorder> borders;
};

/// Where strokes stand so close that they are the texture of something, 255. @param chains  all strokes of the map.
Image<std::uint8_t> denseStrokes(const std::vector<Chain>& chains, Size size);
/// By the strokes that bound something, and round what is dense. @param cords  see `cordsIn`.
Partition massPartition(const std::vector<Chain>& chains, View<std::uint8_t> dense, View<std::uint8_t> cords);
/// Not named yet.
/// @param partition  see `massPartition`.
/// @param dense      see `denseStrokes`.
/// @param place      the prompt's composition without its subject.
Masses massesOf(const Partition& partition, View<std::uint8_t> dense, const Composition& place);

/// Whether a mass goes on beyond the frame on most sides: that is the prompt's own. @param share  of the frame.
bool isOpenLand(const Mass& mass, double share);

/// Which masses are taken: neighbours without an obeyed stroke between them are one; a group is taken if enough of its
/// border is obeyed. @return for each mass the mass whose name it has, or -1
/// @param toObeyed  distance to the nearest obeyed stroke, in pixels.
std::vector<int> takenMasses(const Masses& masses, View<float> toObeyed, const LoadCurve& loads);

}  // namespace hscaffold::standin
