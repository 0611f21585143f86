#include "core/guides/kind.h"
#include "core/lines/line_map.h"
#include "core/lines/lines.h"
#include "core/measure/hold.h"
#include "core/strokes/line_export.h"

namespace hscaffold {

Kind linesKind();

namespace {

Map drawStrokes(const Drawing& drawing, Size size, const Tuning&, StopToken stop) {
  return drawnStrokes(drawing.strokes, size, stop);
}

}  // namespace

Kind linesKind() {
  return {.id = "lines",
          .name = "Line art",
          .letter = 'L',
          .colour = 0xa38bd4,
          .nature = MapNature::lines,
          .help = "Drawn lines, from a photograph or from a drawing on paper.",
          .fields = &lineTuningFields(),
          .workSlots = {{drawingSlot, &drawingForm(), true}},
          .extract = extractLineMap,
          .make = [](const MapGround& ground, ExtractionCache& cache,
                     StopToken stop) { return withStrokes(ground, cache, stop, extractLineMap, drawStrokes); },
          .tell = tellLines,
          .check = checkLines,
          .measure = [](const GuideInput& input, const ProofSeen& proof,
                        StopToken stop) { return lineHolding(input.map, proof, 0.0075, stop); },
          .exports = {strokesAsSvg(KeepStrokes::asTheyAre)}};
}

}  // namespace hscaffold
