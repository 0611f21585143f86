#include "core/image/resample.h"

#include <cmath>
#include <numbers>
#include <vector>

#include "core/image/colour.h"
#include "core/image/parallel.h"

namespace hscaffold {
namespace {

/// Which source pixels, with which weights, make one target pixel.
struct Taps {
  int first = 0;
  std::vector<float> weights;
};

float lanczos3(float x) {
  constexpr float pi = std::numbers::pi_v<float>;
  x = std::abs(x);
  if (x < 1e-5f) return 1;
  if (x >= 3) return 0;
  return 3 * std::sin(pi * x) * std::sin(pi * x / 3) / (pi * pi * x * x);
}

std::vector<Taps> tapsFor(int source, int target, Resampling method) {
  std::vector<Taps> all(static_cast<std::size_t>(target));
  const double ratio = static_cast<double>(source) / target;
  const double stretch = std::max(1.0, ratio);
  for (int i = 0; i < target; ++i) {
    Taps& taps = all[static_cast<std::size_t>(i)];
    double low = i * ratio, high = (i + 1) * ratio;
    const double centre = (low + high) / 2;
    if (method == Resampling::lanczos3) {
      low = centre - 3 * stretch;
      high = centre + 3 * stretch;
    } else if (ratio < 1) {  // enlarging by area is linear interpolation
      low = centre - 1;
      high = centre + 1;
    }
    const int first = std::clamp(static_cast<int>(std::floor(low)), 0, source - 1);
    const int last = std::clamp(static_cast<int>(std::ceil(high)) - 1, 0, source - 1);
    taps.first = first;
    float sum = 0;
    for (int p = first; p <= last; ++p) {
      double weight = 0;
      if (method == Resampling::lanczos3) {
        weight = static_cast<double>(lanczos3(static_cast<float>((p + 0.5 - centre) / stretch)));
      } else if (ratio < 1) {
        weight = std::max(0.0, 1 - std::abs(p + 0.5 - centre));
      } else {
        weight = std::max(0.0, std::min(high, p + 1.0) - std::max(low, static_cast<double>(p)));
      }
      taps.weights.push_back(static_cast<float>(weight));
      sum += static_cast<float>(weight);
    }
    for (float& weight : taps.weights) weight /= sum;
  }
  return all;
}

/// `load(y, line)` writes source row y in linear light into `line`.
template <typename T, typename Load>
Image<T> separable(Size source, Size target, Resampling method, const StopToken& stop, Load&& load) {
  if (source.area() == 0 || target.area() == 0) return {};
  if (source == target) {
    Image<T> same(target);
    parallelRows(target.height, [&](int first, int end) {
      for (int y = first; y < end && !stop.stop_requested(); ++y)
        load(y, std::span<T>(same.row(y), same.line(y).size()));
    });
    throwIfStopped(stop);
    return same;
  }
  const auto across = tapsFor(source.width, target.width, method);
  const auto down = tapsFor(source.height, target.height, method);
  Image<T> narrow(target.width, source.height);
  parallelRows(source.height, [&](int first, int end) {
    std::vector<T> line(static_cast<std::size_t>(source.width));
    for (int y = first; y < end && !stop.stop_requested(); ++y) {
      load(y, std::span<T>(line));
      T* to = narrow.row(y);
      for (int x = 0; x < target.width; ++x) {
        const Taps& taps = across[static_cast<std::size_t>(x)];
        T sum{};
        const T* from = line.data() + taps.first;
        for (std::size_t k = 0; k < taps.weights.size(); ++k) sum = sum + from[k] * taps.weights[k];
        to[x] = sum;
      }
    }
  });
  throwIfStopped(stop);
  Image<T> out(target);
  parallelRows(target.height, [&](int first, int end) {
    for (int y = first; y < end && !stop.stop_requested(); ++y) {
      const Taps& taps = down[static_cast<std::size_t>(y)];
      T* to = out.row(y);
      for (std::size_t k = 0; k < taps.weights.size(); ++k) {
        const T* from = narrow.row(taps.first + static_cast<int>(k));
        const float weight = taps.weights[k];
        for (int x = 0; x < target.width; ++x) to[x] = to[x] + from[x] * weight;
      }
    }
  });
  throwIfStopped(stop);
  return out;
}

}  // namespace

Size scaledTo(Size size, double longest) {
  const double scale = longest / std::max({size.width, size.height, 1});
  return {std::max(1, static_cast<int>(std::lround(size.width * scale))),
          std::max(1, static_cast<int>(std::lround(size.height * scale)))};
}

Size within(Size size, double longest) {
  return std::max(size.width, size.height) > longest ? scaledTo(size, longest) : size;
}

Image<Rgb> resampled(View<Rgb> picture, Size size, Resampling method, StopToken stop) {
  return separable<Rgb>(picture.size(), size, method, stop, [&](int y, std::span<Rgb> line) {
    std::copy_n(picture.row(y), picture.width(), line.begin());
  });
}

Image<float> resampled(View<float> picture, Size size, Resampling method, StopToken stop) {
  return separable<float>(picture.size(), size, method, stop, [&](int y, std::span<float> line) {
    std::copy_n(picture.row(y), picture.width(), line.begin());
  });
}

Image<Rgb> resampled(View<Rgba16> picture, Size size, Resampling method, StopToken stop) {
  return separable<Rgb>(picture.size(), size, method, stop, [&, linear = srgb16Table()](int y, std::span<Rgb> line) {
    std::transform(picture.row(y), picture.row(y) + picture.width(), line.begin(), [linear](Rgba16 c) {
      const Rgb colour{linear[c.r], linear[c.g], linear[c.b]};
      if (c.a == 65535) return colour;
      const float alpha = static_cast<float>(c.a) / 65535.0f;
      return colour * alpha + Rgb{1, 1, 1} * (1 - alpha);
    });
  });
}

}  // namespace hscaffold
