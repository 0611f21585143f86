#include "core/edge_finding/gradient.h"

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

GradientStream::GradientStream(View<std::int16_t> plane, const Kernels& kernels)
    : plane_(plane),
      kernels_(kernels),
      smoothed_(plane.width(), 2 * kernels.radius() + 1),
      sloped_(plane.width(), 2 * kernels.radius() + 1),
      padded_(static_cast<std::size_t>(plane.width() + 2 * kernels.radius() + vectorSlack)),
      smoothRows_(static_cast<std::size_t>(smoothed_.height())),
      slopeRows_(smoothRows_.size()) {}

void GradientStream::filterRow(int y) {
  const int width = plane_.width(), radius = kernels_.radius(), count = smoothed_.height();
  const std::int16_t* from = plane_.row(std::clamp(y, 0, plane_.height() - 1));
  std::fill_n(padded_.begin(), radius, from[0]);
  std::copy_n(from, width, padded_.begin() + radius);
  std::fill_n(padded_.begin() + radius + width, radius, from[width - 1]);
  const int place = (y % count + count) % count;
  filterAcross(padded_.data(), width, kernels_, smoothed_.row(place), sloped_.row(place));
}

void GradientStream::row(int y, float* gx, float* gy, float* magnitude) {
  const int radius = kernels_.radius(), count = smoothed_.height();
  if (!ready_) {
    next_ = y - radius;
    ready_ = true;
  }
  for (; next_ <= y + radius; ++next_) filterRow(next_);
  for (int k = -radius; k <= radius; ++k) {
    const int place = ((y + k) % count + count) % count;
    smoothRows_[static_cast<std::size_t>(k + radius)] = smoothed_.row(place);
    slopeRows_[static_cast<std::size_t>(k + radius)] = sloped_.row(place);
  }
  filterDown(smoothRows_.data(), slopeRows_.data(), plane_.width(), kernels_, gx, gy, magnitude);
}

}  // namespace hscaffold::edges_detail
