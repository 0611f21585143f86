// hscaffold study new|set|hints|retouch|pose|info|check|export.
#include <fmt/format.h>

#include <iostream>
#include <nlohmann/json.hpp>
#include <optional>
#include <sstream>

#include "cli/commands.h"
#include "core/engine/standin/standin.h"
#include "core/depth/hints.h"
#include "core/edges/edges.h"
#include "core/frame/frame.h"
#include "core/image/colour.h"
#include "core/image/narrow.h"
#include "core/image/png.h"
#include "core/kinds.h"
#include "core/number_text.h"
#include "core/retouch/painter.h"
#include "core/study/checks.h"
#include "core/study/study_file.h"
#include "files/figure_files.h"
#include "files/picture_reader.h"
#include "files/study_lock.h"
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
    const auto weight = numberFrom(std::string_view(kind).substr(equals + 1));
    if (!weight || *weight < 0 || *weight > largestWeight)
      throw badInput("--guide: the weight in \"" + text + "\" goes from 0 to 2.");
    guide.weight = *weight;
    kind.resize(equals);
  }
  std::size_t number = 1;
  if (const auto at = kind.find('@'); at != std::string::npos) {
    number = static_cast<std::size_t>(std::max(0.0, numberFrom(std::string_view(kind).substr(at + 1)).value_or(0)));
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
    for (const auto& picture : options.references) {
      Bytes bytes;
      const auto loaded = readPicture(picture, &bytes);
      const Size asked = state.frame;
      addReference(file, state, bytes, loaded.picture.size(), std::filesystem::path(picture).filename().string());
      if (!options.size.empty()) state.frame = asked;
    }
    for (const auto& guide : options.guides) state.guides.push_back(parsedGuide(state, guide));
    if (!state.guides.empty()) state.looking.guide = state.guides.front().id;
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
  std::optional<std::string> title, prompt, avoid, shape;
  std::optional<std::int64_t> seed, steps;
  std::optional<double> guidance, weight, from, to, rampIn, rampOut;
  std::vector<std::string> tuning;
  bool on = false, off = false;
};

void runSet(const SetOptions& o) {
  const auto lock = StudyLock::takeOrSay(o.path, longestWait);
  auto file = StudyFile::open(o.path);
  auto state = file.readState();
  if (o.title) state.title = *o.title;
  if (o.prompt) state.brief.prompt = *o.prompt;
  if (o.avoid) state.brief.avoid = *o.avoid;
  if (o.seed) state.brief.seed = static_cast<std::uint32_t>(*o.seed);
  if (o.steps) state.brief.steps = static_cast<int>(*o.steps);
  if (o.guidance) state.brief.guidance = *o.guidance;
  const bool ofGuide = o.weight || o.from || o.to || o.rampIn || o.rampOut || o.shape || o.on || o.off ||
                       !o.name.empty() || !o.tuning.empty();
  if (ofGuide) {
    Guide* found = &guideNamed(state, o.guide, o.path);
    if (o.weight) found->weight = *o.weight;
    if (o.from) found->range.from = *o.from;
    if (o.to) found->range.to = *o.to;
    if (o.shape)
      found->range = o.shape->empty() ? Range{found->range.from, found->range.to} : rangeFromText(*o.shape, "--shape");
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
    const auto numbers = parsedNumbers(pair, 2);
    if (numbers.empty()) throw badInput("\"" + pair + "\" is not a place like 120,80.");
    loop.push_back({numbers[0], numbers[1]});
  }
  if (loop.size() < 3) throw badInput("A loop needs at least three places, like \"10,10 200,10 200,90\".");
  return loop;
}

void runRetouch(const RetouchOptions& o) {
  const auto lock = StudyLock::takeOrSay(o.path, longestWait);
  auto file = StudyFile::open(o.path);
  auto state = file.readState();
  Guide& guide = guideNamed(state, o.guide, o.path);
  EditStore edits([&](const std::string& id) { return file.edit(id); });
  if (o.clear) guide.work.clear(retouchSlot);
  if (o.hide || o.show) guide.retouchHidden = o.hide;
  if (!o.drop.empty() || !o.keep.empty() || o.specks) {
    // What lies below is needed to know later what has moved under the retouch.
    StudyState alone = state;
    std::erase_if(alone.guides, [&](const Guide& g) { return g.id != guide.id; });
    alone.guides.front().on = true;
    alone.guides.front().clearRegion();
    alone.guides.front().work.clear(retouchSlot);
    const auto below = std::move(jobFor(file, recipeOf(alone)).job.inputs.front().map);
    GuidePlace place{state.frame, {}};
    if (const Reference* reference = state.reference(guide.reference))
      place.placing = frameFromReference(reference->placement, reference->size, state.frame);
    const auto kept = edits.layer(guide.work.in(retouchSlot));
    Layer layer = kept ? following(*kept, place.frame, place.placing) : Layer{place.frame, place.placing, {}};
    for (const auto& loop : o.drop)
      layer = painted(layer, polygonMask(parsedLoop(loop), state.frame), PaintMode::rubOut, below);
    for (const auto& loop : o.keep) {
      auto mask = polygonMask(parsedLoop(loop), state.frame);
      turnOver(mask.view());
      layer = painted(layer, mask, PaintMode::rubOut, below);
    }
    if (o.specks) layer = painted(layer, specksOf(composed(below, layer), *o.specks), PaintMode::rubOut, below);
    guide.work.put(retouchSlot, edits.keep(std::move(layer)));
  }
  file.writeState(state, edits.unsaved(editsNamedIn(guide)));
}

struct HintOptions {
  std::string path, guide, file;
  bool clear = false;
};

void runHints(const HintOptions& o) {
  const auto lock = StudyLock::takeOrSay(o.path, longestWait);
  auto file = StudyFile::open(o.path);
  auto state = file.readState();
  Guide& guide = guideNamed(state, o.guide, o.path);
  if (!kindOf(guide.kind).hasSlot(depth::hintsSlot))
    throw badInput(fmt::format("{} takes no hints of depth: it is a guide of the kind {}.", guide.name, guide.kind));
  EditStore edits([&](const std::string& id) { return file.edit(id); });
  GuidePlace place{state.frame, {}};
  if (const Reference* reference = state.reference(guide.reference))
    place.placing = frameFromReference(reference->placement, reference->size, state.frame);
  depth::Hints hints{place.frame, place.placing, {}};
  if (!o.clear)
    if (const auto kept = edits.get<depth::Hints>(depth::hintsForm(), guide.work.in(depth::hintsSlot)))
      hints = depth::following(*kept, place.frame, place.placing);
  if (!o.file.empty()) {
    const auto read = depth::hintsFromText(textOf(readInput(o.file)), o.file);
    // Made for a frame of another size, they lie at the same shares of it.
    for (const auto& hint : depth::following(read, place.frame, {}).hints) hints.hints.push_back(hint);
  }
  if (hints.hints.size() > depth::mostHints)
    throw badInput(fmt::format("{} would have more than {} hints.", guide.name, depth::mostHints));
  guide.work.put(depth::hintsSlot,
                 hints.hints.empty() ? std::string() : edits.keep(depth::hintsForm(), std::move(hints)));
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

void runCheck(const std::string& path, bool json) {
  const auto file = StudyFile::open(path);
  const auto state = file.readState();
  auto list = nlohmann::json::array();
  const auto made = jobFor(file, recipeOf(state));
  for (const std::string& note : made.notes) std::cerr << "hscaffold: " << note << "\n";
  MapPairs pairs;
  const auto engine = StandinEngine().info();
  for (const auto& check : checksOf(state, factsOf(made), pairs, &engine)) {
    list.push_back({{"check", check.id}, {"bad", check.severity == Severity::bad}, {"sentence", check.sentence}});
    if (!json) std::cout << (check.severity == Severity::bad ? "bad    " : "doubt  ") << check.sentence << "\n";
  }
  if (json) std::cout << list.dump(2) << "\n";
  if (!json && list.empty()) std::cout << "No doubts.\n";
}

void runExport(const std::string& path, const std::string& folder) {
  const auto file = StudyFile::open(path);
  std::filesystem::create_directories(folder);
  auto made = jobFor(file, recipeOf(file.readState()));
  for (const std::string& note : made.notes) std::cerr << "hscaffold: " << note << "\n";
  auto& job = made.job;
  for (std::size_t i = 0; i < job.inputs.size(); ++i) {
    const Guide& guide = job.recipe.guides[i].guide;
    const Kind& kind = kindOf(guide.kind);
    const GuideInput& input = job.inputs[i];
    std::string name = fmt::format("map-{}-{}.png", i + 1, kind.id);
    writeFileAtomically(std::filesystem::path(folder) / name, encodeMap(kind, input.map, input.colour));
    if (!kind.besideEnding.empty()) {
      name = fmt::format("map-{}-{}{}", i + 1, kind.id, kind.besideEnding);
      const std::string text = exportFor(kind, name)->write({guide, input, job.recipe.frame, guide.name});
      writeFileAtomically(std::filesystem::path(folder) / name, bytesOf(text));
    }
    job.recipe.guides[i].mapFile = name;
  }
  if (!job.start.empty()) {
    job.recipe.brief.start.pictureFile = "start.png";
    writeFileAtomically(std::filesystem::path(folder) / "start.png", encodePng(toSrgb16(job.start.view()).view()));
  }
  const std::string recipe = recipeToJson(job.recipe).dump(2) + "\n";
  writeFileAtomically(std::filesystem::path(folder) / "recipe.json", bytesOf(recipe));
  for (const auto& proof : file.proofs())
    writeFileAtomically(std::filesystem::path(folder) / fmt::format("proof-{:03}.png", proof.number),
                        file.proofPng(proof.number));
}

struct PoseOptions {
  std::string path, figures, name = "Pose";
  std::int64_t reference = 0;
  double weight = 0.9;
};

void runPose(const PoseOptions& o) {
  const auto lock = StudyLock::takeOrSay(o.path, longestWait);
  auto file = StudyFile::open(o.path);
  auto state = file.readState();
  Guide guide;
  guide.kind = "pose";
  guide.name = o.name;
  guide.weight = o.weight;
  const auto bytes = readInput(o.figures);
  pose::Figures figures;
  if (o.reference > 0) {
    if (o.reference > std::ssize(state.references))
      throw badInput(fmt::format("--reference: there is no reference {}.", o.reference));
    const Reference& reference = state.references[static_cast<std::size_t>(o.reference - 1)];
    guide.reference = reference.id;
    // Key points are of that picture, and lie in the frame as it does.
    figures =
        placedWith(figuresFromFile(bytes, nameOfInput(o.figures), reference.size).figures, reference, state.frame);
  } else {
    figures = figuresFromFile(bytes, nameOfInput(o.figures), state.frame).figures;
  }
  EditStore edits([&](const std::string& id) { return file.edit(id); });
  guide.work.put(pose::figuresSlot, edits.keep(pose::figuresForm(), std::move(figures)));
  guide.id = newId(state, "g");
  state.guides.insert(state.guides.begin(), guide);
  state.looking.guide = guide.id;
  file.writeState(state, edits.unsaved(editsNamedIn(guide)));
}

}  // namespace

void addStudyCommand(Command& root, const bool& json) {
  auto study = root.add("study", "Make and look into studies");
  constexpr Limits seeds{0, 4294967295.0};

  auto make = study.add("new", "Make a study");
  auto options = std::make_shared<NewOptions>();
  make.text("STUDY", options->path, "The .scaffold file to make").required();
  make.text("--title", options->title, "Its title");
  make.text("--size", options->size, "Frame, WIDTHxHEIGHT");
  make.text("--prompt", options->prompt, "What to make");
  make.whole("--seed", options->seed, "Seed", seeds);
  make.texts("--reference", options->references, "A picture to bring in; may be given several times");
  make.texts("--guide", options->guides, "KIND, KIND=WEIGHT or KIND@REFERENCE=WEIGHT; may be given several times");
  make.run([options] { runNew(*options); });

  auto set = study.add("set", "Change settings of a study");
  auto changes = std::make_shared<SetOptions>();
  set.text("STUDY", changes->path, "The .scaffold file").required();
  set.text("--title", changes->title, "Title");
  set.text("--prompt", changes->prompt, "What to make");
  set.text("--avoid", changes->avoid, "What not");
  set.whole("--seed", changes->seed, "Seed", seeds);
  set.whole("--steps", changes->steps, "Steps", {fewestSteps, mostSteps});
  set.number("--guidance", changes->guidance, "How hard the prompt is obeyed");
  set.text("--guide", changes->guide, "Which guide the following are for, by name or id");
  set.text("--rename", changes->name, "A new name for it");
  set.number("--weight", changes->weight, "Its weight, 0 to 2");
  set.number("--from", changes->from, "Where its range begins, percent");
  set.number("--to", changes->to, "Where its range ends, percent");
  set.number("--ramp-in", changes->rampIn, "Length of the ramp at the beginning, percent");
  set.number("--ramp-out", changes->rampOut, "Length of the ramp at the end, percent");
  set.text("--shape", changes->shape,
           "Free shape of the range: 0:0.2,40:1,100:0 (percent of the way: share of the weight); empty: ramps again");
  set.texts("--tuning", changes->tuning, "FIELD=VALUE of its extraction; may be given several times");
  auto on = set.flag("--on", changes->on, "Turn it on");
  set.flag("--off", changes->off, "Turn it off").excludes(on);
  set.run([changes] { runSet(*changes); });

  addBriefCommand(study);

  auto hints = study.add("hints", "Say what is near and far in the depth of a guide");
  auto said = std::make_shared<HintOptions>();
  hints.text("STUDY", said->path, "The .scaffold file").required();
  hints.text("--guide", said->guide, "Which guide, by name or id").required();
  hints.text("--file", said->file, "Hints, a JSON file: see docs/depth.md; - for standard input");
  hints.flag("--clear", said->clear, "First take all hints away");
  hints.run([said] { runHints(*said); });
  auto retouch = study.add("retouch", "Correct the map of a guide by hand, over its extraction");
  auto strokes = std::make_shared<RetouchOptions>();
  retouch.text("STUDY", strokes->path, "The .scaffold file").required();
  retouch.text("--guide", strokes->guide, "Which guide, by name or id").required();
  retouch.flag("--clear", strokes->clear, "First take all retouch away");
  retouch.texts("--drop", strokes->drop,
                "Rub out inside a loop, \"X,Y X,Y X,Y\" in frame pixels; may be given several times");
  retouch.texts("--keep", strokes->keep, "Rub out all but the inside of a loop");
  retouch.number("--specks", strokes->specks, "Rub out pieces of fewer pixels", {1, 1e6});
  auto hide = retouch.flag("--hide", strokes->hide, "Hide it");
  retouch.flag("--show", strokes->show, "Show it again").excludes(hide);
  retouch.run([strokes] { runRetouch(*strokes); });

  auto posing = study.add("pose", "Add a guide of figures to a study");
  auto figures = std::make_shared<PoseOptions>();
  posing.text("STUDY", figures->path, "The .scaffold file").required();
  posing.text("--figures", figures->figures, "COCO key points (JSON) or a motion clip (BVH)").required();
  posing.whole("--reference", figures->reference, "They are of this reference, counted from 1", {1, 1e6});
  posing.text("--name", figures->name, "Name of the guide");
  posing.number("--weight", figures->weight, "Its weight", {0, largestWeight});
  posing.run([figures] { runPose(*figures); });

  auto path = std::make_shared<std::string>();
  auto folder = std::make_shared<std::string>();
  auto info = study.add("info", "Say what is in a study");
  info.text("STUDY", *path, "The .scaffold file").required();
  info.run([path, &json] { runInfo(*path, json); });
  auto check = study.add("check", "Say what is wrong or doubtful before a pull");
  check.text("STUDY", *path, "The .scaffold file").required();
  check.run([path, &json] { runCheck(*path, json); });
  auto exporting = study.add("export", "Write maps, recipe and proofs into a folder");
  exporting.text("STUDY", *path, "The .scaffold file").required();
  exporting.text("-o,--out", *folder, "The folder").required();
  exporting.run([path, folder] { runExport(*path, *folder); });
}

}  // namespace hscaffold
