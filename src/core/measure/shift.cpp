#include "core/measure/shift.h"

#include <algorithm>
#include <array>
#include <cmath>
#include <numbers>

#include "core/image/colour.h"
#include "core/image/filter.h"
#include "core/image/parallel.h"

namespace hscaffold {
namespace {

/// Places looked at in each picture: as many quantiles of a distribution.
constexpr std::size_t samples = 2048;
constexpr int scales = 3, orientations = 4;
/// What counts as much as what else: so far off, a share of 1 - 1/e is reached.
constexpr double colourUnit = 26, textureUnit = 0.9;

/// Along each axis, in order.
using Sliced = std::vector<std::vector<float>>;
template <std::size_t N>
using Points = std::vector<std::array<float, N>>;

/// The same places in every picture of a size, spread evenly (R2 sequence, Roberts 2018).
std::pair<int, int> sampleAt(std::size_t i, Size size) {
  const double u = std::fmod(0.5 + 0.7548776662466927 * static_cast<double>(i), 1.0),
               v = std::fmod(0.5 + 0.5698402909980532 * static_cast<double>(i), 1.0);
  return {std::min(size.width - 1, static_cast<int>(u * size.width)),
          std::min(size.height - 1, static_cast<int>(v * size.height))};
}

Points<3> coloursOf(const Image<Rgb>& picture) {
  Points<3> points(samples);
  for (std::size_t i = 0; i < samples; ++i) {
    const auto [x, y] = sampleAt(i, picture.size());
    const CieLab lab = linearToCieLab(picture(x, y));
    points[i] = {lab.l, lab.a, lab.b};
  }
  return points;
}

Points<scales * orientations> textureOf(const Image<Rgb>& picture) {
  const Size size = picture.size();
  Image<float> light(size);
  parallelRows(size.height, [&](int first, int end) {
    for (int y = first; y < end; ++y)
      std::transform(picture.row(y), picture.row(y) + size.width, light.row(y), [](const Rgb& c) {
        // L* of CIELAB; luminance is its Y.
        const float luminous = luminance(c);
        return luminous > 0.008856f ? 1.16f * std::cbrt(luminous) - 0.16f : 9.033f * luminous;
      });
  });
  Points<scales * orientations> points(samples);
  for (int scale = 0; scale < scales; ++scale) {
    const float sigma = static_cast<float>(1 << scale);
    const auto soft = gaussianBlur(light.view(), sigma);
    for (std::size_t i = 0; i < samples; ++i) {
      const auto [x, y] = sampleAt(i, size);
      const View<float> at = soft.view();
      const float gx = sigma * (at.clamped(x + 1, y) - at.clamped(x - 1, y)) / 2;
      const float gy = sigma * (at.clamped(x, y + 1) - at.clamped(x, y - 1)) / 2;
      for (int turn = 0; turn < orientations; ++turn) {
        // First derivatives can be steered to any direction. The logarithm is the eye's: twice as strong is one step.
        const float angle = std::numbers::pi_v<float> * static_cast<float>(turn) / orientations;
        const float response = std::fabs(std::cos(angle) * gx + std::sin(angle) * gy);
        points[i][static_cast<std::size_t>(scale * orientations + turn)] = std::log1p(100 * response);
      }
    }
  }
  return points;
}

/// The points along each of the axes, in order.
template <std::size_t N>
Sliced slicedAlong(const Points<N>& points, const std::vector<std::array<float, N>>& axes) {
  Sliced out(axes.size());
  parallelItems(axes.size(), [&](std::size_t d) {
    auto& along = out[d];
    along.resize(points.size());
    for (std::size_t i = 0; i < points.size(); ++i) {
      float sum = 0;
      for (std::size_t k = 0; k < N; ++k) sum += points[i][k] * axes[d][k];
      along[i] = sum;
    }
    std::sort(along.begin(), along.end());
  });
  return out;
}

/// Mean over directions of the distance that one distribution must be moved to become the other.
double distanceBetween(const Sliced& first, const Sliced& second) {
  double sum = 0;
  for (std::size_t d = 0; d < first.size(); ++d)
    for (std::size_t i = 0; i < samples; ++i) sum += std::abs(static_cast<double>(first[d][i] - second[d][i]));
  return sum / static_cast<double>(samples * first.size());
}

/// Directions spread over the half sphere (Fibonacci lattice).
std::vector<std::array<float, 3>> colourAxes() {
  constexpr int count = 16;
  std::vector<std::array<float, 3>> axes;
  for (int i = 0; i < count; ++i) {
    const double z = (i + 0.5) / count, r = std::sqrt(1 - z * z), turn = std::numbers::pi * (1 + std::sqrt(5.0)) * i;
    axes.push_back(
        {static_cast<float>(z), static_cast<float>(r * std::cos(turn)), static_cast<float>(r * std::sin(turn))});
  }
  return axes;
}

/// Each filter alone, each scale, each direction, and all of them: sums have the length of one.
std::vector<std::array<float, scales * orientations>> textureAxes() {
  std::vector<std::array<float, scales * orientations>> axes;
  const auto add = [&](auto&& counts) {
    std::array<float, scales * orientations> axis{};
    float length = 0;
    for (int s = 0; s < scales; ++s)
      for (int o = 0; o < orientations; ++o) {
        axis[static_cast<std::size_t>(s * orientations + o)] = counts(s, o);
        length += std::fabs(counts(s, o));
      }
    for (float& value : axis) value /= length;
    axes.push_back(axis);
  };
  for (int s = 0; s < scales; ++s)
    for (int o = 0; o < orientations; ++o) add([=](int a, int b) { return a == s && b == o ? 1.0f : 0.0f; });
  for (int s = 0; s < scales; ++s) add([=](int a, int) { return a == s ? 1.0f : 0.0f; });
  for (int o = 0; o < orientations; ++o) add([=](int, int b) { return b == o ? 1.0f : 0.0f; });
  add([](int, int) { return 1.0f; });
  // Fine against coarse.
  add([](int a, int) { return a == 0 ? 1.0f : a == scales - 1 ? -1.0f : 0.0f; });
  return axes;
}

}  // namespace

struct ShiftGround::Distributions {
  Sliced colour, texture;  ///< empty for an empty picture
};

ShiftGround::ShiftGround(const ProofSeen& reference, StopToken stop) {
  static const auto overColours = colourAxes();
  static const auto overTexture = textureAxes();
  auto made = std::make_unique<Distributions>();
  if (!reference.pixels().empty()) {
    const auto& picture = reference.fromAfar(stop);
    made->colour = slicedAlong(coloursOf(picture), overColours);
    throwIfStopped(stop);
    made->texture = slicedAlong(textureOf(picture), overTexture);
  }
  distributions_ = std::move(made);
}

ShiftGround::~ShiftGround() = default;

Shift shiftBetween(const ShiftGround& reference, const ProofSeen& proof, StopToken stop) {
  const ShiftGround other(proof, stop);
  const auto &first = reference.distributions(), &second = other.distributions();
  Shift shift;
  if (first.colour.empty() || second.colour.empty()) return shift;
  shift.colour = distanceBetween(first.colour, second.colour);
  shift.texture = distanceBetween(first.texture, second.texture);
  shift.total = 100 * (1 - std::exp(-std::hypot(shift.colour / colourUnit, shift.texture / textureUnit)));
  return shift;
}

Shift shiftBetween(const ProofSeen& reference, const ProofSeen& proof, StopToken stop) {
  return shiftBetween(ShiftGround(reference, stop), proof, stop);
}

}  // namespace hscaffold
