#include "core/pose/find/cut_out.h"

#include <algorithm>
#include <cmath>

namespace hscaffold::pose {

Image<Rgb> cutOut(View<Rgb> picture, const Bounds& part) {
  const int left = static_cast<int>(std::floor(part.left)), top = static_cast<int>(std::floor(part.top));
  Image<Rgb> out(std::max(1, static_cast<int>(std::lround(part.width()))),
                 std::max(1, static_cast<int>(std::lround(part.height()))));
  for (int y = 0; y < out.height(); ++y)
    for (int x = 0; x < out.width(); ++x) out(x, y) = picture.clamped(left + x, top + y);
  return out;
}

}  // namespace hscaffold::pose
