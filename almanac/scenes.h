/// The pictures of the wind almanac of Pellamere that the demo works with.
#pragma once

#include "raymarch.h"

namespace almanac {

Scene kiteFlyer();        ///< a kite flyer leaning into the wind on a dune
Scene teaHouse();         ///< a stilt-legged tea house over a tidal flat
Scene lighthouseStair();  ///< the stair of a lighthouse, seen from below

/// A pencil sketch of a sail cart on squared paper, unevenly lit, with lettering and a stain.
hscaffold::Image<hscaffold::Rgb> sailCartSketch(hscaffold::Size size, std::uint64_t seed);

}  // namespace almanac
