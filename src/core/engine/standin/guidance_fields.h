/// What guides ask of the layout: for each kind, the fields as they would be if the guide alone decided.
#pragma once

#include "core/engine/standin/composition.h"
#include "core/kinds.h"
#include "core/pose/figure.h"

namespace hscaffold::standin {

/// Which fields a guide acts on, and what it wants there.
struct Wanted {
  Fields fields;
  std::array<bool, Fields::count> acts{};
  Image<float> where;  ///< how far it acts at each place, [0, 1]; empty: everywhere
};

/// Lines set outlines and regions: each region becomes a mass of its own, made of what the prompt alone would put
/// there.
/// @param place  the prompt's composition without its subject.
Wanted wantedByLines(const Composition& place, View<std::uint16_t> map, std::uint64_t seed);
/// Line art is edges that also say which way hatches run, near and between them.
Wanted wantedByLineArt(const Composition& place, View<std::uint16_t> map, std::uint64_t seed);
/// Loose lines set the same regions softly and about where they are: each seed takes them a little aside, outlines
/// are hints, and borders stay open.
Wanted wantedByLooseLines(const Composition& place, View<std::uint16_t> map, std::uint64_t seed);
/// A tone map sets light and shade.
Wanted wantedByTone(const Composition& place, View<std::uint16_t> map);
/// What a guide brings to an engine.
struct Asked {
  std::string kind;
  View<std::uint16_t> map;
  View<std::uint16_t> region;              ///< how far it acts at each place, 0 to 65535; empty: everywhere
  const pose::Figures* figures = nullptr;  ///< of pose guides
};
/// By kind id. A kind that this engine does not know acts on nothing.
/// @param prior  what prompt and seed alone would draw; `place` is the same without its subject.
Wanted wantedBy(const Asked& asked, const Composition& prior, const Composition& place, std::uint64_t seed);

}  // namespace hscaffold::standin
