#include <fmt/format.h>

#include <algorithm>

#include "core/edge_finding/edge_map.h"
#include "core/image/narrow.h"
#include "core/lines/line_map.h"
#include "core/measure/hold.h"
#include "core/strokes/line_export.h"

namespace hscaffold {

Kind edgesKind();

namespace {

constexpr double fewEdges = 0.008;      ///< share of the frame
constexpr double fewFaintEdges = 0.02;  ///< the same where even these are as faint as edges are looked for at all
constexpr double faint = 0.016;         ///< upper threshold

void tellEdges(const GuideInput& input, const Extraction& details, MapFacts& facts, ExtractionCache&, StopToken) {
  facts.numbers["share"] = edgeShare(narrowed(input.map));
  facts.numbers["low"] = details.thresholds.low;
  facts.numbers["high"] = details.thresholds.high;
}

/// Strokes of the guide's own as edges are: a pixel wide, there or not.
Map drawEdgeStrokes(const Drawing& drawing, Size size, const Tuning&, StopToken stop) {
  constexpr double width = 1.4;
  constexpr std::uint16_t half = 32768;
  std::vector<std::shared_ptr<const Stroke>> thin;
  for (const auto& stroke : drawing.strokes) {
    Stroke copy = *stroke;
    std::fill(copy.widths.begin(), copy.widths.end(), width);
    thin.push_back(std::make_shared<const Stroke>(std::move(copy)));
  }
  Map out = drawnStrokes(thin, size, stop);
  for (int y = 0; y < out.height(); ++y)
    for (std::uint16_t& v : out.line(y)) v = v >= half ? 65535 : 0;
  return out;
}

std::vector<KindCheck> checkEdges(const Guide& guide, const MapFacts& facts, const std::string&) {
  // Strokes of the artist's own are as few as they were meant to be.
  if (guide.work.has(drawingSlot)) return {};
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
          .workSlots = {{drawingSlot, &drawingForm(), true}},
          .extract = extractEdgeMap,
          .extractPixels = extractEdgeMapFromPixels,
          .make = [](const MapGround& ground, ExtractionCache& cache,
                     StopToken stop) { return withStrokes(ground, cache, stop, extractEdgeMap, drawEdgeStrokes); },
          .tell = tellEdges,
          .check = checkEdges,
          .measure = [](const GuideInput& input, const ProofSeen& proof,
                        StopToken stop) { return lineHolding(input.map, proof, 0.0075, stop); },
          .exports = {strokesAsSvg(KeepStrokes::asTheyAre)}};
}

}  // namespace hscaffold
