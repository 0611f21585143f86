/// People and animals of chance.
#pragma once

#include "core/stage/animal.h"
#include "core/stage/body.h"
#include "dice.h"

namespace hscaffold::training {

/// @param around  points a ring of their surfaces: fewer where they are small.
stage::BodySpec anyone(Dice& dice, int around);
stage::AnimalSpec anyAnimal(Dice& dice, int around);

}  // namespace hscaffold::training
