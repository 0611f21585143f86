#include "core/lines/line_flow.h"

#include <cmath>
#include <vector>

#include "core/image/parallel.h"
#include "core/image/tensor.h"

namespace hscaffold {
namespace {

constexpr int block = 16;

/// Whether anything in a block or beside it exceeds `least`.
Image<std::uint8_t> blocksAbove(const Image<float>& picture, float least) {
  Image<std::uint8_t> own((picture.width() + block - 1) / block, (picture.height() + block - 1) / block);
  parallelRows(
      own.height(),
      [&](int first, int end) {
        for (int y = first * block; y < std::min(picture.height(), end * block); ++y)
          for (int x = 0; x < picture.width(); ++x)
            if (picture(x, y) > least) own(x / block, y / block) = 1;
      },
      1);
  Image<std::uint8_t> near(own.size());
  for (int y = 0; y < own.height(); ++y)
    for (int x = 0; x < own.width(); ++x)
      for (int dy = -1; dy <= 1; ++dy)
        for (int dx = -1; dx <= 1; ++dx) near(x, y) |= own.view().clamped(x + dx, y + dy);
  return near;
}

}  // namespace

Image<LineDirection> lineFlow(View<float> picture, float sigma) {
  const auto tensor = structureTensor(picture, sigma);
  Image<LineDirection> out(tensor.size());
  parallelRows(out.height(), [&](int first, int end) {
    for (int y = first; y < end; ++y)
      for (int x = 0; x < out.width(); ++x) {
        const Rgb t = tensor(x, y);
        // The minor eigenvector by half of its angle.
        const float angle = 0.5f * std::atan2(-2 * t.g, t.b - t.r);
        out(x, y) = {std::cos(angle), std::sin(angle)};
      }
  });
  return out;
}

Image<float> alongFlow(const Image<float>& picture, const Image<LineDirection>& flow, float sigma, float least,
                       const StopToken& stop) {
  if (sigma < 0.3f) return picture.clone();
  const int steps = std::max(1, static_cast<int>(std::ceil(2 * sigma)));
  std::vector<float> weights;
  for (int i = 0; i <= steps; ++i) weights.push_back(std::exp(-0.5f * static_cast<float>(i * i) / (sigma * sigma)));
  Image<float> out(picture.size());
  const int width = out.width(), height = out.height();
  const auto wanted = blocksAbove(picture, least);
  parallelRows(height, [&](int first, int end) {
    if (stop.stop_requested()) return;
    for (int y = first; y < end; ++y)
      for (int x = 0; x < width; ++x) {
        if (wanted(x / block, y / block) == 0) {
          out(x, y) = picture(x, y);
          continue;
        }
        float sum = picture(x, y), total = 1;
        const LineDirection start = flow(x / 2, y / 2);
        for (const float way : {1.0f, -1.0f}) {
          LineDirection d{start.x * way, start.y * way};
          float px = static_cast<float>(x) + 0.5f, py = static_cast<float>(y) + 0.5f;
          for (int i = 1; i <= steps; ++i) {
            px += d.x;
            py += d.y;
            if (px < 0 || py < 0 || px >= static_cast<float>(width) || py >= static_cast<float>(height)) break;
            const int ix = static_cast<int>(px), iy = static_cast<int>(py);
            sum += weights[static_cast<std::size_t>(i)] * picture(ix, iy);
            total += weights[static_cast<std::size_t>(i)];
            const LineDirection next = flow(ix / 2, iy / 2);
            const float sign = next.x * d.x + next.y * d.y < 0 ? -1.0f : 1.0f;
            d = {next.x * sign, next.y * sign};
          }
        }
        out(x, y) = sum / total;
      }
  });
  throwIfStopped(stop);
  return out;
}

}  // namespace hscaffold
