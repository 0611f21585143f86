#include "core/study/checks.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "core/frame/frame.h"
#include "core/kinds.h"
#include "core/pose/pose_words.h"

namespace hscaffold {
namespace {

constexpr double fewEdges = 0.008;     ///< share of the frame
constexpr double fewLines = 0.003;     ///< share of where the guide acts
constexpr double actsNowhere = 0.001;  ///< share of the frame

void checkFigures(const StudyState& state, const Guide& guide, const MapFacts& fact, std::vector<Check>& out) {
  if (fact.figures == 0) {
    out.push_back({"no-figure:" + guide.id,
                   Severity::bad,
                   fmt::format("{} has no figure that is on: it does nothing. Put a pose on the picture.", guide.name),
                   "",
                   {}});
    return;
  }
  if (fact.outside > 0)
    out.push_back({"figure-outside:" + guide.id,
                   Severity::doubt,
                   fmt::format("{} of the {} figures of {} {} outside the frame.", fact.outside, fact.figures,
                               guide.name, fact.outside == 1 ? "is" : "are"),
                   "",
                   {}});
  for (const std::string& said : pose::stancesIn(state.brief.prompt)) {
    if (fact.stances.empty() || std::any_of(fact.stances.begin(), fact.stances.end(),
                                            [&](const std::string& does) { return pose::agree(said, does); }))
      continue;
    const std::string does = fact.stances.front();
    out.push_back(
        {"prompt-pose:" + guide.id, Severity::doubt,
         fmt::format("The prompt says {}, but {} is {}: they pull against each other.", said, guide.name, does),
         fmt::format("Say {}", does),
         [said, does](StudyState& s) { s.brief.prompt = pose::withStance(s.brief.prompt, said, does); }});
  }
}

void checkGuide(const StudyState& state, const Guide& guide, const std::map<std::string, MapFacts>& facts,
                std::vector<Check>& out) {
  if (!guide.on) return;
  if (state.reference(guide.reference) == nullptr && !isOnlyDrawn(guide)) {
    out.push_back(
        {"no-reference:" + guide.id, Severity::bad,
         fmt::format("{} has no reference: its picture was taken out. Turn the guide off or bring the picture back.",
                     guide.name),
         "Turn off", [id = guide.id](StudyState& s) { s.guide(id)->on = false; }});
    return;
  }
  if (stepsCovered(guide.range, state.brief.steps) == 0)
    out.push_back({"no-step:" + guide.id, Severity::bad,
                   fmt::format("{} acts from {:.0f} to {:.0f} %, which covers none of the {} steps: it does nothing.",
                               guide.name, guide.range.from, guide.range.to, state.brief.steps),
                   "Whole way", [id = guide.id](StudyState& s) { s.guide(id)->range = {}; }});
  if (guide.weight <= 0)
    out.push_back({"no-weight:" + guide.id, Severity::doubt,
                   fmt::format("{} is on, but its weight is 0: it does nothing.", guide.name), "Set to 0.70",
                   [id = guide.id](StudyState& s) { s.guide(id)->weight = 0.7; }});
  if (guide.retouchHidden && !guide.retouch.empty())
    out.push_back({"hidden-retouch:" + guide.id, Severity::doubt,
                   fmt::format("The retouch of {} is hidden: its map goes out as it was extracted.", guide.name),
                   "Show retouch", [id = guide.id](StudyState& s) { s.guide(id)->retouchHidden = false; }});
  const auto found = facts.find(guide.id);
  const double acts = found != facts.end() ? found->second.acts : -1;
  if (guide.region.limits() && acts >= 0 && acts < actsNowhere) {
    out.push_back({"no-region:" + guide.id, Severity::bad,
                   fmt::format("The region of {} leaves it nothing of the frame: it does nothing.", guide.name),
                   "Clear region", [id = guide.id](StudyState& s) { s.guide(id)->region = {}; }});
    return;
  }
  if (found != facts.end() && found->second.figures >= 0) checkFigures(state, guide, found->second, out);
  const bool lines = guide.kind == "lines" || guide.kind == "loose";
  if (found != facts.end() && lines && guide.drawing.empty() && found->second.edgeShare >= 0 &&
      found->second.edgeShare < fewLines * (acts >= 0 ? acts : 1)) {
    const auto& fields = *kindOf(guide.kind).fields;
    Check check{"few-lines:" + guide.id,
                Severity::doubt,
                fmt::format("{} has next to no lines: {:.1f} % of the frame. Raise its ink, or take edges.", guide.name,
                            found->second.edgeShare * 100),
                "",
                {}};
    if (const double ink = valueOf(fields, guide.tuning, "ink"); ink < 95) {
      check.fixName = "More ink";
      check.fix = [id = guide.id, ink](StudyState& s) { s.guide(id)->tuning["ink"] = std::min(100.0, ink + 20); };
    }
    out.push_back(std::move(check));
  }
  if (found != facts.end() && guide.kind == "edges" && found->second.edgeShare >= 0 &&
      found->second.edgeShare < fewEdges) {
    const MapFacts& fact = found->second;
    out.push_back({"few-edges:" + guide.id, Severity::doubt,
                   fmt::format("{} has few edges: {:.1f} % of the frame. Lower its thresholds.", guide.name,
                               fact.edgeShare * 100),
                   "Lower", [id = guide.id, fact](StudyState& s) {
                     Guide& g = *s.guide(id);
                     g.tuning["thresholds"] = 1;
                     g.tuning["high"] = std::max(0.006, fact.nowHigh * 0.6);
                     g.tuning["low"] = std::max(0.004, fact.nowLow * 0.6);
                   }});
  }
}

void checkReference(const StudyState& state, const Reference& reference, std::vector<Check>& out) {
  const bool used = std::any_of(state.guides.begin(), state.guides.end(),
                                [&](const Guide& g) { return g.on && g.reference == reference.id; });
  if (!used) return;
  const Placement p = resolved(reference.placement, reference.size, state.frame);
  const double enlarged = std::max(p.scaleX, p.scaleY);
  if (enlarged > 1.6) {
    const Size smaller =
        onStep({static_cast<int>(state.frame.width / enlarged), static_cast<int>(state.frame.height / enlarged)},
               state.sizeStep);
    Check check{"small-reference:" + reference.id,
                Severity::doubt,
                fmt::format("{} is {} x {} and is enlarged {:.1f} times in the frame: its maps will be soft.",
                            reference.name, reference.size.width, reference.size.height, enlarged),
                "",
                {}};
    if (smaller.width >= 256 && smaller.height >= 256) {
      check.fixName = fmt::format("Frame {} x {}", smaller.width, smaller.height);
      check.fix = [smaller](StudyState& s) { s.frame = smaller; };
    }
    out.push_back(std::move(check));
  }
  const double turn = std::abs(std::remainder(reference.placement.turn, 180));
  const Size upright = turn > 45 ? swapped(reference.size) : reference.size;
  const double wide = static_cast<double>(upright.width) / upright.height,
               frame = static_cast<double>(state.frame.width) / state.frame.height;
  if ((wide > 1.15 && frame < 0.87) || (wide < 0.87 && frame > 1.15))
    out.push_back({"swapped:" + reference.id, Severity::doubt,
                   fmt::format("{} is {}, but the frame is {}: width and height may be swapped.", reference.name,
                               wide > 1 ? "wide" : "tall", frame > 1 ? "wide" : "tall"),
                   "Swap sides", [](StudyState& s) { s.frame = swapped(s.frame); }});
}

}  // namespace

void MapFacts::tell(const pose::Figures& placed, std::span<const pose::PoseWords> words) {
  figures = outside = 0;
  stances.clear();
  for (std::size_t i = 0; i < placed.figures.size(); ++i) {
    const pose::Figure& figure = *placed.figures[i];
    if (!figure.on) continue;
    ++figures;
    const auto box = pose::boundsOf(figure);
    outside +=
        box && (box->right < 0 || box->bottom < 0 || box->left > placed.frame.width || box->top > placed.frame.height)
            ? 1
            : 0;
    const std::string& stance = words[i].stance;
    if (!stance.empty() && std::find(stances.begin(), stances.end(), stance) == stances.end())
      stances.push_back(stance);
  }
}

std::vector<Check> checksOf(const StudyState& state, const std::map<std::string, MapFacts>& facts) {
  std::vector<Check> out;
  if (!isOnStep(state.frame, state.sizeStep)) {
    const Size near = onStep(state.frame, state.sizeStep);
    out.push_back({"off-step", Severity::bad,
                   fmt::format("The frame is {} x {}, but the engine wants both sides in steps of {}.",
                               state.frame.width, state.frame.height, state.sizeStep),
                   fmt::format("{} x {}", near.width, near.height), [near](StudyState& s) { s.frame = near; }});
  }
  const bool anyOn = std::any_of(state.guides.begin(), state.guides.end(), [](const Guide& g) { return g.on; });
  if (!anyOn) {
    Check check{"no-guide", Severity::doubt, "", "", {}};
    if (state.guides.empty()) {
      check.sentence =
          "There is no guide yet: the prompt alone decides. Drop a picture on the source table to make one.";
    } else {
      check.sentence = "No guide is on: the prompt alone decides.";
      check.fixName = "Turn on " + state.guides.front().name;
      check.fix = [](StudyState& s) { s.guides.front().on = true; };
    }
    out.push_back(std::move(check));
  }
  for (const Guide& guide : state.guides) checkGuide(state, guide, facts, out);
  for (const Reference& reference : state.references) checkReference(state, reference, out);
  const auto load = totalLoad(state.guides, state.brief.steps);
  const double most = load.empty() ? 0 : *std::max_element(load.begin(), load.end());
  if (most > comfortableLoad + 0.005)
    out.push_back({"high-load", Severity::doubt,
                   fmt::format("Guides together reach a load of {:.2f}; above {:.1f} the prompt has little room.", most,
                               comfortableLoad),
                   "Bring down", [most](StudyState& s) {
                     for (Guide& guide : s.guides)
                       if (guide.on) guide.weight = std::floor(guide.weight * comfortableLoad / most * 100) / 100;
                   }});
  std::stable_sort(out.begin(), out.end(), [](const Check& a, const Check& b) { return a.severity > b.severity; });
  return out;
}

}  // namespace hscaffold
