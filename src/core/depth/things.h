/// What stands out before the land in a depth map, also where its border is no leap, as in a first guess of depth.
#pragma once

#include <functional>
#include <vector>

#include "core/image/image.h"

namespace hscaffold::depth {

struct Thing {
  double area = 0;  ///< pixels
  double drop = 0;  ///< how far nearness falls across its border, mean, in [0, 1]
};
struct Things {
  Image<std::int32_t> label;  ///< index into `all`, -1 for what is land
  std::vector<Thing> all;
};

/// Land is the far quarter of each row, no farther than in the rows above. What stands out before it, falls off steeply
/// on all sides but the lower one, and is cut by the frame at most a little, is a thing.
/// @param near  0 farthest, 1 nearest. @param mayBe  places that are looked at; all if empty
Things thingsIn(const Image<float>& near, const std::function<bool(int x, int y)>& mayBe = {});

/// Outlines of things where they fall off steeply, on lines one pixel wide: 255, else 0.
Image<std::uint8_t> outlinesOf(const Things& things, const Image<float>& near);

}  // namespace hscaffold::depth
