// judge-find: how well Find does against all cells of a strip. Pulls 125 cells of every picture once (two guides, three
// settings of five values), then looks for several goals among them with 24 proofs, and with a grid of 24.
#include <fmt/format.h>

#include <CLI/CLI.hpp>
#include <algorithm>
#include <filesystem>
#include <map>

#include "core/engine/standin/standin.h"
#include "core/find/findings.h"
#include "core/find/search.h"
#include "core/job/prepare.h"
#include "core/job/pull.h"
#include "core/sheet/sheet.h"
#include "files/picture_reader.h"

namespace {

using namespace hscaffold;

struct Goals {
  std::string name;
  std::vector<HoldGoal> holds;
  LookGoal look;
};

FindPlan planFor(const std::string& name, const Image<Rgba16>& picture, const std::vector<std::string>& kinds, int side,
                 const std::string& prompt) {
  FindPlan plan;
  Recipe recipe;
  recipe.frame = smallSize({picture.width() * 8, picture.height() * 8}, 768, 8);
  recipe.brief.prompt = prompt;
  recipe.references = {{"r1", name, {}, {}}};
  for (const std::string& kind : kinds) {
    RecipeGuide entry;
    entry.guide.id = entry.guide.kind = entry.guide.name = kind;
    entry.guide.reference = "r1";
    entry.guide.weight = 0.6;
    recipe.guides.push_back(entry);
  }
  plan.base = atSize(recipe, smallSize(recipe.frame, side, 8));
  plan.settings = {axisOver(Setting::weight, kinds[0], 0.2, 1.0, 5), axisOver(Setting::end, kinds[0], 20, 100, 5),
                   axisOver(Setting::weight, kinds[1], 0.2, 1.0, 5)};
  for (const std::string& kind : kinds) plan.holds.push_back({kind, HoldGoal::Wish::atLeast, 0});
  plan.seeds = {4117};
  plan.budget = 24;
  return plan;
}

}  // namespace

int main(int argc, char** argv) {
  CLI::App app("How well Find does against all cells of a strip.");
  std::vector<std::string> paths;
  std::string prompt = "a quiet harbour at dusk, gouache";
  int side = 384;
  bool each = false;
  app.add_option("pictures", paths, "Pictures; every other one has three guides.")->required();
  app.add_option("--prompt", prompt, "What is painted.");
  app.add_option("--side", side, "Longer side of the proofs.");
  app.add_flag("--each", each, "Lists every search.");
  CLI11_PARSE(app, argc, argv);
  using Wish = HoldGoal::Wish;
  struct Sum {
    int reachable = 0, found = 0, grid = 0, searches = 0, proofs = 0;
    double behind = 0, behindGrid = 0, most = 0, mostGrid = 0;
    int near = 0, nearGrid = 0;
  } sum;
  for (std::size_t p = 0; p < paths.size(); ++p) {
    const auto picture = std::make_shared<const Image<Rgba16>>(readPicture(paths[p]).picture);
    std::vector<std::string> kinds = {"edges", "depth"};
    if (p % 2 == 1) kinds = {"lines", "tone", "depth"};
    FindPlan plan = planFor(paths[p], *picture, kinds, side, prompt);
    const JobSources sources{
        [&](const RecipeReference&) { return picture; }, {}, [](const Guide&) { return TakenWork{}; }};
    StandinEngine engine;
    MadeMaps made(mostMadeBytes);
    std::map<Choice, Outcome> all;
    for (int a = 0; a < 5; ++a)
      for (int b = 0; b < 5; ++b)
        for (int c = 0; c < 5; ++c) {
          const auto job = jobFrom(recipeOf(plan, {a, b, c}), sources, {}, &made);
          const auto proof = engine.generate(job.job, {}, {});
          const auto measures = measuresOf(job.job, job.reference.get(), proof);
          all[{a, b, c}] = outcomeOf(plan, measures.holds, measures.shift);
        }
    const auto goalsOf = [&](double first, Wish firstWish, double second, Wish secondWish, LookGoal look) {
      std::vector<HoldGoal> holds = {{kinds[0], firstWish, first}, {kinds[1], secondWish, second}};
      if (kinds.size() > 2) holds.push_back({kinds[2], Wish::atLeast, 30});
      return std::pair(holds, look);
    };
    for (const auto& [holds, look] :
         {goalsOf(80, Wish::atLeast, 0, Wish::atLeast, {}), goalsOf(60, Wish::atLeast, 60, Wish::atLeast, {}),
          goalsOf(50, Wish::about, 70, Wish::atLeast, {}),
          goalsOf(90, Wish::atLeast, 0, Wish::little, {LookGoal::Wish::any, 0}),
          goalsOf(40, Wish::atLeast, 40, Wish::atLeast, {LookGoal::Wish::atLeast, 45})}) {
      plan.holds = holds;
      plan.look = look;
      double most = -1e18, least = 1e18, grid = -1e18, gridLeast = 1e18;
      for (const auto& [choice, outcome] : all) {
        const double merit = meritOf(plan, costOf(plan, choice), outcome), behind = shortfallOf(plan, outcome);
        most = std::max(most, merit), least = std::min(least, behind);
        if (choice[0] % 2 != 0 || choice[1] == 2 || choice[2] % 3 != 0) continue;  // 3 x 4 x 2
        grid = std::max(grid, merit), gridLeast = std::min(gridLeast, behind);
      }
      std::vector<Tried> tried;
      for (;;) {
        const auto next = nextChoices(plan, tried, 1);
        if (next.empty()) break;
        tried.push_back(triedOf(next.front(), {all.at(next.front())}));
      }
      const Tried& best = tried[bestOf(plan, tried)];
      const double merit = meritOf(plan, costOf(plan, best.choice), best.mean), behind = shortfallOf(plan, best.mean);
      ++sum.searches;
      sum.proofs += static_cast<int>(tried.size());
      if (least <= 0) {
        ++sum.reachable;
        sum.found += behind <= 0 ? 1 : 0;
        sum.grid += gridLeast <= 0 ? 1 : 0;
      }
      sum.behind += most - merit, sum.behindGrid += most - grid;
      sum.most = std::max(sum.most, most - merit), sum.mostGrid = std::max(sum.mostGrid, most - grid);
      sum.near += most - merit <= 4 ? 1 : 0, sum.nearGrid += most - grid <= 4 ? 1 : 0;
      if (each)
        fmt::print("{:24} {:2} proofs, behind the best {:5.1f}, grid {:5.1f}: {}\n",
                   std::filesystem::path(paths[p]).stem().string(), tried.size(), most - merit, most - grid,
                   findingsOf(plan, tried).verdict);
    }
  }
  fmt::print("{} searches, {:.1f} proofs each\n", sum.searches, static_cast<double>(sum.proofs) / sum.searches);
  fmt::print(
      "{:8} goals reached {} of {} that can be; behind the best of 125 by {:.1f} points, at most {:.1f}; within 4 "
      "points in "
      "{} of {}\n",
      "Find:", sum.found, sum.reachable, sum.behind / sum.searches, sum.most, sum.near, sum.searches);
  fmt::print(
      "{:8} goals reached {} of {} that can be; behind the best of 125 by {:.1f} points, at most {:.1f}; within 4 "
      "points in "
      "{} of {}\n",
      "Grid:", sum.grid, sum.reachable, sum.behindGrid / sum.searches, sum.mostGrid, sum.nearGrid, sum.searches);
}
