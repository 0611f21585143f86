/// Small variations of a seed: the same composition and colours, a little otherwise.
#pragma once

#include "core/engine/standin/plan.h"

namespace hscaffold::standin {

/// @param amount  [0, 1]; 0 changes nothing. Masses are pushed aside slowly by up to about a tenth of the frame, and
/// the subject moves, grows or shrinks with them.
void vary(Composition& place, std::uint64_t variation, double amount);
/// Hues turn by up to 25 degrees.
void vary(Palette& palette, std::uint64_t variation, double amount);

}  // namespace hscaffold::standin
