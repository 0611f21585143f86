/// Strokes: line art as curves that can be taken hold of.
#pragma once

#include <memory>
#include <vector>

#include "core/image/image.h"
#include "core/image/point.h"
#include "core/problem.h"

namespace hscaffold {

/// A chain of cubic Bezier curves: `points` holds knot, handle, handle, knot, ... (3 n + 1 of them, or a single one for
/// a dot); `widths` one full width in pixels for each knot. A closed stroke ends where it began.
struct Stroke {
  std::vector<Point> points;
  std::vector<double> widths;
  bool closed = false;
  friend bool operator==(const Stroke&, const Stroke&) = default;

  [[nodiscard]] std::size_t curves() const { return points.size() < 4 ? 0 : (points.size() - 1) / 3; }
};

/// A place on a stroke.
struct StrokePlace {
  Point at;
  double width = 0;
};
/// The stroke as a chain of short straight pieces that leave the curve by at most `flatness` pixels.
std::vector<StrokePlace> flattened(const Stroke& stroke, double flatness = 0.15);
double lengthOf(const Stroke& stroke);
double meanWidth(const Stroke& stroke);
/// Distance of `p` to the middle of the stroke.
double distanceTo(const Stroke& stroke, Point p);

/// Map of the strokes, 0 to 65535, anti-aliased: the shape of a round nib that follows the widths.
/// @throws Cancelled
Image<std::uint16_t> drawnStrokes(const std::vector<std::shared_ptr<const Stroke>>& strokes, Size size,
                                  StopToken stop = {});

}  // namespace hscaffold
