/// Edges as a kind of guide; what other kinds that are made of lines share with them.
#pragma once

#include "core/guides/kind.h"

namespace hscaffold {

Kind edgesKind();

/// One extraction; the cache keeps the edge field, so that changed thresholds do not start anew.
Extraction extractEdgeMap(View<Rgb> picture, const Tuning& tuning, ExtractionCache& cache, StopToken stop);

}  // namespace hscaffold
