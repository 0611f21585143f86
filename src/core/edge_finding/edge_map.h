/// Edges of a picture as an extraction: what guides of edges, and of lines that begin with edges, are made from.
#pragma once

#include "core/edge_finding/edges.h"
#include "core/guides/kind.h"

namespace hscaffold {

/// One extraction; the cache keeps the edge field, so that changed thresholds do not start anew. @throws Cancelled
Extraction extractEdgeMap(View<Rgb> picture, const Tuning& tuning, ExtractionCache& cache, StopToken stop);
/// The same from pixels that the frame shows just as they are.
Extraction extractEdgeMapFromPixels(View<Rgba16> pixels, const Tuning& tuning, ExtractionCache& cache, StopToken stop);

}  // namespace hscaffold
