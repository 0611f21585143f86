#include <fmt/format.h>

#include <algorithm>
#include <map>
#include <nlohmann/json.hpp>

#include "core/guides/kind.h"
#include "core/image/colour.h"
#include "core/pose/coco.h"
#include "core/pose/pose_hold.h"
#include "core/pose/pose_map.h"
#include "core/pose/pose_svg.h"
#include "core/pose/pose_words.h"
#include "core/pose/solids.h"

namespace hscaffold {

Kind poseKind();

namespace {

const pose::Inks& inksIn(const GuideWork& work) {
  const auto inks = work.get<pose::Inks>(pose::inksSlot);
  return inks ? *inks : pose::houseInks();
}

Extraction make(const MapGround& ground, ExtractionCache&, StopToken stop) {
  const auto figures = ground.work.get<pose::Figures>(pose::figuresSlot);
  const auto& [frame, placing] = ground.place;
  Extraction out;
  if (!figures) {
    out.map = Map(frame);
    out.colour = ColourMap(frame);
    return out;
  }
  out.colour = pose::drawnFigures(following(*figures, frame, placing), frame, inksIn(ground.work),
                                  pose::thicknessIn(ground.tuning), stop);
  out.map = brightnessOf(out.colour);
  return out;
}

/// What was told before of the same figures is not found anew.
using KnownWords = std::map<std::shared_ptr<const pose::Figure>, pose::PoseWords>;

void tellFigures(const GuideInput& input, const Extraction&, MapFacts& facts, ExtractionCache& cache, StopToken stop) {
  const auto placed = input.work.get<pose::Figures>(pose::figuresSlot);
  if (!placed) {
    facts.numbers["figures"] = 0;
    return;
  }
  const auto known = std::static_pointer_cast<const KnownWords>(cache.value);
  auto now = std::make_shared<KnownWords>();
  int on = 0, outside = 0;
  for (const auto& figure : placed->figures) {
    throwIfStopped(stop);
    if (!figure->on) continue;
    ++on;
    const auto box = pose::boundsOf(*figure);
    if (box &&
        (box->right < 0 || box->bottom < 0 || box->left > placed->frame.width || box->top > placed->frame.height))
      ++outside;
    const auto found = known ? known->find(figure) : KnownWords::const_iterator{};
    const bool isKnown = known && found != known->end();
    const auto& words = (*now)[figure] = isKnown ? found->second : pose::wordsFor(*figure);
    if (!words.stance.empty() &&
        std::find(facts.stances.begin(), facts.stances.end(), words.stance) == facts.stances.end())
      facts.stances.push_back(words.stance);
    facts.words = words.text() + (facts.words.empty() ? "" : "; ") + facts.words;  // near ones first
  }
  facts.numbers["figures"] = on;
  facts.numbers["outside"] = outside;
  cache.value = std::move(now);
}

std::vector<KindCheck> checkFigures(const Guide& guide, const MapFacts& facts, const std::string& prompt) {
  const auto figures = facts.number("figures");
  if (!figures) return {};
  if (*figures == 0)
    return {
        {"no-figure",
         "no figure",
         Severity::bad,
         fmt::format("{} has no figure that is on: it does nothing. Put a pose on the picture, or find figures in it.",
                     guide.name),
         "",
         {}}};
  std::vector<KindCheck> out;
  if (const double outside = facts.number("outside").value_or(0); outside > 0)
    out.push_back({"figure-outside",
                   "figure outside",
                   Severity::doubt,
                   fmt::format("{} of the {} figures of {} {} outside the frame.", outside, *figures, guide.name,
                               outside == 1 ? "is" : "are"),
                   "",
                   {}});
  for (const std::string& said : pose::stancesIn(prompt)) {
    if (facts.stances.empty() || std::any_of(facts.stances.begin(), facts.stances.end(),
                                             [&](const std::string& does) { return pose::agree(said, does); }))
      continue;
    const std::string does = facts.stances.front();
    out.push_back(
        {"prompt-pose", "prompt and pose differ", Severity::doubt,
         fmt::format("The prompt says {}, but {} is {}: they pull against each other.", said, guide.name, does),
         fmt::format("Say {}", does),
         [said, does](Guide&, std::string& text) { text = pose::withStance(text, said, does); }});
  }
  return out;
}

/// Outlines of bodies that are large enough to have any.
Borders bordersOf(const GuideInput& input) {
  constexpr double least = 0.15;  // of the frame's longer side
  constexpr double loose = 0.03;  // of a body's size: how far from it clothes end
  Borders out{Map(input.map.size())};
  const auto figures = input.work.get<pose::Figures>(pose::figuresSlot);
  if (!figures) return out;
  const double longer = std::max(figures->frame.width, figures->frame.height);
  for (const auto& figure : figures->figures)
    if (const double size = pose::sizeOf(*figure); figure->on && size >= least * longer) {
      pose::drawOutline(out.lines, *figure);
      out.stray = std::max(out.stray, loose * size);
    }
  return out;
}

const pose::Figures& figuresOf(const ExportAsk& ask) {
  static const pose::Figures none;
  const auto figures = ask.input.work.get<pose::Figures>(pose::figuresSlot);
  return figures ? *figures : none;
}

std::string writeSvg(const ExportAsk& ask) {
  return pose::svgFrom(figuresOf(ask), inksIn(ask.input.work), pose::thicknessIn(ask.guide.tuning), ask.title);
}

std::string writeCoco(const ExportAsk& ask) { return pose::cocoFrom(figuresOf(ask)).dump(1) + "\n"; }

GuideInput readCoco(std::span<const std::byte> bytes, const std::string& name, Size frame, const Tuning& tuning) {
  auto read = pose::figuresFromCoco(textOf(bytes), name);
  auto figures = std::make_shared<const pose::Figures>(pose::fittedInto(std::move(read.figures), read.size, frame));
  GuideInput out;
  out.colour = pose::drawnFigures(*figures, frame, pose::houseInks(), pose::thicknessIn(tuning));
  out.map = brightnessOf(out.colour);
  out.work.put(pose::figuresSlot, std::any(std::move(figures)));
  return out;
}

}  // namespace

Kind poseKind() {
  return {.id = "pose",
          .name = "Pose",
          .letter = 'P',
          .colour = 0xe2725b,
          .nature = MapNature::inks,
          .help = "Figures as skeletons: where limbs are and which way they face.",
          .fields = &pose::poseTuningFields(),
          .coloured = true,
          .workSlots = {{pose::figuresSlot, &pose::figuresForm(), true}, {pose::inksSlot, &pose::inksForm()}},
          .make = make,
          .tell = tellFigures,
          .check = checkFigures,
          .measure = [](const GuideInput& input, const ProofSeen& proof, StopToken stop) -> Holding {
            const auto figures = input.work.get<pose::Figures>(pose::figuresSlot);
            return figures ? pose::poseHolding(*figures, proof, stop) : Holding{};
          },
          .borders = bordersOf,
          .exports = {{".svg", "SVG shapes", writeSvg}, {".json", "COCO key points", writeCoco}},
          .besideEnding = ".json",
          .readBeside = readCoco};
}

}  // namespace hscaffold
