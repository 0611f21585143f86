// hscaffold find STUDY: a balance that reaches goals, by measured proofs.
#include <fmt/format.h>

#include <algorithm>
#include <chrono>
#include <iostream>
#include <nlohmann/json.hpp>

#include "cli/commands.h"
#include "cli/engine_choice.h"
#include "cli/study_commands.h"
#include "core/find/findings.h"
#include "core/find/search.h"
#include "core/job/job_folder.h"
#include "core/job/pull.h"
#include "core/json_text.h"
#include "core/sheet/sheet.h"
#include "files/study_job.h"

namespace hscaffold {
namespace {

struct FindOptions {
  std::string in, out, shift = "far";
  EngineChoice engine;
  std::vector<std::string> holds, moves;
  std::int64_t budget = static_cast<std::int64_t>(searchBudget.usual), seeds = 1, longest = 512;
  double minutes = 0;
};

FindPlan planOf(const FindOptions& options, Recipe base, int sizeStep) {
  FindPlan plan;
  for (const std::string& text : options.holds) plan.holds.push_back(holdGoalFromText(text, base));
  plan.look = lookGoalFromText(options.shift);
  for (const std::string& text : options.moves) plan.settings.push_back(axisFromText(text, base));
  if (plan.settings.empty()) plan.settings = usualSettings(base, plan.holds);
  for (std::int64_t i = 0; i < options.seeds; ++i)
    plan.seeds.push_back(base.brief.seed + static_cast<std::uint32_t>(i));
  plan.budget = static_cast<int>(options.budget);
  plan.minutes = options.minutes;
  if (options.longest > 0) base = atSize(base, smallSize(base.frame, static_cast<int>(options.longest), sizeStep));
  plan.base = std::move(base);
  checkPlan(plan);
  return plan;
}

nlohmann::json outcomeAsJson(const FindPlan& plan, const Tried& tried) {
  nlohmann::json json{{"settings", nlohmann::json::object()}, {"holds", nlohmann::json::object()}};
  for (std::size_t i = 0; i < plan.settings.size(); ++i)
    json["settings"][nameOf(plan.settings[i], plan.base)] =
        plan.settings[i].values[static_cast<std::size_t>(tried.choice[i])];
  for (std::size_t i = 0; i < plan.holds.size(); ++i) json["holds"][plan.holds[i].guide] = tried.mean.holds[i];
  json[plan.look.wish == LookGoal::Wish::like ? "likeness" : "shift"] = tried.mean.shift;
  json["behind"] = shortfallOf(plan, tried.mean);
  return json;
}

nlohmann::json asJson(const FindPlan& plan, std::span<const Tried> tried, const Findings& findings) {
  nlohmann::json json{{"verdict", findings.verdict},
                      {"proofs", tried.size() * plan.seeds.size()},
                      {"proposals", nlohmann::json::array()},
                      {"tried", nlohmann::json::array()},
                      {"effects", nlohmann::json::array()}};
  for (const Tried& each : tried) json["tried"].push_back(outcomeAsJson(plan, each));
  for (const Proposal& proposal : findings.proposals) {
    json["proposals"].push_back(outcomeAsJson(plan, tried[proposal.tried]));
    json["proposals"].back()["sentence"] = proposal.sentence;
  }
  for (const Effect& effect : findings.effects) json["effects"].push_back(effect.sentence);
  return json;
}

void runFind(const FindOptions& options, bool json) {
  const auto file = StudyFile::open(options.in, StudyFile::Access::read);
  const StudyState state = file.readState();
  sayMended(file);
  const auto engine = options.engine.engine(state.engine);
  const FindPlan plan = planOf(options, recipeOf(state), engine->info().sizeStep);
  if (!options.out.empty()) makeFolder(options.out);
  MadeMaps made(mostMadeBytes);
  const auto begun = std::chrono::steady_clock::now();
  const auto minutes = [&] {
    return std::chrono::duration<double, std::ratio<60>>(std::chrono::steady_clock::now() - begun).count();
  };
  std::optional<ShiftGround> wanted;
  if (plan.look.wish == LookGoal::Wish::like) {
    const auto proofs = file.proofs();
    if (std::none_of(proofs.begin(), proofs.end(), [&](const ProofInfo& p) { return p.number == plan.look.proof; }))
      throw badInput(fmt::format("The study has no proof {}.", plan.look.proof));
    wanted.emplace(decodePngRgb8(file.proofPng(plan.look.proof)));
  }
  std::vector<Tried> tried;
  while (plan.minutes <= 0 || minutes() < plan.minutes) {
    const auto next = nextChoices(plan, tried, 1);
    if (next.empty()) break;
    const Choice& choice = next.front();
    std::vector<Outcome> outcomes;
    for (std::size_t seed = 0; seed < plan.seeds.size(); ++seed) {
      auto job = jobFor(file, recipeOf(plan, choice, seed), {}, &made);
      const auto proof = pullProof(*engine, std::move(job.job), job.reference.get(), {}, {});
      outcomes.push_back(
          outcomeOf(plan, proof.info.holds, wanted ? likenessOf(*wanted, proof.picture) : proof.info.shift));
      if (!options.out.empty())
        writeFileAtomically(
            std::filesystem::path(options.out) / fmt::format("{:03}-seed{}.png", tried.size() + 1, plan.seeds[seed]),
            proof.png);
    }
    tried.push_back(triedOf(choice, outcomes));
    if (!json)
      std::cerr << fmt::format("{} of {}: {}: {} {:.0f}, behind {:.0f}\n", tried.size() * plan.seeds.size(),
                               plan.budget, nameOf(plan, choice), lookName(plan), tried.back().mean.shift,
                               shortfallOf(plan, tried.back().mean));
  }
  const Findings findings = findingsOf(plan, tried);
  if (json) {
    std::cout << jsonText(asJson(plan, tried, findings), 2) << "\n";
    return;
  }
  std::cout << findings.verdict << "\n";
  for (const Proposal& proposal : findings.proposals)
    std::cout << fmt::format("  {:03}  {}\n", proposal.tried + 1, proposal.sentence);
  for (const Effect& effect : findings.effects) std::cout << effect.sentence << "\n";
}

}  // namespace

void addFindCommand(Command& root, const bool& json) {
  auto find = root.add("find", "Find a balance that reaches goals, by small measured proofs");
  auto options = std::make_shared<FindOptions>();
  find.text("STUDY", options->in, "The study; it is not changed").required();
  find.texts("--hold", options->holds,
             "What a guide has to hold, as GUIDE=80 (at least), GUIDE~50 (about) or GUIDE=little");
  find.text("--shift", options->shift,
            "How far the look has to move: far, any, or at least so many points; like:PROOF: as near to that proof's "
            "look as it gets");
  find.texts("--move", options->moves,
             "A setting that may move, and its values, as weight:GUIDE=0.2..1.2/21; else weights and range ends of the "
             "guides that have a goal");
  find.whole("--budget", options->budget, "Proofs altogether", searchBudget);
  find.number("--minutes", options->minutes, "Stop after so long; 0: only by the budget", searchMinutes);
  find.whole("--seeds", options->seeds, "Seeds of every setting", searchSeeds);
  find.whole("--longest", options->longest, "Pixels of proofs on the longer side; 0: the frame's own", {0, 8192});
  find.text("-o,--out", options->out, "Folder for the proofs");
  options->engine.addTo(find);
  find.run([options, &json] { runFind(*options, json); });
}

}  // namespace hscaffold
