#include <cmath>

#include "core/guides/kind.h"
#include "core/image/widen.h"
#include "core/measure/hold.h"
#include "core/tone/tone.h"

namespace hscaffold {

Kind toneKind();

namespace {

Extraction extractToneMap(View<Rgb> picture, const Tuning& values, ExtractionCache&, StopToken stop) {
  Extraction out;
  out.map = widened(extractTone(picture, toneTuningFrom(values), stop),
                    [](float v) { return static_cast<std::uint16_t>(std::lround(v * 65535.0f)); });
  return out;
}

}  // namespace

Kind toneKind() {
  return {.id = "tone",
          .name = "Tone",
          .letter = 'T',
          .colour = 0x8fa7bd,
          .nature = MapNature::halfTones,
          .help = "Large-scale light and shade, detail smoothed away.",
          .fields = &toneTuningFields(),
          .extract = extractToneMap,
          .measure = [](const GuideInput& input, const ProofSeen& proof, StopToken stop) {
            return Holding{toneHold(input.map, proof, stop), {}, {}};
          }};
}

}  // namespace hscaffold
