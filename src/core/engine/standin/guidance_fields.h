/// What guides ask of the layout: for each kind, the fields as they would be if the guide alone decided. How a kind
/// asks stands in a file of its own under kinds/.
#pragma once

#include "core/engine/standin/composition.h"
#include "core/guides/kind.h"

namespace hscaffold::standin {

/// Which fields a guide acts on, and what it wants there.
struct Wanted {
  Fields fields;
  std::array<bool, Fields::count> acts{};
  Image<float> where;  ///< how far it acts at each place, [0, 1]; empty: everywhere
};

/// What a guide is asked with.
struct Asked {
  const GuideInput& input;
  const Composition& prior;  ///< what prompt and seed alone would draw
  const Composition& place;  ///< the same without its subject
  std::uint64_t seed;
};
/// By kind id, limited to the guide's region. A kind that this engine does not know acts on nothing.
Wanted wantedBy(const std::string& kind, const Asked& asked);

/// Fields of the layout's size that act on nothing yet.
Wanted wantedNothing(const Composition& place);

}  // namespace hscaffold::standin
