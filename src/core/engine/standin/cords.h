/// Cords: strings, stays and ropes. A long thin line that alone joins two things has the same ground on both sides: it
/// bounds nothing.
#pragma once

#include <cstdint>
#include <vector>

#include "core/engine/standin/chains.h"

namespace hscaffold::standin {

/// Where cords lie, 255. A cord is long and nearly straight, not level (as horizons are), with little beside it, and a
/// bridge of the drawing: what is at one end, or where it would go on, hangs together with what is at the other by
/// nothing else, so that no outline needs it (bridges of a graph; Tarjan 1974). Its two edges, as a map of edges has
/// them, are one line.
/// @param lines  above a half is line
Image<std::uint8_t> cordsIn(View<float> lines);

/// Places of a path, from `first` on, up to `end`.
struct Run {
  std::size_t first = 0, end = 0;
};
/// What of a chain is a cord. @param cords  see `cordsIn`.
std::vector<Run> alongCords(const Chain& chain, View<std::uint8_t> cords);

}  // namespace hscaffold::standin
