#include "core/edges/gradient.h"

#include <cmath>
#include <numeric>

// The same source is compiled for wider vectors too and chosen when the program starts; whole numbers give the same
// result either way.
#if defined(__x86_64__) && !defined(__SANITIZE_ADDRESS__)
#define HSCAFFOLD_WIDE __attribute__((target_clones("arch=skylake-avx512", "avx2", "default")))
#else
#define HSCAFFOLD_WIDE
#endif

namespace hscaffold::edges_detail {
namespace {

HSCAFFOLD_WIDE void filterAcross(const std::int32_t* padded, int width, const std::int32_t* smooth,
                                 const std::int32_t* slope, int radius, std::int32_t* smoothed, std::int32_t* sloped) {
  const std::int32_t* middle = padded + radius;
  for (int x = 0; x < width; ++x) {
    smoothed[x] = middle[x] * smooth[0];
    sloped[x] = 0;
  }
  for (int k = 1; k <= radius; ++k) {
    const std::int32_t s = smooth[k], d = slope[k];
    for (int x = 0; x < width; ++x) {
      const std::int32_t left = middle[x - k], right = middle[x + k];
      smoothed[x] += s * (left + right);
      sloped[x] += d * (right - left);
    }
  }
}

/// Four rows of the kernel at a time would not help: sums stay in the first-level cache, block by block.
HSCAFFOLD_WIDE void filterDown(const std::int32_t* const* smoothed, const std::int32_t* const* sloped, int width,
                               const std::int32_t* smooth, const std::int32_t* slope, int radius, std::int32_t* across,
                               std::int32_t* down) {
  constexpr int block = 512;
  for (int x0 = 0; x0 < width; x0 += block) {
    const int x1 = std::min(width, x0 + block);
    const std::int32_t* centre = sloped[radius];
    for (int x = x0; x < x1; ++x) {
      across[x] = centre[x] * smooth[0];
      down[x] = 0;
    }
    for (int k = 1; k <= radius; ++k) {
      const std::int32_t s = smooth[k], d = slope[k];
      const std::int32_t *above = sloped[radius - k], *below = sloped[radius + k];
      const std::int32_t *aboveS = smoothed[radius - k], *belowS = smoothed[radius + k];
      for (int x = x0; x < x1; ++x) {
        across[x] += s * (above[x] + below[x]);
        down[x] += d * (belowS[x] - aboveS[x]);
      }
    }
  }
}

}  // namespace

Kernels kernelsFor(double sigma) {
  const int radius = std::max(1, static_cast<int>(std::ceil(3 * sigma)));
  std::vector<double> smooth, slope;
  double smoothSum = 0, slopeSum = 0;
  for (int k = 0; k <= radius; ++k) {
    const double value = std::exp(-0.5 * k * k / (sigma * sigma));
    smooth.push_back(value);
    slope.push_back(k * value);
    smoothSum += k == 0 ? value : 2 * value;
    slopeSum += 2 * k * value;
  }
  Kernels kernels;
  for (int k = 0; k <= radius; ++k) {
    const auto i = static_cast<std::size_t>(k);
    kernels.smooth.push_back(static_cast<std::int32_t>(std::lround(smooth[i] / smoothSum * 512)));
    kernels.slope.push_back(static_cast<std::int32_t>(std::lround(slope[i] / slopeSum * 512)));
  }
  // Rounding leaves a small surplus: the middle of the one and the peak of the other take it.
  const auto twice = [](const std::vector<std::int32_t>& half) {
    return 2 * std::accumulate(half.begin() + 1, half.end(), 0);
  };
  kernels.smooth[0] = 512 - twice(kernels.smooth);
  auto peak = std::max_element(kernels.slope.begin(), kernels.slope.end());
  *peak += (512 - twice(kernels.slope)) / 2;
  while (kernels.smooth.size() > 2 && kernels.smooth.back() == 0 && kernels.slope.back() == 0) {
    kernels.smooth.pop_back();
    kernels.slope.pop_back();
  }
  return kernels;
}

GradientRows::GradientRows(View<std::int16_t> plane, const Kernels& kernels, int mostRows)
    : plane_(plane), kernels_(kernels), smoothed_(plane.width(), mostRows + 2 * kernels.radius()),
      sloped_(plane.width(), mostRows + 2 * kernels.radius()), across_(plane.width(), mostRows), down_(plane.width(), mostRows),
      padded_(static_cast<std::size_t>(plane.width() + 2 * kernels.radius())) {}

void GradientRows::compute(int firstRow, int rows) {
  const int width = plane_.width(), radius = kernels_.radius();
  for (int i = 0; i < rows + 2 * radius; ++i) {
    const std::int16_t* from = plane_.row(std::clamp(firstRow - radius + i, 0, plane_.height() - 1));
    std::fill_n(padded_.begin(), radius, from[0]);
    std::copy_n(from, width, padded_.begin() + radius);
    std::fill_n(padded_.begin() + radius + width, radius, from[width - 1]);
    filterAcross(padded_.data(), width, kernels_.smooth.data(), kernels_.slope.data(), radius, smoothed_.row(i), sloped_.row(i));
  }
  std::vector<const std::int32_t*> smoothRows, slopeRows;
  for (int i = 0; i < rows + 2 * radius; ++i) {
    smoothRows.push_back(smoothed_.row(i));
    slopeRows.push_back(sloped_.row(i));
  }
  for (int i = 0; i < rows; ++i)
    filterDown(smoothRows.data() + i, slopeRows.data() + i, width, kernels_.smooth.data(), kernels_.slope.data(), radius,
               across_.row(i), down_.row(i));
}

}  // namespace hscaffold::edges_detail
