/// One figure out of maps that were made of it: for each key point the place that goes best with what the network says
/// of the point, of its limbs, and of the points beside it (pictorial structures: Felzenszwalb & Huttenlocher 2005). By
/// contrast with `decoded` a faint point between sure ones is found too, and nothing falls apart.
#pragma once

#include <optional>

#include "core/pose/find/decode.h"

namespace hscaffold::pose {

struct OneFigureTuning {
  float faintest = 0.04f;        ///< points fainter than this are none
  std::size_t candidates = 8;    ///< places looked at for each point
  float pull = 0.8f;             ///< how much a limb that agrees is worth, against a point of strength 1
  float clash = 0.25f;           ///< what a limb costs that disagrees
  float comparable = 0;          ///< places fainter than this share of a point's strongest do not count
  std::optional<Bounds> within;  ///< in cells of the maps: peaks of other figures outside of it do not count
};

/// In the picture's pixels, as `decoded`; none if no point is there.
std::optional<Figure> decodedOne(const PointMaps& maps, const Skeleton& skeleton, double scale,
                                 const OneFigureTuning& tuning = {});

}  // namespace hscaffold::pose
