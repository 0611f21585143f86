// judge-sizes: whether a small proof tells what the large one does. Pulls strips of weights and of range ends of every
// kind at both sizes and compares hold, tone and what the strips advise.
#include <fmt/format.h>

#include <CLI/CLI.hpp>
#include <algorithm>
#include <filesystem>

#include "core/engine/standin/standin.h"
#include "core/frame/frame.h"
#include "core/image/narrow.h"
#include "core/job/prepare.h"
#include "core/job/pull.h"
#include "core/kinds.h"
#include "core/pose/find/network_finder.h"
#include "core/sheet/reading.h"
#include "core/sheet/size_trial.h"
#include "files/picture_reader.h"

namespace {

using namespace hscaffold;

struct Pair {
  std::string what;
  double small = 0, full = 0;
  double tone = 1;  ///< correlation of both proofs at 64 pixels
  [[nodiscard]] double off() const { return std::abs(small - full); }
};

struct Strip {
  std::string what;
  std::vector<Pair> pairs;
  int advisedSmall = -1, advisedFull = -1;  ///< settings; -1: none
};

/// The strips of one picture and kind.
std::vector<Strip> stripsOf(const std::string& name, const Image<Rgba16>& picture, const std::string& kind,
                            const std::string& prompt, int side, bool anew, const std::string& keep, bool again) {
  Recipe recipe;
  recipe.frame = smallSize({picture.width() * 8, picture.height() * 8}, 768, 8);
  recipe.brief.prompt = prompt;
  recipe.brief.seed = 4117;
  recipe.references = {{"r1", name, {}, {}}};
  RecipeGuide entry;
  entry.guide.id = "g1";
  entry.guide.kind = entry.guide.name = kind;
  entry.guide.reference = "r1";
  recipe.guides = {entry};
  const auto shared = std::make_shared<const Image<Rgba16>>(picture.clone());
  pose::Figures figures;
  if (kind == "pose") {
    figures.frame = recipe.frame;
    const auto placed = place(*shared, {}, recipe.frame, {});
    pose::NetworkFinder finder;
    for (auto& figure : pose::tidied(finder.find(placed.view(), {})))
      figures.figures.push_back(std::make_shared<const pose::Figure>(std::move(figure)));
    if (figures.figures.empty()) return {};
  }
  const JobSources sources{[&](const RecipeReference&) { return shared; },
                           {},
                           [&](const Guide&) {
                             TakenWork work;
                             if (kind == "pose")
                               work.own.put(pose::figuresSlot, std::make_shared<const pose::Figures>(figures));
                             return work;
                           }};
  Recipe small = atSize(recipe, smallSize(recipe.frame, side, 8));
  if (anew) small.mapsFrame = {};
  StandinEngine engine;
  MadeMaps made(mostMadeBytes);
  std::vector<Strip> out;
  for (const auto& [setting, values] : {std::pair{Setting::weight, std::vector<double>{0.2, 0.4, 0.6, 0.8, 1.0}},
                                        std::pair{Setting::end, std::vector<double>{15, 30, 50, 75, 100}}}) {
    Strip strip{name + " " + kind + (setting == Setting::weight ? " weight" : " end"), {}};
    std::vector<MeasuredCell> cells[2];
    SheetPlan plans[2];
    std::vector<Image<Rgb8>> proofs[2];
    const auto keptAs = [&](int cell, int which) {
      return std::filesystem::path(keep) / fmt::format("{} {} {}.png", strip.what,
                                                       values[static_cast<std::size_t>(cell)],
                                                       which == 0 ? "small" : "full");
    };
    for (const int which : {0, 1}) {
      SheetPlan& plan = plans[which];
      plan.base = which == 0 ? small : recipe;
      plan.seeds = {4117};
      Axis axis;
      axis.setting = setting;
      axis.of = "g1";
      axis.values = values;
      plan.axes = {axis};
      for (int cell = 0; cell < plan.cells(); ++cell) {
        auto job = jobFrom(recipeOfCell(plan, cell), sources, {}, &made);
        auto proof = again ? inEightBits(readPicture(keptAs(cell, which)).picture) : engine.generate(job.job, {}, {});
        const auto measures = measuresOf(job.job, job.reference.get(), proof);
        const auto hold = measures.holds.find("g1");
        cells[which].push_back({cell, hold != measures.holds.end() ? hold->second : 0, measures.shift.value_or(0.0)});
        proofs[which].push_back(std::move(proof));
      }
    }
    for (std::size_t i = 0; i < values.size(); ++i)
      strip.pairs.push_back({fmt::format("{} {}", strip.what, values[i]), cells[0][i].hold, cells[1][i].hold,
                             toneAlike(ProofSeen(proofs[0][i]), ProofSeen(proofs[1][i]))});
    if (!keep.empty() && !again)
      for (const int which : {0, 1})
        for (int cell = 0; cell < plans[which].cells(); ++cell)
          writePicture(keptAs(cell, which), proofs[which][static_cast<std::size_t>(cell)]);
    strip.advisedSmall = readingOf(plans[0], cells[0]).advised.value_or(-1);
    strip.advisedFull = readingOf(plans[1], cells[1]).advised.value_or(-1);
    out.push_back(std::move(strip));
  }
  return out;
}

void report(const std::string& title, const std::vector<Strip>& strips) {
  std::vector<Pair> all;
  int advised = 0, near = 0;
  for (const Strip& strip : strips) {
    all.insert(all.end(), strip.pairs.begin(), strip.pairs.end());
    ++advised;
    near += std::abs(strip.advisedSmall - strip.advisedFull) <= 1 ? 1 : 0;
  }
  if (all.empty()) return;
  std::sort(all.begin(), all.end(), [](const Pair& a, const Pair& b) { return a.off() > b.off(); });
  const auto share = [&](auto&& is) {
    return 100.0 * static_cast<double>(std::count_if(all.begin(), all.end(), is)) / static_cast<double>(all.size());
  };
  double bias = 0, tone = 1;
  for (const Pair& pair : all) {
    bias += (pair.small - pair.full) / static_cast<double>(all.size());
    tone = std::min(tone, pair.tone);
  }
  fmt::print(
      "{:8} {:4} pairs: within 8 {:5.1f} %, within 15 {:5.1f} %, bias {:+5.1f}; tone at 64 px >= 0.95 in {:5.1f} %"
      " (least {:.3f}); advice the same or beside it in {} of {}\n",
      title, all.size(), share([](const Pair& p) { return p.off() <= 8; }),
      share([](const Pair& p) { return p.off() <= 15; }), bias, share([](const Pair& p) { return p.tone >= 0.95; }),
      tone, near, advised);
}

}  // namespace

int main(int argc, char** argv) {
  CLI::App app("How well small proofs tell what large ones do.");
  std::vector<std::string> paths, kinds = {"edges", "lines", "loose", "depth", "tone", "pose"};
  std::string prompt = "a quiet harbour at dusk, gouache";
  int side = 512, worst = 8;
  std::string keep;
  bool each = false, anew = false, again = false;
  app.add_option("pictures", paths, "Pictures.")->required();
  app.add_option("--kinds", kinds, "Kinds of guides.")->delimiter(',');
  app.add_option("--prompt", prompt, "What is painted.");
  app.add_option("--side", side, "Longer side of small proofs.");
  app.add_option("--worst", worst, "How many of the worst pairs are listed.");
  app.add_option("--keep", keep, "Writes proofs into this folder.");
  app.add_flag("--again", again, "Measures the proofs in that folder, rather than pulls them.");
  app.add_flag("--each", each, "Lists every strip.");
  app.add_flag("--anew", anew, "Makes the maps of small proofs anew at their size.");
  CLI11_PARSE(app, argc, argv);
  std::map<std::string, std::vector<Strip>> byKind;
  for (const std::string& path : paths) {
    const auto picture = readPicture(path).picture;
    for (const std::string& kind : kinds)
      for (Strip& strip :
           stripsOf(std::filesystem::path(path).stem().string(), picture, kind, prompt, side, anew, keep, again))
        byKind[kind].push_back(std::move(strip));
  }
  std::vector<Strip> all;
  for (const std::string& kind : kinds) {
    if (each)
      for (const Strip& strip : byKind[kind]) {
        fmt::print("{:40}", strip.what);
        for (const Pair& pair : strip.pairs) fmt::print(" {:3.0f}/{:3.0f} ({:.2f})", pair.small, pair.full, pair.tone);
        fmt::print("  advised {}/{}\n", strip.advisedSmall, strip.advisedFull);
      }
    report(kind, byKind[kind]);
    std::move(byKind[kind].begin(), byKind[kind].end(), std::back_inserter(all));
  }
  report("all", all);
  std::vector<Pair> pairs;
  for (const Strip& strip : all) pairs.insert(pairs.end(), strip.pairs.begin(), strip.pairs.end());
  std::sort(pairs.begin(), pairs.end(), [](const Pair& a, const Pair& b) { return a.off() > b.off(); });
  for (std::size_t i = 0; i < std::min(pairs.size(), static_cast<std::size_t>(worst)); ++i)
    fmt::print("  {}: {:.0f} small, {:.0f} full\n", pairs[i].what, pairs[i].small, pairs[i].full);
}
