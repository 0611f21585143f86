/// Where a layout was lost most, told by place.
#pragma once

#include <string>
#include <vector>

#include "core/image/image.h"

namespace hscaffold {

struct MissedPlace {
  double x = 0, y = 0;  ///< its middle, in pixels
  double extent = 0;    ///< about how far it reaches, pixels
  double share = 0;     ///< of all that was missed, [0, 1]
  std::string name;     ///< "upper left"
};

/// What stands together in a map of misses (see `Holding`), the largest first; at most `most`, and nothing that is less
/// than a twentieth of the whole.
std::vector<MissedPlace> missedPlaces(View<std::uint16_t> misses, std::size_t most = 3);
/// One of nine: "upper left" to "lower right", "middle" in the middle.
std::string placeName(double x, double y, Size frame);

}  // namespace hscaffold
