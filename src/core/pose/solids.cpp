#include "core/pose/solids.h"

#include <algorithm>

namespace hscaffold::pose {

std::optional<Point> middleOf(const Figure& figure, const std::vector<std::size_t>& points) {
  Point sum;
  double count = 0;
  for (const std::size_t i : points)
    if (figure.points[i].there()) {
      sum = sum + figure.points[i].at;
      ++count;
    }
  if (count == 0) return {};
  return sum * (1 / count);
}

std::vector<PlacedSolid> solidsOf(const Figure& figure) {
  const double size = sizeOf(figure);
  std::vector<PlacedSolid> out;
  for (const Solid& solid : figure.kind().solids) {
    const auto a = middleOf(figure, solid.from), b = middleOf(figure, solid.to);
    if (!a || !b) continue;
    const bool hidden = std::any_of(solid.to.begin(), solid.to.end(),
                                    [&](std::size_t i) { return figure.points[i].presence == Presence::hidden; });
    out.push_back({&solid, *a, *b, solid.radiusFrom * size, solid.radiusTo * size, hidden});
  }
  return out;
}

double distanceTo(const PlacedSolid& solid, Point p) {
  const Point way = solid.b - solid.a, off = p - solid.a;
  const double square = dot(way, way);
  const double t = square > 0 ? std::clamp(dot(off, way) / square, 0.0, 1.0) : 0;
  return lengthOf(off - way * t) - (solid.radiusA + t * (solid.radiusB - solid.radiusA));
}

}  // namespace hscaffold::pose
