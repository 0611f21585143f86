/// Regions taken from what maps know: a figure or a part of it, a surface of a depth map, an area between lines.
#pragma once

#include <optional>

#include "core/finish/touch_region.h"
#include "core/pose/figure.h"

namespace hscaffold {

struct Thing {
  TouchRegion region;
  std::string name;  ///< "head of Figure 2"
};

/// The figure at a place; on its head or a hand only that. None where no figure is.
/// @param at  in pixels of the figures' frame
std::optional<Thing> figureAt(const pose::Figures& figures, Point at);

/// The surface of a depth map at a place: as far as depth goes on without a jump. None if that is nearly all of it.
/// @param at  in shares of width and height
std::optional<Thing> surfaceAt(View<std::uint16_t> depth, Point at);

/// The area that lines close in round a place, gaps of a few pixels counted as closed. None if nothing closes it in.
std::optional<Thing> areaAt(View<std::uint16_t> lines, Point at);

}  // namespace hscaffold
