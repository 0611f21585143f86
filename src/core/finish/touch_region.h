/// Where a touch-up acts: shapes that are drawn, kept in shares of the picture so that they stay whatever its size.
#pragma once

#include <nlohmann/json_fwd.hpp>
#include <string>
#include <vector>

#include "core/image/part.h"
#include "core/image/point.h"

namespace hscaffold {

class Mended;

inline constexpr std::size_t mostShapes = 2000, mostShapePlaces = 20'000;

/// One thing drawn: a stroke of the brush, or an area within closed lines (even-odd: a line within another makes a
/// hole). Places in shares of width and height.
struct TouchShape {
  bool brush = false;
  bool takes = false;  ///< away from what is there, in place of adding to it
  double width = 0;    ///< of the brush, in shares of the longer side
  std::vector<std::vector<Point>> lines;
  friend bool operator==(const TouchShape&, const TouchShape&) = default;
};

/// In the order in which they were drawn.
using TouchRegion = std::vector<TouchShape>;

/// Places within their limits and to a hundredth of a pixel of the largest frame; no more than files hold.
void keepWithinLimits(TouchRegion& region);

/// What a region covers of a part of a picture of this size, [0, 1]; borders are smooth over one pixel.
/// @param feather  pixels over which it fades beyond its border; further away it is 0 to the last bit
Image<float> maskOf(const TouchRegion& region, Size whole, const Box& part, double feather = 0);
/// All that it covers, feather included, within the picture; empty if it covers nothing.
Box boundsOf(const TouchRegion& region, Size whole, double feather = 0);

/// The area of what is set (not 0) in a mask that shows the whole picture, small or not: its outlines within about a
/// pixel.
TouchShape shapeFrom(View<std::uint8_t> mask);

/// What is joined to a place and nearly of its colour (flood over 4 neighbours), 255 or 0; of the picture's size.
/// @param tolerance  difference in OKLab, [0, 1]
Image<std::uint8_t> ofOneColour(View<Rgb8> picture, int x, int y, double tolerance);

nlohmann::json regionToJson(const TouchRegion& region);
/// @throws Problem (badInput)
TouchRegion regionFromJson(const nlohmann::json& json, const std::string& where, Mended* mended = nullptr);

}  // namespace hscaffold
