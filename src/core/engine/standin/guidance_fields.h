/// What guides ask of the layout: for each kind, the fields as they would be if the guide alone decided.
#pragma once

#include "core/engine/standin/composition.h"
#include "core/kinds.h"

namespace hscaffold::standin {

/// Which fields a guide acts on, and what it wants there.
struct Wanted {
  Fields fields;
  std::array<bool, Fields::count> acts{};
};

/// Lines set outlines and regions: each region becomes a mass of its own, made of what the prompt alone would put
/// there.
/// @param place  the prompt's composition without its subject.
Wanted wantedByLines(const Composition& place, View<std::uint16_t> map, std::uint64_t seed);
/// A tone map sets light and shade.
Wanted wantedByTone(const Composition& place, View<std::uint16_t> map);
/// By kind id. A kind that this engine does not know acts on nothing.
Wanted wantedBy(const std::string& kind, const Composition& place, View<std::uint16_t> map, std::uint64_t seed);

}  // namespace hscaffold::standin
