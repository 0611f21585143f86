/// Bodies built on skeletons: limb volumes in clothes, shaded from the picture's light, with a face to where they look.
#pragma once

#include "core/engine/standin/guidance_fields.h"
#include "core/pose/figure.h"

namespace hscaffold::standin {

/// Bodies where the figures are; nothing else is asked for. At low load they are about there: joints stray by a share
/// of the height. Small figures settle late, so an early end loses them first. Clothes take the subject's colour, legs
/// a darker one, skin a lighter one with a touch of the accent.
/// @param place  the prompt's composition without its subject.
Wanted wantedByPose(const Composition& place, const pose::Figures& figures, const LoadCurve& loads, std::uint64_t seed);

}  // namespace hscaffold::standin
