// Patterns: codes, ready shapes, pictures in light and dark.
#include <fmt/format.h>

#include <cmath>

#include "core/guides/kind.h"
#include "core/image/widen.h"
#include "core/measure/scan.h"
#include "core/pattern/letters.h"
#include "core/pattern/pattern.h"
#include "core/text.h"

namespace hscaffold {

Kind patternKind();

namespace {

using namespace pattern;

/// Modules smaller than that are lost in strokes of the brush.
constexpr int leastModule = 8;
/// Codes with more modules a side than that hardly survive a picture.
constexpr int mostSide = 33;
/// Pixels on the longer side of the smallest picture in which a shape should be seen, and what a light and a dark
/// together must have there.
constexpr double seenAfar = 48, leastAfar = 2.4;
/// Later than that, light and dark have settled without the pattern.
constexpr double latestEntry = 45;
constexpr double usualEntry = 15, usualWeight = 1.15;

Extraction makePattern(const MapGround& ground, ExtractionCache&, StopToken stop) {
  const PatternTuning tuning = patternTuningFrom(ground.tuning);
  Extraction out;
  try {
    out.map = widened(patternMap(tuning, ground.place.frame, ground.picture, stop),
                      [](float v) { return static_cast<std::uint16_t>(std::lround(v * 65535.0f)); });
    if (tuning.what == What::code) {
      const CodePlace placed = codePlaced(tuning, ground.place.frame);
      const int side = placed.code.side();
      out.facts = {{"side", side},
                   {"module", placed.module},
                   {"outside", placed.outside},
                   {"free", static_cast<double>(tuning.centreFree * tuning.centreFree) / (side * side)},
                   {"restorable", restorable(tuning.correction)}};
      if (placed.outside > 0)
        out.note =
            fmt::format("{:.0f} % of its modules lie outside of the frame.", std::max(1.0, 100 * placed.outside));
      const auto letters = charactersIn(tuning.says);
      out.found = fmt::format("{} {}: {} modules a side, {} px each", letters, letters == 1 ? "letter" : "letters",
                              side, placed.module);
    } else if (const auto period = periodOf(tuning, ground.place.frame); period && !tuning.corners) {
      const Size frame = ground.place.frame;
      out.facts["afar"] = seenAfar * *period / std::max(frame.width, frame.height);
    } else if (tuning.what == What::picture && ground.picture.empty()) {
      out.note = "It needs a picture: make it from a reference.";
      out.facts["empty"] = 1;
    }
  } catch (const Problem& problem) {
    // An artist types the text letter by letter: what cannot be a code yet asks for nothing.
    constexpr std::uint16_t nothing = 32768;
    out.map = Map(ground.place.frame.width, ground.place.frame.height, nothing);
    out.note = problem.what();
    out.facts["empty"] = 1;
  }
  return out;
}

/// Why nothing can be made of it; empty where something can.
std::string whatHinders(const PatternTuning& tuning) {
  try {
    if (tuning.what == What::code) codeOf(tuning.says, tuning.correction);
    if (tuning.what == What::letters) lettering(tuning.says);
    if (tuning.corners && tuning.what != What::picture) cornersFrom(*tuning.corners, {100, 100});
    return {};
  } catch (const Problem& problem) {
    return problem.what();
  }
}

void tellPattern(const GuideInput&, const Extraction& details, MapFacts& facts, ExtractionCache&, StopToken) {
  for (const auto& [name, value] : details.facts) facts.numbers[name] = value;
}

std::vector<KindCheck> checkPattern(const Guide& guide, const MapFacts& facts, const std::string&) {
  std::vector<KindCheck> out;
  const PatternTuning tuning = patternTuningFrom(guide.tuning);
  const auto doubt = [&](const char* id, const char* brief, Severity severity, std::string sentence,
                         std::string fixName = {}, std::function<void(Guide&, std::string&)> fix = {}) {
    out.push_back({id, brief, severity, std::move(sentence), std::move(fixName), std::move(fix)});
  };
  if (facts.number("empty").value_or(0) > 0) {
    const bool typed = tuning.what == What::code || tuning.what == What::letters;
    if (tuning.what == What::picture)
      doubt("no-pattern", "no pattern", Severity::bad,
            guide.name + " is to be made from a picture and has none: choose a reference for it.");
    else if (typed && tuning.says.empty())
      doubt("no-pattern", "no pattern", Severity::bad, guide.name + " shows nothing: type what it says.");
    else
      doubt("no-pattern", "no pattern", Severity::bad, guide.name + " shows nothing. " + whatHinders(tuning),
            tuning.corners ? "Lay it in the middle" : "", [](Guide& g, std::string&) { layInMiddle(g.tuning); });
    return out;
  }
  if (guide.range.from > latestEntry)
    doubt("late-pattern", "pattern enters late", Severity::doubt,
          fmt::format("{} enters at {:.0f} %: light and dark have settled by then. Patterns enter at 15 to 30 %.",
                      guide.name, guide.range.from),
          "Enter at 15 %", [](Guide& g, std::string&) {
            g.range = {usualEntry, std::max(g.range.to, 100.0), 0, g.range.rampOut};
          });
  if (const auto afar = facts.number("afar"); afar && *afar < leastAfar)
    doubt("fine-shape", "shape is fine", Severity::doubt,
          fmt::format("{} is so fine that it runs together from afar: fewer and broader ones are seen.", guide.name),
          "Make it broader", [afar = *afar, count = tuning.count](Guide& g, std::string&) {
            g.tuning["count"] = std::max(2.0, std::floor(count * afar / leastAfar));
          });
  if (tuning.what != What::code) return out;
  if (guide.weight < 0.8 && guide.weight > 0)
    doubt("faint-code", "code is faint", Severity::doubt,
          fmt::format("{} at {:.2f} hardly scans: codes want about {}.", guide.name, guide.weight, usualWeight),
          fmt::format("Set {}", usualWeight), [](Guide& g, std::string&) { g.weight = usualWeight; });
  if (const double outside = facts.number("outside").value_or(0); outside > 0)
    doubt("code-outside", "code outside", Severity::bad,
          fmt::format("{:.0f} % of the modules of {} lie outside of the frame: it cannot scan.",
                      std::max(1.0, 100 * outside), guide.name),
          "Put it in the middle", [](Guide& g, std::string&) {
            layInMiddle(g.tuning);
            g.tuning.erase("module");
          });
  if (const double free = facts.number("free").value_or(0), most = facts.number("restorable").value_or(1);
      free > 0.5 * most)
    doubt("centre-wide", "centre too wide", free > most ? Severity::bad : Severity::doubt,
          fmt::format("The free centre of {} takes {:.0f} % of its modules, and {:.0f} % can be restored: the picture "
                      "needs some of that.",
                      guide.name, 100 * free, 100 * most),
          "Make it smaller", [side = facts.number("side").value_or(21), most](Guide& g, std::string&) {
            g.tuning["centre-free"] = std::floor(side * std::sqrt(0.3 * most));
          });
  if (facts.number("module").value_or(leastModule) < leastModule)
    doubt("fine-code", "modules are small", Severity::doubt,
          fmt::format("The modules of {} are {:.0f} px: strokes of the brush swallow them. A shorter text, a lower "
                      "correction or a larger frame makes them larger.",
                      guide.name, *facts.number("module")));
  else if (facts.number("side").value_or(0) > mostSide)
    doubt("long-code", "long text", Severity::doubt,
          fmt::format("The text of {} takes {:.0f} modules a side: shorter ones scan better.", guide.name,
                      *facts.number("side")));
  return out;
}

}  // namespace

Kind patternKind() {
  return {.id = "pattern",
          .name = "Pattern",
          .letter = 'C',
          .colour = 0x86b35c,
          .nature = MapNature::halfTones,
          .help = "Light and dark that the picture takes on: a code that scans, a shape seen from afar.",
          .fields = &patternTuningFields(),
          .onSettings = true,
          .startWeight = usualWeight,
          .startRange = {usualEntry, 100, 0, 0},
          .startReason =
              "Enters at 15 % and stays, strong: the picture is composed first, then its light and dark "
              "settle as the pattern has them.",
          .make = makePattern,
          .tell = tellPattern,
          .check = checkPattern,
          .measure = [](const GuideInput& input, const ProofSeen& proof, StopToken stop) {
            return patternHolding(input.map, proof, stop);
          }};
}

}  // namespace hscaffold
