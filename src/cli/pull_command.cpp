// hscaffold pull STUDY|RECIPE.json|PROOF.png -o DIR: proofs from the built-in stand-in.
#include <fmt/format.h>
#include <unistd.h>

#include <algorithm>
#include <iostream>
#include <nlohmann/json.hpp>
#include <numeric>
#include <set>

#include "cli/commands.h"
#include "cli/engine_choice.h"
#include "cli/study_commands.h"
#include "core/engine/registry.h"
#include "core/guides/json_fields.h"
#include "core/image/png.h"
#include "core/job/job_folder.h"
#include "core/job/pull.h"
#include "core/json_text.h"
#include "core/sheet/sheet.h"
#include "core/study/study_file.h"
#include "core/text.h"
#include "files/study_job.h"
#include "files/study_lock.h"

namespace hscaffold {
namespace {

struct PullOptions {
  std::string in, out;
  std::int64_t seed = -1;
  std::int64_t count = 1;
  std::int64_t longest = 0;
  std::vector<std::string> strips;
  EngineChoice engine;
  bool keep = false, force = false;
};

/// Where jobs come from: a study, or a recipe with its maps beside it.
struct Source {
  Recipe base;
  std::function<PreparedJob(const Recipe&)> job;
  std::shared_ptr<StudyFile> file;  ///< null for recipes
  std::string engine = builtInEngine;
};

Source sourceOf(const std::filesystem::path& in, bool keep) {
  Source source;
  // What is missing or not as it was is said once for all cells.
  const auto say = [said = std::make_shared<std::set<std::string>>()](const std::vector<std::string>& notes) {
    for (const std::string& note : notes)
      if (said->insert(note).second) std::cerr << "hscaffold: " << note << "\n";
  };
  if (in.extension() == ".json" || in.extension() == ".png") {
    const auto bytes = readWholeFile(in);
    source.base = in.extension() == ".json" ? recipeFromJson(parseJson(textOf(bytes), in.string()))
                                            : recipeFromTexts(readPngTexts(bytes));
    source.job = [folder = in.parent_path(), say](const Recipe& recipe) {
      PreparedJob made;
      auto read = readJob(recipe, folder);
      made.job = std::move(read.job);
      say(read.notes);
      return made;
    };
    return source;
  }
  // Only who keeps proofs writes, and has the lock.
  source.file =
      std::make_shared<StudyFile>(StudyFile::open(in, keep ? StudyFile::Access::write : StudyFile::Access::read));
  const StudyState state = source.file->readState();
  source.base = recipeOf(state);
  source.engine = state.engine;
  sayMended(*source.file);
  source.job = [file = source.file, made = std::make_shared<MadeMaps>(mostMadeBytes), say](const Recipe& recipe) {
    auto job = jobFor(*file, recipe, {}, made.get());
    say(job.notes);
    return job;
  };
  return source;
}

SheetPlan planOf(const PullOptions& options, Recipe base, int sizeStep) {
  SheetPlan plan;
  if (options.seed >= 0) base.brief.seed = static_cast<std::uint32_t>(options.seed);
  if (options.longest > 0) base = atSize(base, smallSize(base.frame, static_cast<int>(options.longest), sizeStep));
  if (options.strips.size() > 2) throw badInput("--strip: a test strip has one or two axes.");
  for (const std::string& text : options.strips) plan.axes.push_back(axisFromText(text, base));
  for (std::int64_t i = 0; i < options.count; ++i)
    plan.seeds.push_back(base.brief.seed + static_cast<std::uint32_t>(i));
  plan.base = std::move(base);
  checkPlan(plan);
  return plan;
}

/// What a guide or a card is called, as a part of a file's name.
std::string partOfName(const Recipe& base, const Axis& axis) {
  std::string name = axis.of;
  for (const RecipeGuide& each : base.guides)
    if (each.guide.id == axis.of && !each.guide.name.empty()) name = each.guide.name;
  constexpr std::size_t longest = 30;  // characters
  name = fileNamePart(name, longest);
  std::replace(name.begin(), name.end(), ' ', '-');
  return name;
}

/// "seed9-Kite-flyer-weight0.2-end45": what is the same in all cells is left out, but for the seed. Values are whole,
/// so no two cells have one name.
std::string fileNameOf(const SheetPlan& plan, int cell) {
  const CellPlace place = placeOf(plan, cell);
  std::string name = fmt::format("seed{}", plan.seeds[static_cast<std::size_t>(place.seed)]);
  for (std::size_t i = 0; i < plan.axes.size(); ++i) {
    const Axis& axis = plan.axes[i];
    const auto index = static_cast<std::size_t>(i == 0 ? place.across : place.down);
    const SettingInfo& info = infoOf(axis.setting);
    if (!axis.of.empty()) name += "-" + partOfName(plan.base, axis);
    name += isWording(axis.setting) ? fmt::format("-{}{}", info.id, index + 1)
                                    : fmt::format("-{}{}", info.id, axis.values[index]);
  }
  return name + ".png";
}

/// The files that proofs come into. @throws Problem (badInput) if one is there already and is to stay
std::vector<std::filesystem::path> filesFor(const SheetPlan& plan, const std::filesystem::path& folder, bool force) {
  std::vector<std::filesystem::path> out;
  for (int cell = 0; cell < plan.cells(); ++cell) {
    out.push_back(folder / fileNameOf(plan, cell));
    std::error_code error;
    if (!force && std::filesystem::exists(std::filesystem::symlink_status(out.back(), error)))
      throw badInput(out.back().string() + " is there already. Choose another folder, or write over it with --force.");
  }
  return out;
}

nlohmann::json asJson(const std::filesystem::path& path, const ProofInfo& info) {
  nlohmann::json json{{"file", path.string()}, {"milliseconds", info.milliseconds}, {"holds", info.holds}};
  if (info.shift) json["shift"] = *info.shift;
  if (info.sheet > 0) json["sheet"] = info.sheet, json["cell"] = info.cell;
  return json;
}

/// On a terminal, one line that is written over.
EngineSink progressOn(int cell, int cells) {
  if (::isatty(STDERR_FILENO) == 0) return {};
  return [cell, cells](const EngineProgress& progress) {
    std::cerr << fmt::format("\r{} of {}, step {} of {}   ", cell + 1, cells, progress.step, progress.steps)
              << std::flush;
  };
}

void runPull(const PullOptions& options, bool json) {
  const std::filesystem::path in = options.in, out = options.out;
  if (options.keep && (in.extension() == ".json" || in.extension() == ".png"))
    throw badInput("--keep: proofs can only be kept in a study.");
  std::unique_ptr<StudyLock> lock;
  if (options.keep) lock = StudyLock::takeOrSay(in, longestWait);
  const Source source = sourceOf(in, options.keep);
  const auto engine = options.engine.engine(source.engine);
  const SheetPlan plan = planOf(options, source.base, engine->info().sizeStep);
  const auto files = filesFor(plan, out, options.force);
  makeFolder(out);
  auto list = nlohmann::json::array();
  std::vector<int> waiting(static_cast<std::size_t>(plan.cells()));
  std::iota(waiting.begin(), waiting.end(), 0);
  // One proof is pulled alone; what is cut off in the middle is offered again by the window.
  const std::int64_t sheet =
      options.keep && plan.cells() > 1 ? source.file->addSheet({0, timeNow(), plan, waiting}) : 0;
  for (int cell = 0; cell < plan.cells(); ++cell) {
    auto job = source.job(recipeOfCell(plan, cell));
    auto proof = pullProof(*engine, std::move(job.job), job.reference.get(), progressOn(cell, plan.cells()), {});
    const auto& path = files[static_cast<std::size_t>(cell)];
    writeFileAtomically(path, proof.png);
    if (options.keep) {
      proof.info.sheet = sheet;
      proof.info.cell = sheet > 0 ? cell : 0;
      auto state = source.file->readState();
      state.looking.proof = source.file->addProof(proof.info, proof.png, proof.thumbnail);
      state.looking.sheet = sheet;
      source.file->writeState(state);
    }
    if (json)
      list.push_back(asJson(path, proof.info));
    else
      std::cerr << fmt::format("{}{}  {:.0f} ms\n", ::isatty(STDERR_FILENO) != 0 ? "\r" : "", path.string(),
                               proof.info.milliseconds);
  }
  if (sheet > 0) source.file->setWaiting(sheet, {});
  if (json) std::cout << jsonText(list, 2) << "\n";
}

}  // namespace

void addPullCommand(Command& root, const bool& json) {
  auto pull = root.add("pull", "Pull proofs with the built-in stand-in, which is a simulation");
  auto options = std::make_shared<PullOptions>();
  pull.text("IN", options->in, "A study, a recipe as JSON with its maps beside it, or a proof whose recipe to follow")
      .required();
  pull.text("-o,--out", options->out, "Folder for the proofs").required();
  pull.whole("--seed", options->seed, "Seed instead of the recipe's own", limits::seed);
  pull.whole("--count", options->count, "Proofs, with seeds that follow each other", {1, 256});
  pull.texts("--strip", options->strips,
             "A test strip, as weight:GUIDE=0.2..1.2/6 or end:GUIDE=20,45,100; twice for two axes. Settings: weight, "
             "start, end, place, ramp and on of a guide; style of a card; guidance, steps, change, vary, seed; "
             "prompt=ONE|OTHER, avoid=ONE|-");
  pull.whole("--longest", options->longest, "Cheap proofs: so many pixels on the longer side, at the frame's ratio",
             {64, 8192});
  options->engine.addTo(pull);
  pull.flag("--keep", options->keep, "Keep the proofs in the study too");
  pull.flag("--force", options->force, "Write over proofs that lie in the folder already");
  pull.run([options, &json] { runPull(*options, json); });
}

}  // namespace hscaffold
