#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "core/guides/kind.h"
#include "core/image/colour.h"
#include "core/image/parallel.h"
#include "core/image/widen.h"
#include "core/measure/hold.h"
#include "core/tone/tone.h"

namespace hscaffold {

Kind toneKind();

namespace {

Extraction mapOf(const light::Lit& lit) {
  Extraction out;
  out.map = widened(lit.light, [](float v) { return static_cast<std::uint16_t>(std::lround(v * 65535.0f)); });
  if (!lit.a.empty()) out.colour = light::coloured(lit.light, lit.a, lit.b);
  return out;
}

Extraction extractToneMap(View<Rgb> picture, const Tuning& values, ExtractionCache&, StopToken stop) {
  return mapOf(extractLit(picture, toneTuningFrom(values), stop));
}

/// What a light table is laid over where there is no picture.
light::Lit evenLight(Size frame) {
  constexpr float grey = 0.5f;
  return {Image<float>(frame.width, frame.height, grey), {}, {}};
}

/// What one map leaves for the next: lights are moved far more often than the picture is smoothed.
struct LastMap {
  std::string key;  ///< of the picture and how it was smoothed
  light::Lit smoothed;
  light::KeptCovers covers;
};

/// Of the cache's owner, who asks for one map at a time.
LastMap& keptIn(ExtractionCache& cache) {
  constexpr const char* ours = "light table";
  if (cache.key != ours || !cache.value) {
    cache.value = std::make_shared<LastMap>();
    cache.key = ours;
  }
  return *const_cast<LastMap*>(static_cast<const LastMap*>(cache.value.get()));
}

const light::Lit& smoothed(const MapGround& from, LastMap& kept, const StopToken& stop) {
  std::string key = fmt::format("{}x{}", from.picture.width(), from.picture.height());
  for (const TuningField& field : toneTuningFields())
    key += fmt::format(" {}", valueOf(toneTuningFields(), from.tuning, field.id));
  if (kept.key != key) {
    kept.smoothed = extractLit(from.picture, toneTuningFrom(from.tuning), stop);
    kept.key = key;
  }
  return kept.smoothed;
}

Extraction makeTone(const MapGround& from, ExtractionCache& cache, StopToken stop) {
  const auto kept = from.work.get<light::LightTable>(light::lightSlot);
  LastMap& before = keptIn(cache);
  light::Lit lit = from.picture.empty() ? evenLight(from.place.frame) : smoothed(from, before, stop).clone();
  std::size_t shown = 0;
  if (kept) {
    const auto table = following(*kept, from.place.frame, from.place.placing);
    std::optional<light::Relief> relief;
    const auto taken = from.work.get<light::Relief>(light::reliefSlot);
    if (taken) relief = following(*taken, from.place.frame, from.place.placing);
    layLights(lit, table, relief ? &*relief : nullptr, stop, &before.covers, taken);
    shown = static_cast<std::size_t>(
        std::count_if(table.lights.begin(), table.lights.end(), [](const light::Light& each) { return !each.hidden; }));
  }
  Extraction out = mapOf(lit);
  out.facts["nothing"] = from.picture.empty() && (!kept || kept->empty()) ? 1 : 0;
  if (shown > 0) out.found = fmt::format("{} on the light table", shown);
  return out;
}

void tellTone(const GuideInput&, const Extraction& details, MapFacts& facts, ExtractionCache&, StopToken) {
  facts.numbers.insert(details.facts.begin(), details.facts.end());
}

std::vector<KindCheck> checkTone(const Guide& guide, const MapFacts& facts, const std::string&) {
  if (facts.number("nothing").value_or(0) <= 0) return {};
  return {{"no-light",
           "nothing is lit",
           Severity::doubt,
           guide.name + " is an even grey: paint on its light table, or give it a reference.",
           {},
           {}}};
}

}  // namespace

Kind toneKind() {
  return {.id = "tone",
          .name = "Tone",
          .letter = 'T',
          .colour = 0x8fa7bd,
          .nature = MapNature::halfTones,
          .help = "Large-scale light, shade and colour: taken from a picture, painted on the light table, or both.",
          .fields = &toneTuningFields(),
          .coloured = true,
          .onSettings = true,
          .startRange = {0, 70, 0, 30},
          .startReason = "Fades out from 40 % on: light is settled by then, and surfaces are left to the words.",
          .workSlots = {{light::lightSlot, &light::lightForm(), true}, {light::reliefSlot, &light::reliefForm()}},
          .extract = extractToneMap,
          .make = makeTone,
          .relit = light::relit,
          .tell = tellTone,
          .check = checkTone,
          .measure = [](const GuideInput& input, const ProofSeen& proof, StopToken stop) {
            return Holding{toneHold(input.map, proof, stop), {}, {}};
          }};
}

}  // namespace hscaffold
