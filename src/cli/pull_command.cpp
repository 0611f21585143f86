// hscaffold pull STUDY|RECIPE.json|PROOF.png -o DIR: proofs from the built-in stand-in.
#include <fmt/format.h>

#include <unistd.h>

#include <iostream>
#include <nlohmann/json.hpp>
#include <numeric>
#include <set>

#include "cli/commands.h"
#include "core/engine/standin/standin.h"
#include "core/guides/json_fields.h"
#include "core/image/png.h"
#include "core/kinds.h"
#include "core/sheet/sheet.h"
#include "core/study/study_file.h"
#include "files/picture_reader.h"
#include "files/study_lock.h"
#include "files/study_pictures.h"

namespace hscaffold {
namespace {

struct PullOptions {
  std::string in, out;
  std::int64_t seed = -1;
  std::int64_t count = 1;
  std::int64_t longest = 0;
  std::vector<std::string> strips;
  bool keep = false;
};

/// A map as it stands beside a recipe: a PNG, or what the kind has in its place.
GuideInput inputBeside(const Kind& kind, const Guide& guide, const std::filesystem::path& path, Size frame) {
  const auto bytes = readWholeFile(path);
  if (kind.readBeside) return kind.readBeside(bytes, path.filename().string(), frame, guide.tuning);
  const auto content = decodePng(bytes);
  GuideInput input;
  input.map = Map(content.picture.size());
  for (int y = 0; y < input.map.height(); ++y)
    std::transform(content.picture.row(y), content.picture.row(y) + input.map.width(), input.map.row(y),
                   [](const Rgba16& c) { return c.r; });
  return input;
}

/// Maps beside a recipe on disk. Their digests must fit where the recipe names them.
EngineJob jobBeside(const Recipe& recipe, const std::filesystem::path& folder) {
  EngineJob job;
  job.recipe = recipe;
  for (auto& entry : job.recipe.guides) {
    if (entry.mapFile.empty())
      throw badInput("The recipe's guide \"" + entry.guide.name +
                     "\" names no map file. Pull from the study, or add \"map\" with a PNG's name.");
    const Kind& kind = kindOf(entry.guide.kind);
    auto input = inputBeside(kind, entry.guide, folder / entry.mapFile, recipe.frame);
    const auto digest = digestOf(input.map, input.colour);
    if (!kind.readBeside && !entry.mapDigest.empty() && entry.mapDigest != digest)
      std::cerr << "hscaffold: " << entry.mapFile
                << " is not the map that the recipe was made with; the proof will differ.\n";
    entry.mapDigest = digest;
    job.inputs.push_back(std::move(input));
  }
  const StartPicture& start = recipe.brief.start;
  if (start.given() && start.from != StartPicture::From::colour && start.pictureFile.empty())
    throw badInput("The recipe names no file for its start picture. Pull from the study, or add \"picture\".");
  if (!start.pictureFile.empty()) {
    // It was placed when it was written.
    const auto picture = decodePng(readWholeFile(folder / start.pictureFile)).picture;
    job.start = place(picture, {.fit = Fit::stretch}, recipe.frame);
  } else {
    job.start = startOf(recipe, {}, {});
  }
  return job;
}

/// Where jobs come from: a study, or a recipe with its maps beside it.
struct Source {
  Recipe base;
  std::function<StudyJob(const Recipe&)> job;
  std::shared_ptr<StudyFile> file;  ///< null for recipes
};

Source sourceOf(const std::filesystem::path& in) {
  Source source;
  if (in.extension() == ".json" || in.extension() == ".png") {
    const auto bytes = readWholeFile(in);
    source.base = in.extension() == ".json" ? recipeFromJson(parseJson(textOf(bytes), in.string()))
                                            : recipeFromTexts(readPngTexts(bytes));
    source.job = [folder = in.parent_path()](const Recipe& recipe) {
      StudyJob made;
      made.job = jobBeside(recipe, folder);
      return made;
    };
    return source;
  }
  source.file = std::make_shared<StudyFile>(StudyFile::open(in));
  source.base = recipeOf(source.file->readState());
  // What is left out of the maps is said once.
  source.job = [file = source.file, made = std::make_shared<MadeMaps>(),
                said = std::make_shared<std::set<std::string>>()](const Recipe& recipe) {
    auto job = jobFor(*file, recipe, {}, made.get());
    for (const std::string& note : job.notes)
      if (said->insert(note).second) std::cerr << "hscaffold: " << note << "\n";
    return job;
  };
  return source;
}

SheetPlan planOf(const PullOptions& options, Recipe base) {
  SheetPlan plan;
  if (options.seed >= 0) base.brief.seed = static_cast<std::uint32_t>(options.seed);
  if (options.longest > 0)
    base = atSize(base, smallSize(base.frame, static_cast<int>(options.longest), StandinEngine().info().sizeStep));
  if (options.strips.size() > 2) throw badInput("--strip: a test strip has one or two axes.");
  for (const std::string& text : options.strips) plan.axes.push_back(axisFromText(text, base));
  for (std::int64_t i = 0; i < options.count; ++i)
    plan.seeds.push_back(base.brief.seed + static_cast<std::uint32_t>(i));
  plan.base = std::move(base);
  checkPlan(plan);
  return plan;
}

/// "seed9-weight0.20-end45": what is the same in all cells is left out, but for the seed.
std::string fileNameOf(const SheetPlan& plan, int cell) {
  const CellPlace place = placeOf(plan, cell);
  std::string name = fmt::format("seed{}", plan.seeds[static_cast<std::size_t>(place.seed)]);
  for (std::size_t i = 0; i < plan.axes.size(); ++i) {
    const Axis& axis = plan.axes[i];
    const auto index = static_cast<std::size_t>(i == 0 ? place.across : place.down);
    const SettingInfo& info = infoOf(axis.setting);
    name += axis.setting == Setting::prompt ? fmt::format("-prompt{}", index + 1)
                                            : fmt::format("-{}{:.2f}", info.id, axis.values[index]);
  }
  return name + ".png";
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
  const Source source = sourceOf(in);
  const SheetPlan plan = planOf(options, source.base);
  std::error_code error;
  std::filesystem::create_directories(out, error);
  if (error) throw failed("Could not make the folder " + out.string() + ": " + error.message() + ".");
  StandinEngine engine;
  auto list = nlohmann::json::array();
  std::vector<int> waiting(static_cast<std::size_t>(plan.cells()));
  std::iota(waiting.begin(), waiting.end(), 0);
  // One proof is pulled alone; what is cut off in the middle is offered again by the window.
  const std::int64_t sheet =
      options.keep && plan.cells() > 1 ? source.file->addSheet({0, timeNow(), plan, waiting}) : 0;
  for (int cell = 0; cell < plan.cells(); ++cell) {
    auto job = source.job(recipeOf(plan, cell));
    auto proof = pullProof(engine, std::move(job.job), job.reference.get(), progressOn(cell, plan.cells()), {});
    const auto path = out / fileNameOf(plan, cell);
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
  if (json) std::cout << list.dump(2) << "\n";
}

}  // namespace

void addPullCommand(Command& root, const bool& json) {
  auto pull = root.add("pull", "Pull proofs with the built-in stand-in, which is a simulation");
  auto options = std::make_shared<PullOptions>();
  pull.text("IN", options->in, "A study, a recipe as JSON with its maps beside it, or a proof whose recipe to follow")
      .required();
  pull.text("-o,--out", options->out, "Folder for the proofs").required();
  pull.whole("--seed", options->seed, "Seed instead of the recipe's own", {0, 4294967295.0});
  pull.whole("--count", options->count, "Proofs, with seeds that follow each other", {1, 256});
  pull.texts("--strip", options->strips,
             "A test strip, as weight:GUIDE=0.2..1.2/6 or end:GUIDE=20,45,100; twice for two axes. Settings: weight, "
             "start, end, place, ramp and on of a guide; style of a card; guidance, steps, change, vary, seed; "
             "prompt=ONE|OTHER");
  pull.whole("--longest", options->longest, "Cheap proofs: so many pixels on the longer side, at the frame's ratio",
             {64, 8192});
  pull.flag("--keep", options->keep, "Keep the proofs in the study too");
  pull.run([options, &json] { runPull(*options, json); });
}

}  // namespace hscaffold
