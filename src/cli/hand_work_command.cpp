// hscaffold study hints|lights|retouch|pose.
#include <fmt/format.h>

#include <nlohmann/json.hpp>
#include <optional>
#include <sstream>

#include "cli/commands.h"
#include "cli/study_commands.h"
#include "core/depth/hints.h"
#include "core/frame/frame.h"
#include "core/image/colour.h"
#include "core/image/png.h"
#include "core/kinds.h"
#include "core/retouch/painter.h"
#include "core/study/study_file.h"
#include "core/tone/light_table.h"
#include "files/figure_files.h"
#include "files/study_job.h"
#include "files/study_lock.h"

namespace hscaffold {
namespace {

struct RetouchOptions {
  std::string path, guide;
  std::vector<std::string> drop, keep, region;
  std::optional<double> specks, feather;
  bool clear = false, hide = false, show = false, everywhere = false, outside = false;
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

/// A layer as it lies now; an empty one where there is none.
Layer layerNow(const StudyState& state, const Guide& guide, const std::shared_ptr<const Layer>& kept) {
  const GuidePlace place = placeOf(state, guide);
  return kept ? following(*kept, place.frame, place.placing) : Layer{place.frame, place.placing, {}};
}

void runRetouch(const RetouchOptions& o) {
  StudyToChange study(o.path);
  StudyState& state = study.state;
  Guide& guide = guideNamed(state, o.guide, o.path);
  if (o.clear) guide.work.clear(retouchSlot);
  if (o.everywhere) guide.clearRegion();
  if (o.hide || o.show) guide.retouchHidden = o.hide;
  if (!o.drop.empty() || !o.keep.empty() || o.specks) {
    // What lies below is needed to know later what has moved under the retouch.
    StudyState alone = state;
    std::erase_if(alone.guides, [&](const Guide& g) { return g.id != guide.id; });
    alone.guides.front().on = true;
    alone.guides.front().clearRegion();
    alone.guides.front().work.clear(retouchSlot);
    const auto recipe = recipeOf(alone);
    if (recipe.guides.empty())
      throw badInput(
          fmt::format("The reference of {} is not in the study any more: there is no map to correct.", guide.name));
    const auto below = std::move(jobFor(study.file, recipe).job.inputs.front().map);
    Layer layer = layerNow(state, guide, study.work.layer(guide.work.in(retouchSlot)));
    for (const auto& loop : o.drop)
      layer = painted(layer, polygonMask(parsedLoop(loop), state.frame), PaintMode::rubOut, below);
    for (const auto& loop : o.keep) {
      auto mask = polygonMask(parsedLoop(loop), state.frame);
      turnOver(mask.view());
      layer = painted(layer, mask, PaintMode::rubOut, below);
    }
    if (o.specks) layer = painted(layer, specksOf(composed(below, layer), *o.specks), PaintMode::rubOut, below);
    guide.work.put(retouchSlot, study.work.keep(std::move(layer)));
  }
  if (!o.region.empty()) {
    Layer layer = layerNow(state, guide, study.work.layer(guide.work.in(regionSlot)));
    for (const auto& loop : o.region)
      layer = painted(layer, polygonMask(parsedLoop(loop), state.frame), PaintMode::draw, {});
    guide.work.put(regionSlot, study.work.keep(std::move(layer)));
  }
  if (o.feather) guide.region.feather = *o.feather;
  if (o.outside) guide.region.inverted = true;
  if ((o.feather || o.outside) && !guide.limited())
    throw badInput(guide.name + " has no region that could be softened or turned over. Give one with --region.");
  study.file.writeState(checked(state), study.work.unsaved(workNamedIn(guide)));
}

struct HintOptions {
  std::string path, guide, file;
  bool clear = false;
};

void runHints(const HintOptions& o) {
  StudyToChange study(o.path);
  StudyState& state = study.state;
  Guide& guide = guideNamed(state, o.guide, o.path);
  if (!kindOf(guide.kind).hasSlot(depth::hintsSlot))
    throw badInput(fmt::format("{} takes no hints of depth: it is a guide of the kind {}.", guide.name, guide.kind));
  const GuidePlace place = placeOf(state, guide);
  depth::Hints hints{place.frame, place.placing, {}};
  if (!o.clear)
    if (const auto kept = study.work.get<depth::Hints>(depth::hintsForm(), guide.work.in(depth::hintsSlot)))
      hints = depth::following(*kept, place.frame, place.placing);
  if (!o.file.empty()) {
    const auto read = depth::hintsFromText(textOf(readInput(o.file)), o.file);
    // Made for a frame of another size, they lie at the same shares of it.
    for (const auto& hint : depth::following(read, place.frame, {}).hints) hints.hints.push_back(hint);
  }
  if (hints.hints.size() > depth::mostHints)
    throw badInput(fmt::format("{} would have more than {} hints.", guide.name, depth::mostHints));
  guide.work.put(depth::hintsSlot,
                 hints.hints.empty() ? std::string() : study.work.keep(depth::hintsForm(), std::move(hints)));
  study.file.writeState(state, study.work.unsaved(workNamedIn(guide)));
}

struct PoseOptions {
  std::string path, figures, name = "Pose";
  std::int64_t reference = 0;
  double weight = 0.9;
};

void runPose(const PoseOptions& o) {
  StudyToChange study(o.path);
  StudyState& state = study.state;
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
  guide.work.put(pose::figuresSlot, study.work.keep(pose::figuresForm(), std::move(figures)));
  guide.id = newId(state, "g");
  state.guides.insert(state.guides.begin(), guide);
  state.looking.guide = guide.id;
  study.file.writeState(state, study.work.unsaved(workNamedIn(guide)));
}

struct LightOptions {
  std::string path, guide, file, hour, near;
  std::optional<double> relight, from;
  bool clear = false;
};

std::vector<std::string> hourNames() {
  std::vector<std::string> out;
  for (const light::Hour& hour : light::hours()) out.emplace_back(hour.name);
  return out;
}

void runLights(const LightOptions& o) {
  StudyToChange study(o.path);
  StudyState& state = study.state;
  Guide& guide = guideNamed(state, o.guide, o.path);
  if (!kindOf(guide.kind).hasSlot(light::lightSlot))
    throw badInput(fmt::format("{} has no light table: it is a guide of the kind {}.", guide.name, guide.kind));
  const GuidePlace place = placeOf(state, guide);
  light::LightTable table;
  if (!o.clear)
    if (const auto kept = study.work.get<light::LightTable>(light::lightForm(), guide.work.in(light::lightSlot)))
      table = light::following(*kept, place.frame, place.placing);
  table.frame = place.frame;
  table.placing = place.placing;
  for (const light::Hour& hour : light::hours())
    if (o.hour == hour.name) table = light::atHour(hour, table, place);
  if (!o.file.empty()) {
    const auto read = light::tableFromText(textOf(readInput(o.file)), o.file);
    // Made for a frame, without a reference that it would follow.
    const auto now = light::following(read, place.frame, {});
    table.lights.insert(table.lights.end(), now.lights.begin(), now.lights.end());
    if (now.tint > 0) table.tint = now.tint, table.inLight = now.inLight, table.inShadow = now.inShadow;
    if (now.relight > 0) table.relight = now.relight, table.from = now.from, table.height = now.height;
  }
  if (table.lights.size() > light::mostLights)
    throw badInput(fmt::format("{} would have more than {} lights.", guide.name, light::mostLights));
  if (o.relight) table.relight = *o.relight;
  if (o.from) table.from = *o.from;
  if (!o.near.empty()) {
    const auto near = greyOf(decodePng(readInput(o.near)).picture);
    guide.work.put(light::reliefSlot,
                   study.work.keep(light::reliefForm(), light::reliefFrom(near, place, nameOfInput(o.near))));
  }
  guide.work.put(light::lightSlot,
                 table.empty() ? std::string() : study.work.keep(light::lightForm(), std::move(table)));
  study.file.writeState(state, study.work.unsaved(workNamedIn(guide)));
}

}  // namespace

void addHandWorkCommands(Command& study) {
  auto lights = study.add("lights", "Lay light, shadow and colour on the light table of a tone guide");
  auto lit = std::make_shared<LightOptions>();
  lights.text("STUDY", lit->path, "The .scaffold file").required();
  lights.text("--guide", lit->guide, "Which guide, by name or id").required();
  lights.flag("--clear", lit->clear, "First take all of it away");
  lights.text("--hour", lit->hour, "Light and colours of a time of day").oneOf(hourNames());
  lights.text("--file", lit->file, "What to lay on it, a JSON file: see docs/light.md; - for standard input");
  lights.text("--near", lit->near, "How near things are, a depth map as PNG, light being near");
  lights.number("--relight", lit->relight, "How much the picture is relit by that", {0, 1});
  lights.number("--from", lit->from, "Where the light comes from, degrees clockwise from the right", {-360, 360});
  lights.run([lit] { runLights(*lit); });

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
  retouch.texts("--region", strokes->region,
                "Let it act inside a loop only, \"X,Y X,Y X,Y\" in frame pixels; may be given several times");
  retouch.number("--feather", strokes->feather, "Soften the region's border, in pixels", limits::feather);
  retouch.flag("--everywhere", strokes->everywhere, "First take the region away");
  retouch.flag("--outside", strokes->outside, "Let it act outside of its region instead");
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
  posing.number("--weight", figures->weight, "Its weight", limits::weight);
  posing.run([figures] { runPose(*figures); });
}

}  // namespace hscaffold
