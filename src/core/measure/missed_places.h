/// Where a layout was lost most, told by place.
#pragma once

#include <string>
#include <vector>

#include "core/guides/missed_place.h"
#include "core/image/image.h"

namespace hscaffold {

/// By place alone, or lines by how they run, too (the principal axes of what was missed).
enum class Named { byPlace, byShape };

/// What stands together in a map of misses (see `Holding`), the largest first; at most `most`, and nothing that is less
/// than a twentieth of the whole.
std::vector<MissedPlace> missedPlaces(View<std::uint16_t> misses, std::size_t most = 3, Named named = Named::byPlace);
/// One of nine: "upper left" to "lower right", "middle" in the middle.
std::string placeName(double x, double y, Size frame);

}  // namespace hscaffold
