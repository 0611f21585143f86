/// Strokes: line art as curves that can be taken hold of.
#pragma once

#include <cmath>
#include <memory>
#include <vector>

#include "core/image/image.h"
#include "core/problem.h"

namespace hscaffold {

/// A place in the frame, in pixels; pixel centres at +0.5.
struct Point {
  double x = 0, y = 0;
  friend bool operator==(const Point&, const Point&) = default;
  friend Point operator+(Point a, Point b) { return {a.x + b.x, a.y + b.y}; }
  friend Point operator-(Point a, Point b) { return {a.x - b.x, a.y - b.y}; }
  friend Point operator*(Point a, double s) { return {a.x * s, a.y * s}; }
};
inline double dot(Point a, Point b) { return a.x * b.x + a.y * b.y; }
inline double lengthOf(Point a) { return std::hypot(a.x, a.y); }
inline double distanceBetween(Point a, Point b) { return lengthOf(a - b); }
/// Turned by the angle of this cosine and sine, clockwise in the picture; scaled by what both are scaled by.
inline Point rotatedBy(Point v, double cosine, double sine) {
  return {cosine * v.x - sine * v.y, sine * v.x + cosine * v.y};
}
/// Unit length; {0, 0} stays.
Point normalised(Point a);
/// Distance from `p` to the piece of line from `a` to `b`.
double distanceToSegment(Point p, Point a, Point b);

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
