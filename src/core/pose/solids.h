/// A figure's body as round, tapered limbs in the picture.
#pragma once

#include <vector>

#include "core/image/image.h"
#include "core/pose/figure.h"

namespace hscaffold::pose {

/// A solid of the skeleton where it lies on a figure, in frame pixels.
struct PlacedSolid {
  const Solid* solid = nullptr;
  Point a, b;
  double radiusA = 0, radiusB = 0;
  bool hidden = false;  ///< its far end is behind something
};

/// All solids whose ends are there, in the skeleton's order.
std::vector<PlacedSolid> solidsOf(const Figure& figure);

/// The middle of those points that are there; empty if none is.
std::optional<Point> middleOf(const Figure& figure, const std::vector<std::size_t>& points);

/// From the outline of a solid to a point, in pixels; negative inside.
double distanceTo(const PlacedSolid& solid, Point p);

/// The outline of a figure's body, of all its solids together: 65535 on lines one pixel wide. @param into  of the frame.
void drawOutline(Image<std::uint16_t>& into, const Figure& figure);

}  // namespace hscaffold::pose
