/// Parts of pictures, as finders look at them.
#pragma once

#include "core/image/image.h"
#include "core/pose/figure.h"

namespace hscaffold::pose {

/// A part of the picture from its whole pixels on; what lies beyond the picture's rim is the rim's colour.
Image<Rgb> cutOut(View<Rgb> picture, const Bounds& part);
/// The picture turned clockwise by so many quarters, 0 to 3.
Image<Rgb> quarterTurned(View<Rgb> picture, int quarters);
/// Where a place of a picture of `size` is after that.
Point quarterTurned(Point place, int quarters, Size size);
/// Where a place of the turned picture was before. @param size  of the picture before it was turned.
Point turnedBack(Point place, int quarters, Size size);

}  // namespace hscaffold::pose
