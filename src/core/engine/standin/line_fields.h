/// What line maps have in common for the stand-in: lines set outlines and regions.
#pragma once

#include "core/engine/standin/guidance_fields.h"

namespace hscaffold::standin {

/// The map at the layout's size; a thin line stays a full line.
Image<float> shrunkLines(View<std::uint16_t> map, Size size);

/// Each region becomes a mass of its own, made of what the prompt alone would put there.
/// @param place  the prompt's composition without its subject.
Wanted wantedByLines(const Composition& place, View<std::uint16_t> map, std::uint64_t seed);

}  // namespace hscaffold::standin
