// hscaffold study new|set|retouch|pose|info|check|export.
#include <fmt/format.h>

#include <iostream>
#include <nlohmann/json.hpp>
#include <optional>
#include <sstream>

#include "cli/commands.h"
#include "core/edges/edges.h"
#include "core/frame/frame.h"
#include "core/image/narrow.h"
#include "core/retouch/painter.h"
#include "core/study/checks.h"
#include "core/study/study_file.h"
#include "files/figure_files.h"
#include "files/study_pictures.h"

namespace hscaffold {
namespace {

struct NewOptions {
  std::string path, title, size, prompt;
  std::vector<std::string> references, guides;
  std::int64_t seed = 1;
};

/// KIND, or KIND=WEIGHT, of the first reference; KIND@N for reference N.
Guide parsedGuide(StudyState& state, const std::string& text) {
  Guide guide;
  std::string kind = text;
  if (const auto equals = kind.find('='); equals != std::string::npos) {
    char* end = nullptr;
    guide.weight = std::strtod(kind.c_str() + equals + 1, &end);
    if (*end != '\0' || !(guide.weight >= 0 && guide.weight <= largestWeight))
      throw badInput("--guide: the weight in \"" + text + "\" goes from 0 to 2.");
    kind.resize(equals);
  }
  std::size_t number = 1;
  if (const auto at = kind.find('@'); at != std::string::npos) {
    number = static_cast<std::size_t>(std::strtoul(kind.c_str() + at + 1, nullptr, 10));
    kind.resize(at);
  }
  guide.kind = kindOf(kind).id;
  guide.name = kindOf(kind).name;
  if (number < 1 || number > state.references.size())
    throw badInput(fmt::format("--guide: there is no reference {}.", number));
  guide.reference = state.references[number - 1].id;
  guide.id = newId(state, "g");
  return guide;
}

void runNew(const NewOptions& options) {
  if (std::filesystem::exists(options.path)) throw badInput(options.path + " is there already. Choose another name.");
  StudyState state;
  state.title = options.title.empty() ? std::filesystem::path(options.path).stem().string() : options.title;
  if (!options.size.empty()) {
    const Size size = parsedSize(options.size);
    if (!isOnStep(size, state.sizeStep))
      throw badInput(fmt::format("--size: \"{}\" is not a size like 768x512 with sides in steps of {}.", options.size,
                                 state.sizeStep));
    state.frame = size;
  }
  state.brief.prompt = options.prompt;
  state.brief.seed = static_cast<std::uint32_t>(options.seed);
  auto file = StudyFile::create(options.path, state);
  try {
    for (const auto& picture : options.references) addReference(file, state, picture);
    for (const auto& guide : options.guides) state.guides.push_back(parsedGuide(state, guide));
    if (!state.guides.empty()) state.selectedGuide = state.guides.front().id;
    file.writeState(state);
  } catch (...) {
    std::filesystem::remove(options.path);
    throw;
  }
}

Guide& guideNamed(StudyState& state, const std::string& name, const std::string& path) {
  const auto found = std::find_if(state.guides.begin(), state.guides.end(),
                                  [&](const Guide& g) { return g.id == name || g.name == name; });
  if (found == state.guides.end()) throw badInput("--guide: there is no guide \"" + name + "\" in " + path + ".");
  return *found;
}

struct SetOptions {
  std::string path, guide, name;
  std::optional<std::string> title, prompt, avoid;
  std::optional<std::int64_t> seed, steps;
  std::optional<double> guidance, weight, from, to, rampIn, rampOut;
  std::vector<std::string> tuning;
  bool on = false, off = false;
};

void runSet(const SetOptions& o) {
  auto file = StudyFile::open(o.path);
  auto state = file.readState();
  if (o.title) state.title = *o.title;
  if (o.prompt) state.brief.prompt = *o.prompt;
  if (o.avoid) state.brief.avoid = *o.avoid;
  if (o.seed) state.brief.seed = static_cast<std::uint32_t>(*o.seed);
  if (o.steps) state.brief.steps = static_cast<int>(*o.steps);
  if (o.guidance) state.brief.guidance = *o.guidance;
  const bool ofGuide =
      o.weight || o.from || o.to || o.rampIn || o.rampOut || o.on || o.off || !o.name.empty() || !o.tuning.empty();
  if (ofGuide) {
    Guide* found = &guideNamed(state, o.guide, o.path);
    if (o.weight) found->weight = *o.weight;
    if (o.from) found->range.from = *o.from;
    if (o.to) found->range.to = *o.to;
    if (o.rampIn) found->range.rampIn = *o.rampIn;
    if (o.rampOut) found->range.rampOut = *o.rampOut;
    if (o.on || o.off) found->on = o.on;
    if (!o.name.empty()) found->name = o.name;
    for (const auto& pair : o.tuning) {
      const auto equals = pair.find('=');
      const auto& fields = *kindOf(found->kind).fields;
      const auto field = std::find_if(fields.begin(), fields.end(),
                                      [&](const TuningField& x) { return x.id == pair.substr(0, equals); });
      if (equals == std::string::npos || field == fields.end())
        throw badInput("--tuning: \"" + pair + "\" is not FIELD=VALUE with a field of " + found->kind + ".");
      found->tuning[field->id] = tuningValueFromText(*field, pair.substr(equals + 1));
    }
  }
  // Through the same checks as a file that is read.
  file.writeState(stateFromJson(stateToJson(state)));
}

struct RetouchOptions {
  std::string path, guide;
  std::vector<std::string> drop, keep;
  std::optional<double> specks;
  bool clear = false, hide = false, show = false;
};

/// "X,Y X,Y X,Y": at least three corners, in frame pixels.
std::vector<Point> parsedLoop(const std::string& text) {
  std::vector<Point> loop;
  std::istringstream in(text);
  for (std::string pair; in >> pair;) {
    Point p;
    char rest = 0;
    if (std::sscanf(pair.c_str(), "%lf,%lf%c", &p.x, &p.y, &rest) != 2)
      throw badInput("\"" + pair + "\" is not a place like 120,80.");
    loop.push_back(p);
  }
  if (loop.size() < 3) throw badInput("A loop needs at least three places, like \"10,10 200,10 200,90\".");
  return loop;
}

void runRetouch(const RetouchOptions& o) {
  auto file = StudyFile::open(o.path);
  auto state = file.readState();
  Guide& guide = guideNamed(state, o.guide, o.path);
  EditStore edits([&](const std::string& id) { return file.edit(id); });
  if (o.clear) guide.retouch.clear();
  if (o.hide || o.show) guide.retouchHidden = o.hide;
  if (!o.drop.empty() || !o.keep.empty() || o.specks) {
    // What lies below is needed to know later what has moved under the retouch.
    StudyState alone = state;
    std::erase_if(alone.guides, [&](const Guide& g) { return g.id != guide.id; });
    alone.guides.front().on = true;
    alone.guides.front().region = {};
    alone.guides.front().retouch.clear();
    const auto below = std::move(jobFor(file, recipeOf(alone)).maps.front());
    GuidePlace place{state.frame, {}};
    if (const Reference* reference = state.reference(guide.reference))
      place.placing = frameFromReference(reference->placement, reference->size, state.frame);
    const auto kept = edits.layer(guide.retouch);
    Layer layer = kept ? following(*kept, place.frame, place.placing) : Layer{place.frame, place.placing, {}};
    for (const auto& loop : o.drop)
      layer = painted(layer, polygonMask(parsedLoop(loop), state.frame), PaintMode::rubOut, below);
    for (const auto& loop : o.keep) {
      auto mask = polygonMask(parsedLoop(loop), state.frame);
      turnOver(mask.view());
      layer = painted(layer, mask, PaintMode::rubOut, below);
    }
    if (o.specks) layer = painted(layer, specksOf(composed(below, layer), *o.specks), PaintMode::rubOut, below);
    guide.retouch = edits.keep(std::move(layer));
  }
  file.writeState(state, edits.unsaved(editsNamedIn(guide)));
}

void runInfo(const std::string& path, bool json) {
  const auto file = StudyFile::open(path);
  const auto state = file.readState();
  const auto proofs = file.proofs();
  if (json) {
    auto out = stateToJson(state);
    out["proofs"] = proofs.size();
    std::cout << out.dump(2) << "\n";
    return;
  }
  std::cout << fmt::format("{}\n  frame       {} x {} ({})\n", state.title, state.frame.width, state.frame.height,
                           ratioName(state.frame));
  for (const auto& r : state.references)
    std::cout << fmt::format("  reference   {} ({} x {})\n", r.name, r.size.width, r.size.height);
  for (const auto& g : state.guides)
    std::cout << fmt::format("  guide       {}: {}, weight {:.2f}, {:.0f} to {:.0f} %{}\n", g.name, g.kind, g.weight,
                             g.range.from, g.range.to, g.on ? "" : ", off");
  std::cout << fmt::format("  prompt      {}\n  seed        {}, {} steps, guidance {}\n  proofs      {}\n",
                           state.brief.prompt, state.brief.seed, state.brief.steps, state.brief.guidance,
                           proofs.size());
}

std::map<std::string, MapFacts> factsOf(const StudyFile& file, const StudyState& state) {
  std::map<std::string, MapFacts> facts;
  const auto job = jobFor(file, recipeOf(state));
  for (std::size_t i = 0; i < job.maps.size(); ++i) {
    MapFacts& of = facts[job.recipe.guides[i].guide.id];
    of.edgeShare = edgeShare(narrowed(job.maps[i]));
    if (!job.figures[i]) continue;
    std::vector<pose::PoseWords> told;
    for (const auto& figure : job.figures[i]->figures) told.push_back(pose::wordsFor(*figure));
    of.tell(*job.figures[i], told);
  }
  return facts;
}

void runCheck(const std::string& path, bool json) {
  const auto file = StudyFile::open(path);
  const auto state = file.readState();
  auto list = nlohmann::json::array();
  for (const auto& check : checksOf(state, factsOf(file, state))) {
    list.push_back({{"check", check.id}, {"bad", check.severity == Severity::bad}, {"sentence", check.sentence}});
    if (!json) std::cout << (check.severity == Severity::bad ? "bad    " : "doubt  ") << check.sentence << "\n";
  }
  if (json) std::cout << list.dump(2) << "\n";
  if (!json && list.empty()) std::cout << "No doubts.\n";
}

void runExport(const std::string& path, const std::string& folder) {
  const auto file = StudyFile::open(path);
  std::filesystem::create_directories(folder);
  auto job = jobFor(file, recipeOf(file.readState()));
  for (std::size_t i = 0; i < job.maps.size(); ++i) {
    const Kind& kind = kindOf(job.recipe.guides[i].guide.kind);
    std::string name = fmt::format("map-{}-{}.png", i + 1, kind.id);
    writeFileAtomically(std::filesystem::path(folder) / name, encodeMap(kind, job.maps[i], job.colours[i]));
    if (job.figures[i]) {
      // An engine is told of figures by their key points.
      name = fmt::format("map-{}-{}.json", i + 1, kind.id);
      const std::string text = pose::cocoFrom(*job.figures[i]).dump(1) + "\n";
      writeFileAtomically(std::filesystem::path(folder) / name, bytesOf(text));
    }
    job.recipe.guides[i].mapFile = name;
  }
  const std::string recipe = recipeToJson(job.recipe).dump(2) + "\n";
  writeFileAtomically(std::filesystem::path(folder) / "recipe.json", bytesOf(recipe));
  for (const auto& proof : file.proofs())
    writeFileAtomically(std::filesystem::path(folder) / fmt::format("proof-{:03}.png", proof.number),
                        file.proofPng(proof.number));
}

struct PoseOptions {
  std::string path, figures, name = "Pose";
  std::size_t reference = 0;
  double weight = 0.9;
  ClipChoice clip;
};

void runPose(const PoseOptions& o) {
  auto file = StudyFile::open(o.path);
  auto state = file.readState();
  Guide guide;
  guide.kind = "pose";
  guide.name = o.name;
  guide.weight = o.weight;
  const auto bytes = readInput(o.figures);
  pose::Figures figures;
  if (o.reference > 0) {
    if (o.reference > state.references.size())
      throw badInput(fmt::format("--reference: there is no reference {}.", o.reference));
    const Reference& reference = state.references[o.reference - 1];
    guide.reference = reference.id;
    // Key points are of that picture, and lie in the frame as it does.
    figures = figuresFromFile(bytes, nameOfInput(o.figures), reference.size, o.clip).figures;
    figures.placing = Affine{};
    figures =
        pose::following(figures, state.frame, frameFromReference(reference.placement, reference.size, state.frame));
  } else {
    figures = figuresFromFile(bytes, nameOfInput(o.figures), state.frame, o.clip).figures;
  }
  EditStore edits([&](const std::string& id) { return file.edit(id); });
  guide.figures = edits.keep(std::move(figures));
  guide.id = newId(state, "g");
  state.guides.insert(state.guides.begin(), guide);
  state.selectedGuide = guide.id;
  file.writeState(state, edits.unsaved({guide.figures}));
}

}  // namespace

void addStudyCommand(CLI::App& app, CliContext& context) {
  auto* study = app.add_subcommand("study", "Make and look into studies");
  study->require_subcommand(1);

  auto* make = study->add_subcommand("new", "Make a study");
  auto options = std::make_shared<NewOptions>();
  make->add_option("STUDY", options->path, "The .scaffold file to make")->required();
  make->add_option("--title", options->title, "Its title");
  make->add_option("--size", options->size, "Frame, WIDTHxHEIGHT");
  make->add_option("--prompt", options->prompt, "What to make");
  make->add_option("--seed", options->seed, "Seed")->check(CLI::Range(0LL, 4294967295LL));
  make->add_option("--reference", options->references, "A picture to bring in; may be given several times");
  make->add_option("--guide", options->guides,
                   "KIND, KIND=WEIGHT or KIND@REFERENCE=WEIGHT; may be given several times");
  make->callback([&context, options] { context.run = [options] { runNew(*options); }; });

  auto* set = study->add_subcommand("set", "Change settings of a study");
  auto changes = std::make_shared<SetOptions>();
  set->add_option("STUDY", changes->path, "The .scaffold file")->required();
  set->add_option("--title", changes->title, "Title");
  set->add_option("--prompt", changes->prompt, "What to make");
  set->add_option("--avoid", changes->avoid, "What not");
  set->add_option("--seed", changes->seed, "Seed")->check(CLI::Range(0LL, 4294967295LL));
  set->add_option("--steps", changes->steps, "Steps")->check(CLI::Range(fewestSteps, mostSteps));
  set->add_option("--guidance", changes->guidance, "How hard the prompt is obeyed");
  set->add_option("--guide", changes->guide, "Which guide the following are for, by name or id");
  set->add_option("--rename", changes->name, "A new name for it");
  set->add_option("--weight", changes->weight, "Its weight, 0 to 2");
  set->add_option("--from", changes->from, "Where its range begins, percent");
  set->add_option("--to", changes->to, "Where its range ends, percent");
  set->add_option("--ramp-in", changes->rampIn, "Length of the ramp at the beginning, percent");
  set->add_option("--ramp-out", changes->rampOut, "Length of the ramp at the end, percent");
  set->add_option("--tuning", changes->tuning, "FIELD=VALUE of its extraction; may be given several times");
  auto* on = set->add_flag("--on", changes->on, "Turn it on");
  set->add_flag("--off", changes->off, "Turn it off")->excludes(on);
  set->callback([&context, changes] { context.run = [changes] { runSet(*changes); }; });

  auto* retouch = study->add_subcommand("retouch", "Correct the map of a guide by hand, over its extraction");
  auto strokes = std::make_shared<RetouchOptions>();
  retouch->add_option("STUDY", strokes->path, "The .scaffold file")->required();
  retouch->add_option("--guide", strokes->guide, "Which guide, by name or id")->required();
  retouch->add_flag("--clear", strokes->clear, "First take all retouch away");
  retouch->add_option("--drop", strokes->drop,
                      "Rub out inside a loop, \"X,Y X,Y X,Y\" in frame pixels; may be given several times");
  retouch->add_option("--keep", strokes->keep, "Rub out all but the inside of a loop");
  retouch->add_option("--specks", strokes->specks, "Rub out pieces of fewer pixels")->check(CLI::Range(1.0, 1e6));
  auto* hide = retouch->add_flag("--hide", strokes->hide, "Hide it");
  retouch->add_flag("--show", strokes->show, "Show it again")->excludes(hide);
  retouch->callback([&context, strokes] { context.run = [strokes] { runRetouch(*strokes); }; });

  auto* posing = study->add_subcommand("pose", "Add a guide of figures to a study");
  auto figures = std::make_shared<PoseOptions>();
  posing->add_option("STUDY", figures->path, "The .scaffold file")->required();
  posing->add_option("--figures", figures->figures, "COCO key points (JSON) or a motion clip (BVH)")->required();
  posing->add_option("--reference", figures->reference, "They are of this reference, counted from 1");
  posing->add_option("--name", figures->name, "Name of the guide");
  posing->add_option("--weight", figures->weight, "Its weight")->check(CLI::Range(0.0, largestWeight));
  posing->callback([&context, figures] { context.run = [figures] { runPose(*figures); }; });

  auto path = std::make_shared<std::string>();
  auto folder = std::make_shared<std::string>();
  auto* info = study->add_subcommand("info", "Say what is in a study");
  info->add_option("STUDY", *path, "The .scaffold file")->required();
  info->callback([&context, path] { context.run = [path, &context] { runInfo(*path, context.json); }; });
  auto* check = study->add_subcommand("check", "Say what is wrong or doubtful before a pull");
  check->add_option("STUDY", *path, "The .scaffold file")->required();
  check->callback([&context, path] { context.run = [path, &context] { runCheck(*path, context.json); }; });
  auto* exporting = study->add_subcommand("export", "Write maps, recipe and proofs into a folder");
  exporting->add_option("STUDY", *path, "The .scaffold file")->required();
  exporting->add_option("-o,--out", *folder, "The folder")->required();
  exporting->callback([&context, path, folder] { context.run = [path, folder] { runExport(*path, *folder); }; });
}

}  // namespace hscaffold
