/// Parts of pictures, as finders look at them.
#pragma once

#include "core/image/image.h"
#include "core/pose/figure.h"

namespace hscaffold::pose {

/// A part of the picture from its whole pixels on; what lies beyond the picture's rim is the rim's colour.
Image<Rgb> cutOut(View<Rgb> picture, const Bounds& part);

}  // namespace hscaffold::pose
