/// Bodies built on skeletons: limb volumes in clothes, shaded from the picture's light, with a face to where they look.
#pragma once

#include "core/engine/standin/guidance_fields.h"
#include "core/pose/figure.h"

namespace hscaffold::standin {

/// Bodies where the figures are, and the prompt's own subject gone from where it would be; nothing else is asked for.
/// Clothes take the subject's colour, legs a darker one, skin a lighter one with a touch of the accent.
/// @param place  the prompt's composition without its subject.
Wanted wantedByPose(const Composition& prior, const Composition& place, const pose::Figures& figures);

}  // namespace hscaffold::standin
