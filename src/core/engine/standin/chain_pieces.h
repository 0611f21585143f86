/// Strokes that are decided together: what hangs together in a map is obeyed as one, or not at all.
#pragma once

#include <vector>

#include "core/engine/standin/chains.h"

namespace hscaffold::standin {

constexpr double muchOfAMap = 0.35;  ///< of all length; what is longer is not decided as one

/// Gives each chain the mean salience of what it is decided with. A piece that is much of the map is not decided all at
/// once: most of it is, and the rest by the smaller pieces that lie apart at the map's own size, or stroke by stroke.
/// @param chains  most salient first
/// @param mask    lines at the layout's size, where 0 is none
/// @param map     the same lines at the map's own size, above a half is line
/// @return for each chain the part it is decided with, or -1: it is decided by itself
std::vector<std::int32_t> shareInPieces(std::vector<Chain>& chains, View<std::uint8_t> mask, View<std::uint16_t> map);

}  // namespace hscaffold::standin
