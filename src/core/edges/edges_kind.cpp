#include <fmt/format.h>

#include <algorithm>

#include "core/edge_finding/edge_map.h"
#include "core/image/narrow.h"
#include "core/measure/hold.h"
#include "core/strokes/line_export.h"

namespace hscaffold {

Kind edgesKind();

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

Kind edgesKind() {
  return {.id = "edges",
          .name = "Edges",
          .letter = 'E',
          .colour = 0xd8b14a,
          .nature = MapNature::lines,
          .help = "Outlines found where light or colour changes sharply.",
          .fields = &edgeTuningFields(),
          .extract = extractEdgeMap,
          .extractPixels = extractEdgeMapFromPixels,
          .tell = tell,
          .check = check,
          .measure = [](const GuideInput& input, const ProofSeen& proof,
                        StopToken stop) { return lineHolding(input.map, proof, 0.0075, stop); },
          .exports = {strokesAsSvg()}};
}

}  // namespace hscaffold
