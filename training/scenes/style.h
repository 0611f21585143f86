/// From a rendered picture to one as artists make them.
#pragma once

#include "core/stage/raster.h"
#include "dice.h"
#include "scene.h"

namespace hscaffold::training {

Style anyStyle(Dice& dice);
Image<Rgb8> inStyle(Dice& dice, const stage::Rendered& rendered, Style style);

}  // namespace hscaffold::training
