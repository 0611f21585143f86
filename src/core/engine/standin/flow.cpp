#include "core/engine/standin/flow.h"

#include <cmath>

#include "core/engine/standin/noise.h"
#include "core/image/filter.h"
#include "core/image/parallel.h"
#include "core/image/tensor.h"

namespace hscaffold::standin {

Image<Direction> flowAlong(View<float> light, float sigma, std::uint64_t seed, const Course& course,
                           std::optional<PartPlace> place) {
  const Size size = light.size();
  const PartPlace at = place.value_or(PartPlace{size});
  const auto tensor = structureTensor(light, sigma);
  Image<Direction> flow(size);
  const float slow = 140.0f * at.unit();
  parallelRows(size.height, [&](int first, int end) {
    NoiseWalk swirls(seed);
    for (int y = first; y < end; ++y) {
      for (int x = 0; x < size.width; ++x) {
        const Rgb t =
            sampleLinear(tensor.view(), (static_cast<float>(x) + 0.5f) / 2, (static_cast<float>(y) + 0.5f) / 2);
        const float difference = t.r - t.b, root = std::sqrt(difference * difference + 4 * t.g * t.g);
        // Across is the larger eigenvector; along is at right angles to it. Twice the angle avoids its sign.
        const float twiceX = -difference, twiceY = -2 * t.g;
        const float swirl = 1.3f * swirls.at(at.x(x) / slow, at.y(y) / slow);
        const float weight = 4e-5f / (root + 4e-5f);
        const float wishX = course.x.empty() ? 0.0f : 2.5f * course.x(x, y);
        const float wishY = course.y.empty() ? 0.0f : 2.5f * course.y(x, y);
        const float mixedX = wishX + twiceX / (root + 1e-9f) * (1 - weight) + std::cos(2 * swirl) * weight;
        const float mixedY = wishY + twiceY / (root + 1e-9f) * (1 - weight) + std::sin(2 * swirl) * weight;
        const float angle = 0.5f * std::atan2(mixedY, mixedX);
        flow(x, y) = {std::cos(angle), std::sin(angle)};
      }
    }
  });
  return flow;
}

Image<float> smearedNoise(const Image<Direction>& flow, int length, float grain, std::uint64_t seed,
                          std::optional<PartPlace> place) {
  const Size size = flow.size();
  const PartPlace at = place.value_or(PartPlace{size});
  Image<float> noise(size), out(size);
  parallelRows(size.height, [&](int first, int end) {
    for (int y = first; y < end; ++y)
      for (int x = 0; x < size.width; ++x) {
        const auto cell = [&](float v) { return static_cast<std::uint64_t>(static_cast<std::int64_t>(v / grain)); };
        noise(x, y) = unit(mixed(seed, cell(at.x(x)), cell(at.y(y))));
      }
  });
  const float spread = 0.29f / std::sqrt(static_cast<float>(2 * length + 1) / grain);
  parallelRows(size.height, [&](int first, int end) {
    for (int y = first; y < end; ++y) {
      for (int x = 0; x < size.width; ++x) {
        float sum = noise(x, y);
        for (const float way : {1.0f, -1.0f}) {
          float px = static_cast<float>(x), py = static_cast<float>(y);
          Direction d = flow(x, y);
          d = {d.x * way, d.y * way};
          for (int i = 0; i < length; ++i) {
            px += d.x;
            py += d.y;
            const int ix = std::clamp(static_cast<int>(px + 0.5f), 0, size.width - 1);
            const int iy = std::clamp(static_cast<int>(py + 0.5f), 0, size.height - 1);
            sum += noise(ix, iy);
            const Direction next = flow(ix, iy);
            const float sign = next.x * d.x + next.y * d.y < 0 ? -1.0f : 1.0f;
            d = {next.x * sign, next.y * sign};
          }
        }
        const float mean = sum / static_cast<float>(2 * length + 1);
        out(x, y) = std::clamp(0.5f + (mean - 0.5f) / (4 * spread), 0.0f, 1.0f);
      }
    }
  });
  return out;
}

}  // namespace hscaffold::standin
