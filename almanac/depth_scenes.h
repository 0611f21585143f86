/// Made-up scenes of known depth, to judge and to fit guesses of depth with: open land, rooms, table tops and
/// close-ups, figures, and fine texture (leaves before walls, machines).
#pragma once

#include <string>
#include <vector>

#include "core/image/image.h"

namespace almanac {

enum class DepthFamily { land, room, table, figures, leaves, machines };
inline constexpr DepthFamily depthFamilies[] = {DepthFamily::land,    DepthFamily::room,   DepthFamily::table,
                                                DepthFamily::figures, DepthFamily::leaves, DepthFamily::machines};
const char* nameOf(DepthFamily family);

struct DepthScene {
  DepthFamily family = DepthFamily::land;
  std::uint64_t seed = 0;
  hscaffold::Image<hscaffold::Rgb> picture;  ///< linear light
  hscaffold::Image<float> nearness;          ///< 1 / distance, 0 for the sky
};

/// Things, ground, light, haze, lens and manner (photograph-like, out of focus, flat colour) all follow from the seed.
DepthScene depthScene(DepthFamily family, std::uint64_t seed, hscaffold::Size size);

}  // namespace almanac
