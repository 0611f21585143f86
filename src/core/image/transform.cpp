#include "core/image/transform.h"

namespace hscaffold {

Image<float> transposed(View<float> picture) {
  Image<float> out(picture.height(), picture.width());
  constexpr int block = 32;
  parallelRows((out.height() + block - 1) / block,
               [&](int first, int end) {
                 for (int y0 = first * block; y0 < std::min(out.height(), end * block); y0 += block)
                   for (int x0 = 0; x0 < out.width(); x0 += block)
                     for (int y = y0; y < std::min(y0 + block, out.height()); ++y)
                       for (int x = x0; x < std::min(x0 + block, out.width()); ++x) out(x, y) = picture(y, x);
               },
               1);
  return out;
}

}  // namespace hscaffold
