/// What line art and loose lines have in common as kinds: strokes of their own over or instead of the extraction.
#pragma once

#include "core/guides/kind.h"
#include "core/strokes/drawing.h"

namespace hscaffold {

/// Strokes in a kind's own manner, 0 to 65535.
using DrawStrokes = Map (*)(const Drawing& drawing, Size size, const Tuning& tuning, StopToken stop);

/// The extraction of the picture with the guide's strokes over it, or the strokes alone. @throws Cancelled
Extraction withStrokes(const MapGround& ground, ExtractionCache& cache, StopToken stop,
                       Extraction (*extract)(View<Rgb>, const Tuning&, ExtractionCache&, StopToken), DrawStrokes draw);

/// Says how much of the frame is line, and whether there are strokes of the guide's own.
void tellLines(const GuideInput& input, const Extraction& details, MapFacts& facts, ExtractionCache& cache,
               StopToken stop);
/// Whether the lines are next to none, with more ink as the fix.
std::vector<KindCheck> checkLines(const Guide& guide, const MapFacts& facts, const std::string& prompt);

/// Line art of a picture, as a kind extracts it. Loose lines start from it.
Extraction extractLineMap(View<Rgb> picture, const Tuning& tuning, ExtractionCache& cache, StopToken stop);

}  // namespace hscaffold
