/// What tests of retouch share: maps and layers with much on them.
#pragma once

#include "core/guides/kind.h"
#include "core/retouch/painter.h"

namespace fixtures {

/// A map of noise.
hscaffold::Map busyMap(int width, int height, unsigned seed);

hscaffold::Layer emptyLayer(hscaffold::Size size);

/// Many strokes of all modes.
hscaffold::Layer scribbled(hscaffold::Size size, unsigned seed, int strokes, const hscaffold::Map& below);

/// Whether every pixel of both is touched alike.
bool sameTouches(const hscaffold::Layer& a, const hscaffold::Layer& b);

}  // namespace fixtures
