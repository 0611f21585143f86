// hscaffold pull STUDY|RECIPE.json|PROOF.png -o DIR: proofs from the built-in stand-in.
#include <fmt/format.h>

#include <cmath>
#include <iostream>
#include <nlohmann/json.hpp>

#include "cli/commands.h"
#include "core/engine/standin/standin.h"
#include "core/guides/json_fields.h"
#include "core/image/png.h"
#include "core/kinds.h"
#include "core/number_text.h"
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
  std::vector<std::string> strips;
  bool keep = false;
};

/// One axis of a test strip: "weight:GUIDE=0.2..1.2/6", or end, start, guidance, steps.
struct Strip {
  std::string setting, guide;
  std::vector<double> values;
};

template <typename Wrong>
double numberIn(const std::string& text, Wrong&& wrong) {
  const auto value = numberFrom(text);
  if (!value) throw wrong();
  return *value;
}

Strip parsedStrip(const std::string& text) {
  const auto wrong = [&] {
    return badInput(
        "--strip: \"" + text +
        "\" is not like weight:GUIDE=0.2..1.2/6, end:GUIDE=20..100/5, start:GUIDE=0..60/4, style:CARD=0..1.5/4, "
        "guidance=2..12/5, change=0.2..0.8/4 or vary=0..0.4/5.");
  };
  const auto equals = text.find('=');
  if (equals == std::string::npos) throw wrong();
  Strip strip;
  const std::string left = text.substr(0, equals);
  const auto colon = left.find(':');
  strip.setting = left.substr(0, colon);
  if (colon != std::string::npos) strip.guide = left.substr(colon + 1);
  // Written by hand: scanf would take the first dot of ".." for a decimal point.
  const std::string right = text.substr(equals + 1);
  const auto dots = right.find(".."), slash = right.find('/');
  if (dots == std::string::npos || slash == std::string::npos || slash < dots) throw wrong();
  const double from = numberIn(right.substr(0, dots), wrong),
               to = numberIn(right.substr(dots + 2, slash - dots - 2), wrong);
  const double wanted = numberIn(right.substr(slash + 1), wrong);
  if (!(wanted >= 1 && wanted <= 64) || wanted != std::trunc(wanted)) throw wrong();
  const int count = static_cast<int>(wanted);
  const bool ofGuide = strip.setting == "weight" || strip.setting == "end" || strip.setting == "start";
  const bool named = ofGuide || strip.setting == "style";
  const bool alone = strip.setting == "guidance" || strip.setting == "change" || strip.setting == "vary";
  if ((!named && !alone) || named == strip.guide.empty()) throw wrong();
  for (int i = 0; i < count; ++i) strip.values.push_back(count == 1 ? from : from + (to - from) * i / (count - 1));
  return strip;
}

void apply(Recipe& recipe, const Strip& strip, double value) {
  if (strip.setting == "guidance") {
    recipe.brief.guidance = value;
    return;
  }
  if (strip.setting == "change") {
    if (!recipe.brief.start.given()) throw badInput("--strip: the brief has no start picture to change.");
    recipe.brief.start.change = value;
    return;
  }
  if (strip.setting == "vary") {
    recipe.brief.vary = value;
    return;
  }
  if (strip.setting == "style") {
    for (StyleUse& use : recipe.brief.styles)
      if (use.name == strip.guide || use.id == strip.guide) {
        use.strength = value;
        return;
      }
    throw badInput("--strip: the style \"" + strip.guide + "\" is not in the brief.");
  }
  for (auto& entry : recipe.guides) {
    if (entry.guide.name != strip.guide && entry.guide.id != strip.guide) continue;
    if (strip.setting == "weight") entry.guide.weight = value;
    if (strip.setting == "end") entry.guide.range.to = value;
    if (strip.setting == "start") entry.guide.range.from = value;
    return;
  }
  throw badInput("--strip: there is no guide \"" + strip.guide + "\" that is on.");
}

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

/// What was left out is said once.
EngineJob withNotesSaid(StudyJob made) {
  for (const std::string& note : made.notes) std::cerr << "hscaffold: " << note << "\n";
  return std::move(made.job);
}

void runPull(const PullOptions& options, bool json) {
  const std::filesystem::path in = options.in, out = options.out;
  std::vector<Strip> strips;
  for (const auto& text : options.strips) strips.push_back(parsedStrip(text));
  if (strips.size() > 2) throw badInput("--strip: a test strip has one or two axes.");
  std::function<EngineJob(const Recipe&)> makeJob;
  Recipe base;
  std::unique_ptr<StudyLock> lock;
  std::shared_ptr<StudyFile> file;
  if (options.keep && (in.extension() == ".json" || in.extension() == ".png"))
    throw badInput("--keep: proofs can only be kept in a study.");
  if (in.extension() == ".json" || in.extension() == ".png") {
    const auto bytes = readWholeFile(in);
    base = in.extension() == ".json" ? recipeFromJson(parseJson(textOf(bytes), in.string()))
                                     : recipeFromTexts(readPngTexts(bytes));
    makeJob = [&](const Recipe& recipe) { return jobBeside(recipe, in.parent_path()); };
  } else {
    if (options.keep) lock = StudyLock::takeOrSay(in, longestWait);
    file = std::make_shared<StudyFile>(StudyFile::open(in));
    base = recipeOf(file->readState());
    makeJob = [file](const Recipe& recipe) { return withNotesSaid(jobFor(*file, recipe)); };
  }
  if (options.seed >= 0) base.brief.seed = static_cast<std::uint32_t>(options.seed);
  std::vector<std::pair<std::string, Recipe>> recipes{{fmt::format("seed{}", base.brief.seed), base}};
  for (std::int64_t i = 1; i < options.count; ++i) {
    Recipe next = base;
    next.brief.seed = base.brief.seed + static_cast<std::uint32_t>(i);
    recipes.emplace_back(fmt::format("seed{}", next.brief.seed), next);
  }
  for (const Strip& strip : strips) {
    std::vector<std::pair<std::string, Recipe>> wider;
    for (const auto& [name, recipe] : recipes)
      for (const double value : strip.values) {
        Recipe next = recipe;
        apply(next, strip, value);
        wider.emplace_back(fmt::format("{}-{}{:.2f}", name, strip.setting, value), recipeFromJson(recipeToJson(next)));
      }
    recipes = std::move(wider);
  }
  std::error_code error;
  std::filesystem::create_directories(out, error);
  if (error) throw failed("Could not make the folder " + out.string() + ": " + error.message() + ".");
  StandinEngine engine;
  auto list = nlohmann::json::array();
  for (const auto& [name, recipe] : recipes) {
    auto proof = pullProof(engine, makeJob(recipe), {}, {});
    const auto path = out / (name + ".png");
    writeFileAtomically(path, proof.png);
    if (options.keep && file) {
      auto state = file->readState();
      state.looking.proof = file->addProof(proof.info, proof.png, proof.thumbnail);
      file->writeState(state);
    }
    if (json)
      list.push_back({{"file", path.string()}, {"milliseconds", proof.info.milliseconds}, {"holds", proof.info.holds}});
    else
      std::cerr << fmt::format("{}  {:.0f} ms\n", path.string(), proof.info.milliseconds);
  }
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
  pull.texts("--strip", options->strips, "A test strip, as weight:GUIDE=0.2..1.2/6; twice for two axes");
  pull.flag("--keep", options->keep, "Keep the proofs in the study too");
  pull.run([options, &json] { runPull(*options, json); });
}

}  // namespace hscaffold
