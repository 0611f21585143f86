#include "core/lines/line_map.h"

#include <fmt/format.h>

#include <algorithm>

#include "core/edge_finding/edges.h"
#include "core/image/narrow.h"
#include "core/lines/lines.h"

namespace hscaffold {
namespace {

constexpr double fewLines = 0.003;  ///< share of where the guide acts
constexpr double mostInk = 95;      ///< beyond it more ink does not help

}  // namespace

Extraction withStrokes(const MapGround& ground, ExtractionCache& cache, StopToken stop,
                       Extraction (*extract)(View<Rgb>, const Tuning&, ExtractionCache&, StopToken), DrawStrokes draw) {
  const auto drawing = ground.work.get<Drawing>(drawingSlot);
  const GuidePlace& place = ground.place;
  Extraction out;
  if (drawing && drawing->alone)
    out.found = "own strokes";
  else if (!ground.picture.empty())
    out = extract(ground.picture, ground.tuning, cache, stop);
  else
    out.map = Map(place.frame);
  if (!drawing) return out;
  auto strokes = draw(following(*drawing, place.frame, place.placing), place.frame, ground.tuning, stop);
  if (out.map.empty()) {
    out.map = std::move(strokes);
    return out;
  }
  for (int y = 0; y < out.map.height(); ++y)
    for (int x = 0; x < out.map.width(); ++x) out.map(x, y) = std::max(out.map(x, y), strokes(x, y));
  return out;
}

void tellLines(const GuideInput& input, const Extraction&, MapFacts& facts, ExtractionCache&, StopToken) {
  facts.numbers["share"] = edgeShare(narrowed(input.map));
}

std::vector<KindCheck> checkLines(const Guide& guide, const MapFacts& facts, const std::string&) {
  const auto share = facts.number("share");
  // Strokes of the artist's own are as few as they were meant to be.
  if (!share || guide.work.has(drawingSlot) || *share >= fewLines * facts.number("acts").value_or(1)) return {};
  KindCheck check{"few-lines",
                  "few lines",
                  Severity::doubt,
                  fmt::format("{} has next to no lines: {:.1f} % of the frame. Raise its ink, or take edges.",
                              guide.name, *share * 100),
                  "",
                  {}};
  const auto found = guide.tuning.find("ink");
  const double ink = found != guide.tuning.end() ? found->second.number() : LineTuning{}.ink;
  if (ink < mostInk) {
    check.fixName = "More ink";
    check.fix = [ink](Guide& g, std::string&) { g.tuning["ink"] = std::min(100.0, ink + 20); };
  }
  return {std::move(check)};
}

Extraction extractLineMap(View<Rgb> picture, const Tuning& values, ExtractionCache&, StopToken stop) {
  auto art = extractLines(picture, lineTuningFrom(values), stop);
  Extraction out;
  out.map = std::move(art.map);
  out.note = std::move(art.findings.note);
  out.resolved["source"] = static_cast<double>(art.findings.source);
  if (art.findings.source == LineSource::photograph)
    out.found = "photograph";
  else
    out.found = fmt::format("paper, {}{}", art.findings.lightOnDark ? "light on dark" : "dark on light",
                            art.findings.ruledLines == 0
                                ? ""
                                : fmt::format(", {} ruled or folded line{} gone", art.findings.ruledLines,
                                              art.findings.ruledLines == 1 ? "" : "s"));
  return out;
}

}  // namespace hscaffold
