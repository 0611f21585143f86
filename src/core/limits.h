/// Numbers brought into the ranges that readers accept.
#pragma once

#include <algorithm>
#include <cmath>

namespace hscaffold {

/// Infinities and what is no number become `otherwise`.
inline void keepWithin(double& value, double low, double high, double otherwise) {
  value = std::isfinite(value) ? std::clamp(value, low, high) : otherwise;
}

}  // namespace hscaffold
