/// Connected pieces of binary pictures.
#pragma once

#include <vector>

#include "core/image/image.h"

namespace hscaffold {

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
