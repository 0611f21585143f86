/// Places in the plane.
#pragma once

#include <algorithm>
#include <cmath>

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
inline Point normalised(Point a) {
  const double length = lengthOf(a);
  return length > 0 ? a * (1 / length) : a;
}
/// Distance from `p` to the piece of line from `a` to `b`.
inline double distanceToSegment(Point p, Point a, Point b) {
  const Point along = b - a;
  const double squared = dot(along, along);
  const double t = squared > 0 ? std::clamp(dot(p - a, along) / squared, 0.0, 1.0) : 0;
  return distanceBetween(p, a + along * t);
}

}  // namespace hscaffold
