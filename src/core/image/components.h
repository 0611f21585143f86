/// Connected pieces of binary pictures.
#pragma once

#include <vector>

#include "core/image/image.h"

namespace hscaffold {

/// 255 where a picture lies above a threshold, else 0.
template <typename T>
Image<std::uint8_t> above(View<T> picture, T threshold) {
  Image<std::uint8_t> out(picture.size());
  for (int y = 0; y < picture.height(); ++y)
    for (int x = 0; x < picture.width(); ++x) out(x, y) = picture(x, y) > threshold ? 255 : 0;
  return out;
}

struct Component {
  std::int64_t area = 0;                           ///< pixels
  int left = 0, top = 0, right = -1, bottom = -1;  ///< box, all inside
};

struct Components {
  Image<std::int32_t> label;   ///< index into `all`, -1 where nothing is set
  std::vector<Component> all;  ///< in the order of their first pixels
};

enum class Connected { four, eight };

/// Pieces of what is set (not 0), from runs joined by union-find (Hoshen and Kopelman 1976).
Components componentsOf(View<std::uint8_t> mask, Connected connected);

}  // namespace hscaffold
