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
  std::string name;     ///< "upper left", or "long upright in the upper left"
};

/// By place alone, or lines by how they run, too (the principal axes of what was missed).
enum class Named { byPlace, byShape };

/// What stands together in a map of misses (see `Holding`), the largest first; at most `most`, and nothing that is less
/// than a twentieth of the whole.
std::vector<MissedPlace> missedPlaces(View<std::uint16_t> misses, std::size_t most = 3, Named named = Named::byPlace);
/// One of nine: "upper left" to "lower right", "middle" in the middle.
std::string placeName(double x, double y, Size frame);

}  // namespace hscaffold
