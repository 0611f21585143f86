/// From what the guides have taken to one composition: stronger guides first, what one has taken another can only
/// refine, and the prompt's subject stands where room is left for it.
#pragma once

#include <optional>
#include <span>

#include "core/engine/standin/guidance_fields.h"

namespace hscaffold::standin {

/// @param place   the prompt's composition without its subject.
/// @param loads   `loads[i]` belongs to `wanted[i]`.
Composition assembled(const Composition& place, std::span<const Wanted> wanted, std::span<const LoadCurve> loads);

/// The largest thing that stands in a picture, none if there is none of any size. Its upper part ends where it becomes
/// narrower, as a roof does over its walls.
std::optional<ThingPlace> largestThing(const Fields& fields);

}  // namespace hscaffold::standin
