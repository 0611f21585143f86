// hscaffold study new|set, and what lists the others.
#include <fmt/format.h>

#include <iostream>
#include <nlohmann/json.hpp>
#include <optional>

#include "cli/commands.h"
#include "cli/study_commands.h"
#include "core/frame/frame.h"
#include "core/kinds.h"
#include "core/number_text.h"
#include "core/study/study_file.h"
#include "files/picture_reader.h"
#include "files/study_job.h"
#include "files/study_lock.h"

namespace hscaffold {

Guide& guideNamed(StudyState& state, const std::string& name, const std::string& path) {
  const auto found = std::find_if(state.guides.begin(), state.guides.end(),
                                  [&](const Guide& g) { return g.id == name || g.name == name; });
  if (found == state.guides.end()) throw badInput("--guide: there is no guide \"" + name + "\" in " + path + ".");
  return *found;
}

StudyState checked(const StudyState& state) { return stateFromJson(stateToJson(state)); }

void sayMended(const StudyFile& file) {
  for (const std::string& sentence : file.mended()) std::cerr << "hscaffold: " << sentence << "\n";
}

StudyToChange::StudyToChange(const std::string& path)
    : lock(StudyLock::takeOrSay(path, longestWait)),
      file(StudyFile::open(path)),
      state(file.readState()),
      work([this](const std::string& id) { return file.work(id); }) {
  sayMended(file);
}

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
  bool weighed = false, placed = false;
  if (const auto equals = kind.find('='); equals != std::string::npos) {
    const auto weight = numberFrom(std::string_view(kind).substr(equals + 1));
    if (!weight || *weight < 0 || *weight > limits::weight.most)
      throw badInput("--guide: the weight in \"" + text + "\" goes from 0 to 2.");
    guide.weight = *weight;
    weighed = true;
    kind.resize(equals);
  }
  std::size_t number = 1;
  if (const auto at = kind.find('@'); at != std::string::npos) {
    placed = true;
    number = static_cast<std::size_t>(std::max(0.0, numberFrom(std::string_view(kind).substr(at + 1)).value_or(0)));
    kind.resize(at);
  }
  const Kind& made = kindOf(kind);
  guide.kind = made.id;
  guide.name = made.name;
  guide.range = made.startRange;
  if (!weighed) guide.weight = made.startWeight.value_or(guide.weight);
  guide.id = newId(state, "g");
  if (made.onSettings && !placed && (!made.extract || state.references.empty())) return guide;
  if (number < 1 || number > state.references.size())
    throw badInput(fmt::format("--guide: there is no reference {}.", number));
  guide.reference = state.references[number - 1].id;
  return guide;
}

void runNew(const NewOptions& options) {
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
  std::vector<PictureFile> pictures;
  for (const auto& picture : options.references) {
    Bytes bytes;
    const auto loaded = readPicture(picture, &bytes);
    const Size asked = state.frame;
    pictures.push_back(pictureFile(std::move(bytes)));
    addReference(state, pictures.back(), loaded.picture.size(), std::filesystem::path(picture).filename().string());
    if (!options.size.empty()) state.frame = asked;
  }
  for (const auto& guide : options.guides) state.guides.push_back(parsedGuide(state, guide));
  if (!state.guides.empty()) state.looking.guide = state.guides.front().id;
  StudyFile::create(options.path, checked(state), pictures, {}, StudyFile::Existing::keep);
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
  StudyToChange study(o.path);
  StudyState& state = study.state;
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
  study.file.writeState(checked(state));
}

}  // namespace

void addStudyCommand(Command& root, const bool& json) {
  auto study = root.add("study", "Make and look into studies");

  auto make = study.add("new", "Make a study");
  auto options = std::make_shared<NewOptions>();
  make.text("STUDY", options->path, "The .scaffold file to make").required();
  make.text("--title", options->title, "Its title");
  make.text("--size", options->size, "Frame, WIDTHxHEIGHT");
  make.text("--prompt", options->prompt, "What to make");
  make.whole("--seed", options->seed, "Seed", limits::seed);
  make.texts("--reference", options->references, "A picture to bring in; may be given several times");
  make.texts("--guide", options->guides, "KIND, KIND=WEIGHT or KIND@REFERENCE=WEIGHT; may be given several times");
  make.run([options] { runNew(*options); });

  auto set = study.add("set", "Change settings of a study");
  auto changes = std::make_shared<SetOptions>();
  set.text("STUDY", changes->path, "The .scaffold file").required();
  set.text("--title", changes->title, "Title");
  set.text("--prompt", changes->prompt, "What to make");
  set.text("--avoid", changes->avoid, "What not");
  set.whole("--seed", changes->seed, "Seed", limits::seed);
  set.whole("--steps", changes->steps, "Steps", limits::steps);
  set.number("--guidance", changes->guidance, "How hard the prompt is obeyed", limits::guidance);
  set.text("--guide", changes->guide, "Which guide the following are for, by name or id");
  set.text("--rename", changes->name, "A new name for it");
  set.number("--weight", changes->weight, "Its weight", limits::weight);
  set.number("--from", changes->from, "Where its range begins, percent", limits::percent);
  set.number("--to", changes->to, "Where its range ends, percent", limits::percent);
  set.number("--ramp-in", changes->rampIn, "Length of the ramp at the beginning, percent", limits::percent);
  set.number("--ramp-out", changes->rampOut, "Length of the ramp at the end, percent", limits::percent);
  set.text("--shape", changes->shape,
           "Free shape of the range: 0:0.2,40:1,100:0 (percent of the way: share of the weight); empty: ramps again");
  set.texts("--tuning", changes->tuning, "FIELD=VALUE of its extraction; may be given several times");
  auto on = set.flag("--on", changes->on, "Turn it on");
  set.flag("--off", changes->off, "Turn it off").excludes(on);
  set.run([changes] { runSet(*changes); });

  addBriefCommand(study);

  addHandWorkCommands(study);
  addLookCommands(study, json);
}

}  // namespace hscaffold
