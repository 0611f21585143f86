/// The pictures of the wind almanac of Pellamere that the demo works with.
#pragma once

#include "core/pose/figure.h"
#include "raymarch.h"

namespace almanac {

Scene kiteFlyer();        ///< a kite flyer leaning into the wind on a dune
Scene teaHouse();         ///< a stilt-legged tea house over a tidal flat
Scene lighthouseStair();  ///< the stair of a lighthouse, seen from below

Scene sailcloth();   ///< sailcloth drying between dunes in soft morning light: hardly an edge in it
Scene stairInFog();  ///< the same stair, its upper turns lost in fog

Scene rustedBuoy();  ///< a harbour buoy gone to rust, in green water under a low sun

/// The kite flyer's dune with a far walker and a dune fox.
Scene duneWalk();
/// Everybody on it, from far to near, as a picture of that size shows them.
hscaffold::pose::Figures duneWalkFigures(hscaffold::Size size);
/// Where a place of the kite flyer's own (feet at the origin) is in the scene.
Vec flyerPlace(Vec local);
/// Height of the dune's sand.
float duneGround(float x, float z);

/// A pencil sketch of a sail cart on squared paper, unevenly lit, with lettering and a stain.
hscaffold::Image<hscaffold::Rgb> sailCartSketch(hscaffold::Size size, std::uint64_t seed);

}  // namespace almanac
