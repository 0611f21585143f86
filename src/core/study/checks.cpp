#include "core/study/checks.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "core/engine/registry.h"
#include "core/frame/frame.h"
#include "core/kinds.h"
#include "core/study/words_against_code.h"

namespace hscaffold {
namespace {

constexpr double actsNowhere = 0.001;  ///< share of the frame
constexpr double muchOutside = 0.3;    ///< share of a reference

void checkGuide(const StudyState& state, const Guide& guide, const std::map<std::string, MapFacts>& facts,
                std::vector<Check>& out) {
  if (!guide.on) return;
  if (state.reference(guide.reference) == nullptr && !standsAlone(guide)) {
    out.push_back(
        {"no-reference:" + guide.id, "no reference", Severity::bad,
         fmt::format("{} has no reference: its picture was taken out. Turn the guide off or bring the picture back.",
                     guide.name),
         "Turn off", [id = guide.id](StudyState& s) { s.guide(id)->on = false; }});
    return;
  }
  if (stepsCovered(guide.range, state.brief.steps) == 0)
    out.push_back({"no-step:" + guide.id, "range covers no step", Severity::bad,
                   fmt::format("{} acts from {:.0f} to {:.0f} %, which covers none of the {} steps: it does nothing.",
                               guide.name, guide.range.from, guide.range.to, state.brief.steps),
                   "Whole way", [id = guide.id](StudyState& s) { s.guide(id)->range = {}; }});
  if (guide.weight <= 0)
    out.push_back({"no-weight:" + guide.id, "weight is 0", Severity::doubt,
                   fmt::format("{} is on, but its weight is 0: it does nothing.", guide.name), "Set to 0.70",
                   [id = guide.id](StudyState& s) { s.guide(id)->weight = 0.7; }});
  if (guide.retouchHidden && guide.work.has(retouchSlot))
    out.push_back({"hidden-retouch:" + guide.id, "retouch hidden", Severity::doubt,
                   fmt::format("The retouch of {} is hidden: its map goes out as it was extracted.", guide.name),
                   "Show retouch", [id = guide.id](StudyState& s) { s.guide(id)->retouchHidden = false; }});
  const auto found = facts.find(guide.id);
  if (found == facts.end()) return;
  const MapFacts& known = found->second;
  if (guide.limited() && known.number("acts").value_or(1) < actsNowhere) {
    out.push_back({"no-region:" + guide.id, "region empty", Severity::bad,
                   fmt::format("The region of {} leaves it nothing of the frame: it does nothing.", guide.name),
                   "Clear region", [id = guide.id](StudyState& s) { s.guide(id)->clearRegion(); }});
    return;
  }
  const Kind& kind = kindOf(guide.kind);
  if (!kind.check) return;
  for (KindCheck& own : kind.check(guide, known, state.brief.prompt)) {
    Check check{own.id + ":" + guide.id, own.brief, own.severity, own.sentence, own.fixName, {}};
    if (own.fix)
      check.fix = [id = guide.id, fix = std::move(own.fix)](StudyState& s) { fix(*s.guide(id), s.brief.prompt); };
    const bool there = std::any_of(state.guides.begin(), state.guides.end(), [&](const Guide& g) {
      return g.kind == own.otherKind && g.reference == guide.reference;
    });
    if (!own.otherKind.empty() && !there && !guide.reference.empty()) {
      check.otherName = "Add " + kindOf(own.otherKind).id;
      check.other = [id = guide.id, kind = own.otherKind](StudyState& s) {
        Guide other;
        other.id = newId(s, "g");
        other.kind = kind;
        other.name = kindOf(kind).name;
        other.reference = s.guide(id)->reference;
        other.weight = s.guide(id)->weight;
        s.looking.guide = other.id;
        s.guides.push_back(std::move(other));
      };
    }
    out.push_back(std::move(check));
  }
}

/// Guides that the engine would take no notice of.
void checkEngine(const StudyState& state, const EngineInfo& engine, std::vector<Check>& out) {
  if (engine.missing) {
    out.push_back({"engine-missing", "engine not here", Severity::bad, engineMissing(engine.name),
                   "Use the built-in stand-in", [](StudyState& s) { s.engine = builtInEngine; }});
    return;
  }
  const auto doubt = [&](std::string id, std::string brief, std::string sentence, std::string fixName,
                         std::function<void(StudyState&)> fix) {
    out.push_back(
        {std::move(id), std::move(brief), Severity::doubt, std::move(sentence), std::move(fixName), std::move(fix)});
  };
  if (!engine.trouble.empty())
    out.push_back({"engine-trouble", "engine in trouble", Severity::bad, engine.trouble, "", {}});
  if (!serves(engine, state.family)) {
    std::vector<std::string> names;
    for (const EngineFamily& each : engine.families) names.push_back(each.name);
    out.push_back({"family", "family of models", Severity::bad,
                   fmt::format("{} has no models of the family \"{}\"{}", engine.title, state.family,
                               names.empty() ? "." : fmt::format(", but of {}.", fmt::join(names, ", "))),
                   names.empty() ? "Ask for none" : "Take " + names.front(),
                   [name = names.empty() ? std::string() : names.front()](StudyState& s) { s.family = name; }});
  }
  if (state.sizeStep % engine.sizeStep != 0 && !isOnStep(state.frame, engine.sizeStep)) {
    const Size near = onStep(state.frame, engine.sizeStep);
    out.push_back({"engine-step", "size step", Severity::bad,
                   fmt::format("The frame is {} x {}, but {} wants both sides in steps of {}.", state.frame.width,
                               state.frame.height, engine.title, engine.sizeStep),
                   fmt::format("{} x {}", near.width, near.height), [near, step = engine.sizeStep](StudyState& s) {
                     s.frame = near;
                     s.sizeStep = step;
                   }});
  }
  if (engine.mostPixels > 0 && state.frame.area() > engine.mostPixels)
    out.push_back({"too-large",
                   "frame too large",
                   Severity::bad,
                   fmt::format("The frame has {:.1f} megapixels, but {} makes at most {:.1f}.", megapixels(state.frame),
                               engine.title, static_cast<double>(engine.mostPixels) / 1e6),
                   "",
                   {}});
  const Brief& brief = state.brief;
  const auto within = [&](const char* id, const char* name, double value, const Limits& limits,
                          const std::function<void(Brief&, double)>& set) {
    double nearest = value;
    keepWithin(nearest, limits);
    if (nearest != value)
      doubt(id, name, fmt::format("{} takes {} from {} to {}.", engine.title, name, limits.least, limits.most),
            fmt::format("Set to {}", nearest), [set, nearest](StudyState& s) { set(s.brief, nearest); });
  };
  within("engine-steps", "steps", brief.steps, engine.steps,
         [](Brief& b, double value) { b.steps = static_cast<int>(value); });
  within("engine-guidance", "guidance", brief.guidance, engine.guidance,
         [](Brief& b, double value) { b.guidance = value; });
  const Understood& understands = engine.understands;
  if (brief.start.given() && !understands.startPictures)
    doubt("no-start", "start picture", engine.title + " takes no start pictures: it does nothing.", "Take it out",
          [](StudyState& s) { s.brief.start = {}; });
  if (brief.start.wordsToWords() && understands.startPictures && !understands.wordsToWords)
    doubt("no-words-to-words", "words to words",
          engine.title + " does not change from words to words: all of the prompt acts.", "", {});
  if (!brief.colours.empty() && !understands.colours)
    doubt("no-colours", "wanted colours", engine.title + " takes no notice of wanted colours: name them in the prompt.",
          "Take them away", [](StudyState& s) { s.brief.colours.clear(); });
  if (!brief.avoid.empty() && !understands.avoid)
    doubt("no-avoid", "avoid", engine.title + " takes no notice of what is to be avoided.", "", {});
  if (!brief.emphasis.empty() && !understands.emphasis)
    doubt("no-emphasis", "emphasis", engine.title + " takes no notice of emphasis: all words count alike.", "", {});
  for (const Guide& guide : state.guides) {
    if (!guide.on) continue;
    if (guide.limited() && !understands.regions)
      doubt("no-region:" + guide.id, "region",
            fmt::format("{} knows no regions: {} acts everywhere.", engine.title, guide.name), "", {});
    const Range& range = guide.range;
    const bool parts =
        range.from > 0 || range.to<100, ramped = range.rampIn> 0 || range.rampOut > 0 || !range.shape.empty();
    if (parts && !understands.ranges)
      doubt("no-range:" + guide.id, "range",
            fmt::format("{} knows no ranges: {} acts the whole way.", engine.title, guide.name), "", {});
    else if (ramped && !understands.ramps)
      doubt("no-ramp:" + guide.id, "ramps",
            fmt::format("{} knows no ramps: {} begins and ends hard.", engine.title, guide.name), "", {});
  }
  const auto& kinds = kindsIn(engine, serves(engine, state.family) ? state.family : std::string());
  for (const Guide& guide : state.guides) {
    if (!guide.on || std::find(kinds.begin(), kinds.end(), guide.kind) != kinds.end()) continue;
    const bool elsewhere = std::find(engine.kinds.begin(), engine.kinds.end(), guide.kind) != engine.kinds.end();
    out.push_back({"not-known:" + guide.id, "kind not known", Severity::bad,
                   fmt::format("{} does nothing: {} does not know guides of the kind {}{}.", guide.name, engine.title,
                               kindOf(guide.kind).name, elsewhere ? " in this family of models" : ""),
                   "Turn off", [id = guide.id](StudyState& s) { s.guide(id)->on = false; }});
  }
}

/// Mean load over the steps.
double meanLoad(const Guide& guide) { return guide.on ? guide.weight * meanRamp(guide.range) : 0; }

/// Guides that act in the same steps and ask for different things in the same places.
void checkPairs(const StudyState& state, const std::map<std::string, MapFacts>& facts, MapPairs& pairs,
                std::vector<Check>& out) {
  const int steps = state.brief.steps;
  for (std::size_t i = 0; i < state.guides.size(); ++i)
    for (std::size_t j = i + 1; j < state.guides.size(); ++j) {
      const Guide &first = state.guides[i], &second = state.guides[j];
      const auto a = facts.find(first.id), b = facts.find(second.id);
      if (a == facts.end() || b == facts.end() || !a->second.sketch || !b->second.sketch) continue;
      bool together = false;
      for (int step = 0; step < steps && !together; ++step)
        together = loadAt(first, step, steps) > 0 && loadAt(second, step, steps) > 0;
      if (!together) continue;
      const auto& found = pairs.between(a->second.sketch, b->second.sketch);
      if (!found) continue;
      const bool bodies = kindOf(first.kind).nature == MapNature::inks || kindOf(second.kind).nature == MapNature::inks;
      const bool firstLeads = meanLoad(first) >= meanLoad(second);
      const Guide &leads = firstLeads ? first : second, &follows = firstLeads ? second : first;
      Check check{"against:" + first.id + ":" + second.id,
                  "guides disagree",
                  Severity::doubt,
                  fmt::format("{} and {} contradict each other, most in the {}: {}.", first.name, second.name,
                              found->place.name,
                              !found->ofBorders ? "one is light where the other is dark"
                              : bodies          ? "a body's outline is not in what the other has there"
                                                : "both have lines there, but not the same ones"),
                  "Take turns",
                  [leads = leads.id, follows = follows.id](StudyState& s) {
                    // The stronger one lays the picture out, the other comes in when that has settled.
                    constexpr double change = 40;
                    Range &before = s.guide(leads)->range, &after = s.guide(follows)->range;
                    before.to = std::clamp(before.to, before.from, std::max(before.from, change));
                    after.from = std::clamp(change, after.from, 100.0);
                    after.to = std::max(after.to, std::min(100.0, after.from + change));
                  },
                  "Turn off " + follows.name,
                  [id = follows.id](StudyState& s) { s.guide(id)->on = false; }};
      check.place = found->place;
      out.push_back(std::move(check));
    }
}

void checkBrief(const StudyState& state, std::vector<Check>& out) {
  const StartPicture& start = state.brief.start;
  const auto takeAway = [](StudyState& s) { s.brief.start = {}; };
  if (startIsGone(state))
    out.push_back({"start-gone", "no start picture", Severity::bad,
                   start.from == StartPicture::From::guide
                       ? "The start picture is what a guide shows that is off or gone: pulls begin without one."
                       : "The start picture was a reference that has been taken out: pulls begin without one.",
                   "Take away", takeAway});
  else if (start.given() && start.change <= 0 && !start.wordsToWords())
    out.push_back({"start-whole", "change amount 0", Severity::doubt,
                   "The change amount is 0: a pull gives the start picture itself.", "Set to 0.60",
                   [](StudyState& s) { s.brief.start.change = StartPicture{}.change; }});
  else if (start.given() && start.change >= 1 && !start.wordsToWords())
    out.push_back({"start-none", "change amount 1", Severity::doubt,
                   "The change amount is 1: nothing is left of the start picture.", "Set to 0.60",
                   [](StudyState& s) { s.brief.start.change = StartPicture{}.change; }, "Take away", takeAway});
  if (start.given() && start.moodOnly && !startIsGone(state)) {
    const auto onAnd = [&](const auto& fits) {
      return std::any_of(state.guides.begin(), state.guides.end(),
                         [&](const Guide& guide) { return guide.on && fits(guide); });
    };
    const mood::Sorting sorting = start.mood.sorting;
    const bool byDepth = sorting == mood::Sorting::byDepth;
    const bool there =
        sorting == mood::Sorting::asItLies ||
        (byDepth ? onAnd([](const Guide& guide) { return kindOf(guide.kind).nearIsLight; })
                 : onAnd([&](const Guide& guide) {
                     return guide.reference != start.reference && state.reference(guide.reference) != nullptr;
                   }));
    if (!there)
      out.push_back({"mood-no-layout", "mood has no layout", Severity::doubt,
                     byDepth ? "The mood is to be sorted by depth, and no depth guide is on: it lies as it does."
                             : "The mood is to be sorted into a layout, and no guide of another reference is on: it "
                               "lies as it does.",
                     "As it lies", [](StudyState& s) { s.brief.start.mood.sorting = mood::Sorting::asItLies; }});
  }
  if (!start.given() && !(start.shows.empty() && start.wanted.empty()))
    out.push_back({"words-no-start", "no start picture", Severity::doubt,
                   "What is shown and what is wanted act on a start picture, and there is none: they do nothing.",
                   "Clear both", [](StudyState& s) {
                     s.brief.start.shows.clear();
                     s.brief.start.wanted.clear();
                   }});
  if (const auto both = wordsInBoth(state.brief); !both.empty())
    out.push_back({"prompt-avoid", "prompt against avoid", Severity::doubt,
                   fmt::format("{} in the prompt and in avoid: one undoes the other.",
                               both.size() == 1 ? fmt::format("\"{}\" is", both.front())
                                                : fmt::format("\"{}\" are", fmt::join(both, "\", \""))),
                   "Take out of avoid", [both](StudyState& s) {
                     for (const auto& word : both) s.brief.avoid = withoutWord(s.brief.avoid, word);
                   }});
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
                "small reference",
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
  // How much of the picture the frame shows, from how much of the frame it covers.
  const double shown = coverage(reference.placement, reference.size, state.frame) *
                       static_cast<double>(state.frame.area()) /
                       (static_cast<double>(reference.size.area()) * p.scaleX * p.scaleY);
  if (reference.placement.fit == Fit::cover && 1 - shown > muchOutside) {
    Check check{"cut-off:" + reference.id,
                "reference cut off",
                Severity::doubt,
                fmt::format("{:.0f} % of {} lies outside the frame.", (1 - shown) * 100, reference.name),
                "Show all of it",
                [id = reference.id](StudyState& s) { s.reference(id)->placement.fit = Fit::contain; }};
    const auto sizes = sizesByMegapixels(ratioOf(reference.size), megapixels(state.frame), state.sizeStep, 1);
    if (!sizes.empty() && sizes.front().size != state.frame) {
      check.otherName = "Take its ratio";
      check.other = [size = sizes.front().size](StudyState& s) { s.frame = size; };
    }
    out.push_back(std::move(check));
  }
  const double turn = std::abs(std::remainder(reference.placement.turn, 180));
  const Size upright = turn > 45 ? swapped(reference.size) : reference.size;
  const double wide = static_cast<double>(upright.width) / upright.height,
               frame = static_cast<double>(state.frame.width) / state.frame.height;
  if ((wide > 1.15 && frame < 0.87) || (wide < 0.87 && frame > 1.15))
    out.push_back({"swapped:" + reference.id, "sides swapped?", Severity::doubt,
                   fmt::format("{} is {}, but the frame is {}: width and height may be swapped.", reference.name,
                               wide > 1 ? "wide" : "tall", frame > 1 ? "wide" : "tall"),
                   "Swap sides", [](StudyState& s) { s.frame = swapped(s.frame); }});
}

}  // namespace

std::vector<Check> checksOf(const StudyState& state, const std::map<std::string, MapFacts>& facts) {
  MapPairs pairs;
  return checksOf(state, facts, pairs);
}

std::vector<Check> checksOf(const StudyState& state, const std::map<std::string, MapFacts>& facts, MapPairs& pairs,
                            const EngineInfo* engine, std::span<const ProofInfo> proofs) {
  std::vector<Check> out;
  if (!isOnStep(state.frame, state.sizeStep)) {
    const Size near = onStep(state.frame, state.sizeStep);
    out.push_back({"off-step", "size step", Severity::bad,
                   fmt::format("The frame is {} x {}, but the engine wants both sides in steps of {}.",
                               state.frame.width, state.frame.height, state.sizeStep),
                   fmt::format("{} x {}", near.width, near.height), [near](StudyState& s) { s.frame = near; }});
  }
  const bool anyOn = std::any_of(state.guides.begin(), state.guides.end(), [](const Guide& g) { return g.on; });
  if (!anyOn) {
    Check check{"no-guide", "no guide on", Severity::doubt, "", "", {}};
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
  checkBrief(state, out);
  if (const auto against = wordsAgainstCode(state, proofs))
    out.push_back(
        {"avoid-breaks-code", "avoid breaks the code", Severity::doubt,
         fmt::format("With \"{}\" avoided the code scanned with margin {:.0f} (proof {}), without it with {:.0f} "
                     "(proof {}): what a code is made of is kept away.",
                     fmt::join(against->words, "\", \""), against->with, against->proofWith, against->without,
                     against->proofWithout),
         "Take out of avoid", [words = against->words](StudyState& s) {
           for (const auto& word : words) s.brief.avoid = withoutWord(s.brief.avoid, word);
         }});
  for (const Guide& guide : state.guides) checkGuide(state, guide, facts, out);
  const auto acting = engine != nullptr ? asUnderstood(state.guides, *engine, state.family) : state.guides;
  for (std::size_t i = 0; i < state.guides.size(); ++i)
    if (isDrowned(acting, i, state.brief.steps, state.comfort))
      out.push_back({"drowned:" + state.guides[i].id, "guide drowned", Severity::doubt,
                     fmt::format("{} acts only where the other guides already reach a full load: hardly anything of it "
                                 "will be seen.",
                                 state.guides[i].name),
                     "Turn off", [id = state.guides[i].id](StudyState& s) { s.guide(id)->on = false; }});
  if (engine != nullptr) checkEngine(state, *engine, out);
  checkPairs(state, facts, pairs, out);
  for (const Reference& reference : state.references) checkReference(state, reference, out);
  const auto load = totalLoad(acting, state.brief.steps);
  const double most = load.empty() ? 0 : *std::max_element(load.begin(), load.end());
  if (most > state.comfort + 0.005)
    out.push_back({"high-load", "high load", Severity::doubt,
                   fmt::format("Guides together reach a load of {:.2f}; above {:.1f} the prompt has little room.", most,
                               state.comfort),
                   "Bring down", [most](StudyState& s) {
                     for (Guide& guide : s.guides)
                       if (guide.on) guide.weight = std::floor(guide.weight * s.comfort / most * 100) / 100;
                   }});
  std::erase_if(out, [&](const Check& check) { return state.leftBe.contains(check.id); });
  std::stable_sort(out.begin(), out.end(), [](const Check& a, const Check& b) { return a.severity > b.severity; });
  return out;
}

}  // namespace hscaffold
