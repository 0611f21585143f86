/// A place where a layout was lost.
#pragma once

#include <string>

namespace hscaffold {

struct MissedPlace {
  double x = 0, y = 0;  ///< its middle, in pixels
  double extent = 0;    ///< about how far it reaches, pixels
  double share = 0;     ///< of all that was missed, [0, 1]
  std::string name;     ///< "upper left", or "long upright in the upper left"
};

}  // namespace hscaffold
