#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "core/detail/detail.h"
#include "core/guides/kind.h"
#include "core/image/encoded_light.h"
#include "core/image/widen.h"

namespace hscaffold {

Kind detailKind();

namespace {

using namespace detail;

constexpr std::size_t histogramSteps = 64;

Extraction extractDetailMap(View<Rgb> picture, const Tuning& values, ExtractionCache&, StopToken stop) {
  const DetailTuning tuning = detailTuningFrom(values);
  const auto lit = extractDetail(picture, tuning, stop);
  Extraction out;
  out.map = widened(lit.light, [](float v) { return static_cast<std::uint16_t>(std::lround(v * 65535.0f)); });
  if (!lit.a.empty()) out.colour = light::coloured(lit.light, lit.a, lit.b);
  if (picture.empty()) return out;
  // What each scale of the picture holds, and which of them are kept.
  out.thresholds = {heldByScale(encodedLightOf(picture), histogramSteps), placeOf(tuning.finest),
                    placeOf(tuning.coarsest)};
  const auto kept = keptBands(picture.size(), tuning);
  out.facts["nothing"] = std::all_of(kept.begin(), kept.end(), [](float k) { return k < 0.05f; }) ? 1 : 0;
  return out;
}

void tellDetail(const GuideInput&, const Extraction& details, MapFacts& facts, ExtractionCache&, StopToken) {
  facts.numbers.insert(details.facts.begin(), details.facts.end());
}

std::vector<KindCheck> checkDetail(const Guide& guide, const MapFacts& facts, const std::string&) {
  if (facts.number("nothing").value_or(0) <= 0) return {};
  return {{"no-scales", "no scale is kept", Severity::bad,
           guide.name + " keeps nothing: its finest scale is above its coarsest.", "Keep all scales",
           [](Guide& g, std::string&) {
             g.tuning.erase("finest");
             g.tuning.erase("coarsest");
           }}};
}

}  // namespace

Kind detailKind() {
  return {.id = "detail",
          .name = "Detail",
          .letter = 'S',
          .colour = 0xb79a7a,
          .nature = MapNature::halfTones,
          .help = "Some scales of a picture: its surfaces, or all but its surfaces.",
          .fields = &detailTuningFields(),
          .coloured = true,
          .extract = extractDetailMap,
          .relit = light::relit,
          .tell = tellDetail,
          .check = checkDetail,
          .measure = [](const GuideInput& input, const ProofSeen& proof, StopToken stop) {
            return Holding{detailHold(input.map, detailTuningFrom(input.tuning), proof, stop), {}, {}};
          }};
}

}  // namespace hscaffold
