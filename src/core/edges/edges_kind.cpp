#include "core/edges/edges_kind.h"

#include <fmt/format.h>

#include <algorithm>

#include "core/edges/edges.h"
#include "core/image/narrow.h"
#include "core/image/resample.h"
#include "core/image/widen.h"
#include "core/lines/line_export.h"
#include "core/measure/hold.h"

namespace hscaffold {
namespace {

constexpr double fewEdges = 0.008;      ///< share of the frame
constexpr double fewFaintEdges = 0.02;  ///< the same where even these are as faint as edges are looked for at all
constexpr double faint = 0.016;         ///< upper threshold

void tell(const GuideInput& input, const Extraction& details, MapFacts& facts, ExtractionCache&, StopToken) {
  facts.numbers["share"] = edgeShare(narrowed(input.map));
  facts.numbers["low"] = details.thresholds.low;
  facts.numbers["high"] = details.thresholds.high;
}

std::vector<KindCheck> check(const Guide& guide, const MapFacts& facts, const std::string&) {
  const auto share = facts.number("share");
  const double low = facts.number("low").value_or(0), high = facts.number("high").value_or(0);
  const bool few = share && *share < fewEdges, faintOnes = share && *share < fewFaintEdges && high > 0 && high <= faint;
  if (!few && !faintOnes) return {};
  return {{"few-edges", "few edges", Severity::doubt,
           fmt::format("{} has few edges{}: {:.1f} % of the frame. Lower its thresholds, or order the picture by "
                       "depth instead.",
                       guide.name, few ? "" : ", and faint ones", *share * 100),
           "Lower",
           [low, high](Guide& g, std::string&) {
             g.tuning["thresholds"] = 1;
             g.tuning["high"] = std::max(0.006, high * 0.6);
             g.tuning["low"] = std::max(0.004, low * 0.6);
           },
           "depth"}};
}

}  // namespace

namespace {

/// @param fieldOf  from a tuning to its edge field
template <typename FieldOf>
Extraction edgeMapOf(const Tuning& values, ExtractionCache& cache, const StopToken& stop, FieldOf&& fieldOf) {
  const EdgeTuning tuning = edgeTuningFrom(values);
  const std::string key = fmt::format("edges {} {}", static_cast<int>(tuning.gradient), tuning.sigma);
  if (cache.key != key || !cache.value) {
    cache.value = std::make_shared<const EdgeField>(fieldOf(tuning));
    cache.key = key;
  }
  const auto& field = *static_cast<const EdgeField*>(cache.value.get());
  Extraction out;
  out.map = widened(drawEdges(field, tuning, stop), [](std::uint8_t v) { return static_cast<std::uint16_t>(v * 257); });
  const auto pair = thresholdsFor(field, tuning);
  out.thresholds = {field.histogram, pair.low, pair.high};
  return out;
}

Extraction extractFromPixels(View<Rgba16> pixels, const Tuning& values, ExtractionCache& cache, StopToken stop) {
  return edgeMapOf(values, cache, stop, [&](const EdgeTuning& tuning) {
    if (tuning.gradient == EdgeGradient::luminance)
      return edgeField(encodedLuminance(pixels).view(), tuning.sigma, stop);
    return edgeField(resampled(pixels, pixels.size()), tuning.gradient, tuning.sigma, stop);
  });
}

}  // namespace

Extraction extractEdgeMap(View<Rgb> picture, const Tuning& values, ExtractionCache& cache, StopToken stop) {
  return edgeMapOf(values, cache, stop,
                   [&](const EdgeTuning& tuning) { return edgeField(picture, tuning.gradient, tuning.sigma, stop); });
}

Kind edgesKind() {
  return {.id = "edges",
          .name = "Edges",
          .letter = 'E',
          .colour = 0xd8b14a,
          .nature = MapNature::lines,
          .help = "Outlines found where light or colour changes sharply.",
          .fields = &edgeTuningFields(),
          .extract = extractEdgeMap,
          .extractPixels = extractFromPixels,
          .tell = tell,
          .check = check,
          .measure = [](const GuideInput& input, const ProofSeen& proof,
                        StopToken stop) { return lineHolding(input.map, proof, 0.0075, stop); },
          .exports = {strokesAsSvg()}};
}

}  // namespace hscaffold
