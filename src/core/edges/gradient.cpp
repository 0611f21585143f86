#include "core/edges/gradient.h"

#include <cmath>
#include <numeric>

namespace hscaffold::edges_detail {

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
      padded_(static_cast<std::size_t>(plane.width() + 2 * kernels.radius() + vectorSlack)) {}

void GradientRows::compute(int firstRow, int rows) {
  const int width = plane_.width(), radius = kernels_.radius();
  for (int i = 0; i < rows + 2 * radius; ++i) {
    const std::int16_t* from = plane_.row(std::clamp(firstRow - radius + i, 0, plane_.height() - 1));
    std::fill_n(padded_.begin(), radius, from[0]);
    std::copy_n(from, width, padded_.begin() + radius);
    std::fill_n(padded_.begin() + radius + width, radius, from[width - 1]);
    filterAcross(padded_.data(), width, kernels_, smoothed_.row(i), sloped_.row(i));
  }
  std::vector<const std::int32_t*> smoothRows, slopeRows;
  for (int i = 0; i < rows + 2 * radius; ++i) {
    smoothRows.push_back(smoothed_.row(i));
    slopeRows.push_back(sloped_.row(i));
  }
  for (int i = 0; i < rows; ++i)
    filterDown(smoothRows.data() + i, slopeRows.data() + i, width, kernels_, across_.row(i), down_.row(i));
}

}  // namespace hscaffold::edges_detail
