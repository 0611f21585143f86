/// What the masses of a line map are: sky, land or things, told from where they lie, how they are shaped and what is
/// beside them; and their values and colours, planned so that the picture reads when it is small.
#pragma once

#include <cstdint>

#include "core/engine/standin/masses.h"
#include "core/engine/standin/plan.h"

namespace hscaffold::standin {

/// Fills `wanted` of every mass.
/// @param place    the prompt's composition without its subject.
/// @param palette  whose lightness the values are planned with.
/// @param openings  what is behind is seen between things; else every mass has a value of its own, as is needed where
///                  outlines are too soft to be seen without.
void nameMasses(Masses& masses, const Composition& place, const Palette& palette, std::uint64_t seed, bool openings);

}  // namespace hscaffold::standin
