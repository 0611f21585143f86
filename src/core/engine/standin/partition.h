/// Regions enclosed, or nearly enclosed, by the lines of a map.
#pragma once

#include <cstdint>
#include <vector>

#include "core/image/image.h"

namespace hscaffold::standin {

struct Partition {
  Image<std::int32_t> label;  ///< region of each pixel, 0 to count - 1
  Image<float> distance;      ///< to the nearest line, in pixels
  int count = 0;
};

/// Watershed of the distance to the lines (Meyer 1994), flooded from far to near. Two basins stay apart where the gap
/// between them is narrow against the smaller basin, so outlines with holes still enclose.
/// @param lines  above a half is line.
Partition partitionBy(View<float> lines);

/// Distance to the nearest pixel above a half, in pixels; large where there is none (chamfer 3-4, Borgefors 1986).
Image<float> distanceToLines(View<float> lines);

}  // namespace hscaffold::standin
