#include <fmt/format.h>

#include "core/edge_finding/edge_map.h"
#include "core/lines/line_map.h"
#include "core/lines/loose.h"
#include "core/measure/hold.h"
#include "core/strokes/line_export.h"
#include "core/strokes/trace.h"

namespace hscaffold {

Kind looseKind();

namespace {

/// What loose lines are traced from does not change while they are loosened.
struct LooseGround {
  std::vector<Path> paths;
  std::string found;
  std::string note;
};

Extraction extractLooseMap(View<Rgb> picture, const Tuning& values, ExtractionCache& cache, StopToken stop) {
  const LooseTuning tuning = looseTuningFrom(values);
  const std::string key = fmt::format("loose {} {}", static_cast<int>(tuning.from), tuning.ink);
  if (cache.key != key || !cache.value) {
    LooseGround ground;
    Extraction lines;
    ExtractionCache ignored;
    if (tuning.from == LooseSource::edges) {
      lines = extractEdgeMap(picture, {{"gap", 8.0}}, ignored, stop);
      lines.found = "edges";
    } else {
      lines = extractLineMap(picture, {{"ink", tuning.ink}}, ignored, stop);
    }
    ground.paths = tracedPaths(lines.map, {}, nullptr, stop);
    ground.found = lines.found;
    ground.note = lines.note;
    cache.value = std::make_shared<const LooseGround>(std::move(ground));
    cache.key = key;
  }
  const auto& ground = *static_cast<const LooseGround*>(cache.value.get());
  Extraction out;
  out.map = drawnLoosely(loosened(ground.paths, tuning, stop), tuning, picture.size(), stop);
  out.found = ground.found;
  out.note = ground.note;
  return out;
}

Map drawLooseStrokes(const Drawing& drawing, Size size, const Tuning& values, StopToken stop) {
  LooseTuning tuning = looseTuningFrom(values);
  // What was drawn by hand is as long as it was meant.
  tuning.shortest = 0;
  std::vector<Path> paths;
  for (const auto& stroke : drawing.strokes) paths.push_back(flattened(*stroke));
  return drawnLoosely(loosened(paths, tuning, stop), tuning, size, stop);
}

}  // namespace

Kind looseKind() {
  return {.id = "loose",
          .name = "Loose lines",
          .letter = 'O',
          .colour = 0xc58fb8,
          .nature = MapNature::lines,
          .help = "Broad simplified lines that say about where things are and leave the rest open.",
          .fields = &looseTuningFields(),
          .workSlots = {{drawingSlot, &drawingForm(), true}},
          .extract = extractLooseMap,
          .make = [](const MapGround& ground, ExtractionCache& cache,
                     StopToken stop) { return withStrokes(ground, cache, stop, extractLooseMap, drawLooseStrokes); },
          .tell = tellLines,
          .check = checkLines,
          // Loose lines say about where.
          .measure = [](const GuideInput& input, const ProofSeen& proof,
                        StopToken stop) { return lineHolding(input.map, proof, 0.015, stop); },
          .exports = {strokesAsSvg()}};
}

}  // namespace hscaffold
