#include "core/measure/along_lines.h"

#include <cmath>
#include <numbers>

#include "core/image/distance.h"
#include "core/image/parallel.h"
#include "core/image/tensor.h"

namespace hscaffold {
namespace {

constexpr std::uint8_t set = 128;

/// By so many ways two of them differ, round the half turn.
int between(int a, int b) {
  const int apart = std::abs(a - b);
  return std::min(apart, anyWay - apart);
}

}  // namespace

Image<std::uint8_t> waysOf(View<std::uint8_t> lines) {
  constexpr float smoothing = 1.5f;
  constexpr float clear = 0.4f;  // of the tensor's strength must lie across one way
  Image<float> picture(lines.size());
  for (int y = 0; y < lines.height(); ++y)
    for (int x = 0; x < lines.width(); ++x) picture(x, y) = lines(x, y) >= set ? 1.0f : 0.0f;
  const auto tensor = structureTensor(picture, smoothing);
  Image<std::uint8_t> out(lines.width(), lines.height(), anyWay);
  for (int y = 0; y < lines.height(); ++y)
    for (int x = 0; x < lines.width(); ++x) {
      if (lines(x, y) < set) continue;
      const Rgb t = tensor(x / 2, y / 2);
      if (std::hypot(t.r - t.b, 2 * t.g) < clear * (t.r + t.b)) continue;
      const float along = 0.5f * std::atan2(-2 * t.g, t.b - t.r) / std::numbers::pi_v<float>;  // half turns
      const auto way = static_cast<int>(std::lround(along * anyWay));
      out(x, y) = static_cast<std::uint8_t>((way + anyWay) % anyWay);
    }
  return out;
}

AlongLines::AlongLines(View<std::uint8_t> lines) : to_(anyWay + 1) {
  const auto ways = waysOf(lines);
  parallelItems(to_.size(), [&](std::size_t way) {
    Image<std::uint8_t> those(lines.size());
    for (int y = 0; y < lines.height(); ++y)
      for (int x = 0; x < lines.width(); ++x)
        if (lines(x, y) >= set &&
            (way == anyWay || ways(x, y) == anyWay || between(static_cast<int>(way), ways(x, y)) <= 1))
          those(x, y) = 255;
    to_[way] = distanceToSet(those);
  });
}

}  // namespace hscaffold
