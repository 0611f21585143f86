#include "core/image/tensor.h"

#include "core/image/filter.h"
#include "core/image/parallel.h"

namespace hscaffold {

Image<Rgb> structureTensor(View<float> light, float sigma) {
  const auto small = halved(light);
  Image<Rgb> tensor(small.size());
  parallelRows(small.height(), [&](int first, int end) {
    for (int y = first; y < end; ++y)
      for (int x = 0; x < small.width(); ++x) {
        const auto s = small.view();
        const float gx = s.clamped(x + 1, y) - s.clamped(x - 1, y), gy = s.clamped(x, y + 1) - s.clamped(x, y - 1);
        tensor(x, y) = {gx * gx, gx * gy, gy * gy};
      }
  });
  return broadBlur(tensor.view(), sigma / 2);
}

}  // namespace hscaffold
