#include "core/image/distance.h"

#include <cmath>
#include <vector>

#include "core/image/parallel.h"

namespace hscaffold {
namespace {

constexpr std::uint8_t half = 128;

/// Distance along columns, a block of columns at a time so that neighbours share cache lines.
void alongColumns(View<std::uint8_t> map, Image<float>& out, float far) {
  constexpr int block = 64;
  const int width = map.width(), height = map.height();
  parallelRows((width + block - 1) / block,
               [&](int firstBlock, int endBlock) {
                 const int x0 = firstBlock * block, x1 = std::min(width, endBlock * block);
                 for (int y = 0; y < height; ++y)
                   for (int x = x0; x < x1; ++x)
                     out(x, y) = map(x, y) >= half ? 0 : (y > 0 ? std::min(far, out(x, y - 1) + 1) : far);
                 for (int y = height - 2; y >= 0; --y)
                   for (int x = x0; x < x1; ++x) out(x, y) = std::min(out(x, y), out(x, y + 1) + 1);
               },
               1);
}

}  // namespace

Image<float> distanceToSet(View<std::uint8_t> map) {
  const int width = map.width(), height = map.height();
  Image<float> out(width, height);
  alongColumns(map, out, static_cast<float>(width + height));
  parallelRows(height, [&](int first, int end) {
    const auto count = static_cast<std::size_t>(width);
    std::vector<float> f(count), bound(count + 1);
    std::vector<int> vertex(count);
    // The lower envelope of one parabola for each column.
    const auto meeting = [&](int q, int v) {
      const auto fq = static_cast<float>(q), fv = static_cast<float>(v);
      return ((f[static_cast<std::size_t>(q)] + fq * fq) - (f[static_cast<std::size_t>(v)] + fv * fv)) /
             (2 * fq - 2 * fv);
    };
    for (int y = first; y < end; ++y) {
      for (int x = 0; x < width; ++x) f[static_cast<std::size_t>(x)] = out(x, y) * out(x, y);
      std::size_t k = 0;
      vertex[0] = 0;
      bound[0] = -1e20f;
      bound[1] = 1e20f;
      for (int q = 1; q < width; ++q) {
        float s = meeting(q, vertex[k]);
        while (s <= bound[k]) s = meeting(q, vertex[--k]);
        vertex[++k] = q;
        bound[k] = s;
        bound[k + 1] = 1e20f;
      }
      k = 0;
      for (int q = 0; q < width; ++q) {
        while (bound[k + 1] < static_cast<float>(q)) ++k;
        const auto d = static_cast<float>(q - vertex[k]);
        out(q, y) = std::sqrt(d * d + f[static_cast<std::size_t>(vertex[k])]);
      }
    }
  });
  return out;
}

}  // namespace hscaffold
