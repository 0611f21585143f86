/// Maps at 16 bits from what was computed at another depth.
#pragma once

#include <algorithm>

#include "core/image/image.h"
#include "core/image/parallel.h"

namespace hscaffold {

/// @param convert  from T to a value of 0 to 65535.
template <typename T, typename Convert>
Image<std::uint16_t> widened(const Image<T>& from, Convert&& convert) {
  Image<std::uint16_t> map(from.size());
  parallelRows(map.height(), [&](int first, int end) {
    for (int y = first; y < end; ++y) std::transform(from.row(y), from.row(y) + from.width(), map.row(y), convert);
  });
  return map;
}

}  // namespace hscaffold
