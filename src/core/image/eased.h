/// Steps without corners.
#pragma once

#include <algorithm>

namespace hscaffold {

/// 0 at `from` and before, 1 at `to` and beyond, level at both ends; the two may be in either order.
inline float easedStep(double from, double to, double at) {
  const double t = std::clamp((at - from) / (to - from), 0.0, 1.0);
  return static_cast<float>(t * t * (3 - 2 * t));
}

}  // namespace hscaffold
