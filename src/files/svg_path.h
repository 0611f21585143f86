/// The path data of SVG 1.1 (section 8.3) as cubic curves.
#pragma once

#include <string_view>
#include <vector>

#include "core/strokes/stroke.h"

namespace hscaffold {

/// One run of curves: 3 n + 1 points.
struct SvgRun {
  std::vector<Point> points;
  bool closed = false;
};

/// All of `d` up to the first mistake in it, as the standard asks; arcs and quadratic curves become cubic ones.
/// @param most  points after which reading ends.
std::vector<SvgRun> runsOfPath(std::string_view d, std::size_t most);

/// A straight piece to `to`, added to `run`.
void addLine(SvgRun& run, Point to);
/// A whole ellipse.
SvgRun ellipseRun(Point centre, double radiusX, double radiusY);

/// Numbers separated by spaces or commas, up to the first that is none.
std::vector<double> svgNumbers(std::string_view text);

}  // namespace hscaffold
