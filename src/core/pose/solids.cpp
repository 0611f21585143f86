#include "core/pose/solids.h"

#include <algorithm>
#include <cmath>

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

void drawOutline(Image<std::uint16_t>& into, const Figure& figure) {
  const auto body = solidsOf(figure);
  // One pixel more on each side, so that the frame is no outline.
  Image<std::uint8_t> inside(into.width() + 2, into.height() + 2);
  for (const PlacedSolid& solid : body) {
    const double reach = std::max(solid.radiusA, solid.radiusB);
    const auto pixel = [](double at, int size) { return std::clamp(static_cast<int>(std::floor(at)), -1, size); };
    const int left = pixel(std::min(solid.a.x, solid.b.x) - reach, into.width()),
              right = pixel(std::max(solid.a.x, solid.b.x) + reach, into.width()),
              top = pixel(std::min(solid.a.y, solid.b.y) - reach, into.height()),
              bottom = pixel(std::max(solid.a.y, solid.b.y) + reach, into.height());
    for (int y = top; y <= bottom; ++y)
      for (int x = left; x <= right; ++x)
        if (distanceTo(solid, {x + 0.5, y + 0.5}) < 0) inside(x + 1, y + 1) = 1;
  }
  for (int y = 0; y < into.height(); ++y)
    for (int x = 0; x < into.width(); ++x)
      if (inside(x + 1, y + 1) != 0 &&
          (inside(x, y + 1) & inside(x + 2, y + 1) & inside(x + 1, y) & inside(x + 1, y + 2)) == 0)
        into(x, y) = 65535;
}

}  // namespace hscaffold::pose
