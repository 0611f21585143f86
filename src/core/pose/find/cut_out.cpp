#include "core/pose/find/cut_out.h"

#include <algorithm>
#include <cmath>
#include <utility>

namespace hscaffold::pose {

Image<Rgb> cutOut(View<Rgb> picture, const Bounds& part) {
  const int left = static_cast<int>(std::floor(part.left)), top = static_cast<int>(std::floor(part.top));
  Image<Rgb> out(std::max(1, static_cast<int>(std::lround(part.width()))),
                 std::max(1, static_cast<int>(std::lround(part.height()))));
  for (int y = 0; y < out.height(); ++y)
    for (int x = 0; x < out.width(); ++x) out(x, y) = picture.clamped(left + x, top + y);
  return out;
}

Point quarterTurned(Point place, int quarters, Size size) {
  for (; quarters > 0; --quarters) {
    place = {size.height - place.y, place.x};
    std::swap(size.width, size.height);
  }
  return place;
}

Point turnedBack(Point place, int quarters, Size size) {
  // Four quarters are none.
  return quarters == 0 ? place
                       : quarterTurned(place, 4 - quarters, quarters % 2 != 0 ? Size{size.height, size.width} : size);
}

Image<Rgb> quarterTurned(View<Rgb> picture, int quarters) {
  const Size size = picture.size();
  Image<Rgb> out(quarters % 2 != 0 ? Size{size.height, size.width} : size);
  for (int y = 0; y < out.height(); ++y)
    for (int x = 0; x < out.width(); ++x) {
      const Point from = turnedBack({x + 0.5, y + 0.5}, quarters, size);
      out(x, y) = picture(static_cast<int>(from.x), static_cast<int>(from.y));
    }
  return out;
}

}  // namespace hscaffold::pose
