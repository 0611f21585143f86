#include "targets.h"

#include <cmath>
#include <cstdlib>
#include <nlohmann/json.hpp>

#include "core/brief/recipe.h"
#include "core/brief/styles.h"
#include "core/depth/hints.h"
#include "core/engine/standin/standin.h"
#include "core/find/findings.h"
#include "core/guides/nearness.h"
#include "core/image/png.h"
#include "core/job/job_folder.h"
#include "core/job/maps_wanted.h"
#include "core/kinds.h"
#include "core/networks/network.h"
#include "core/number_text.h"
#include "core/pose/inks.h"
#include "core/pose/library.h"
#include "core/pose/skeleton.h"
#include "core/retouch/work_store.h"
#include "core/sheet/sheet.h"
#include "core/stage/model.h"
#include "core/stage/scene.h"
#include "core/study/study.h"
#include "core/study/study_notes.h"
#include "core/tone/light_table.h"
#include "files/engine_protocol.h"
#include "files/figure_files.h"
#include "files/picture_reader.h"
#include "files/svg_lines.h"
#include "files/svg_path.h"
#include "service/job_request.h"

namespace hscaffold::fuzz {
namespace {

using Input = std::span<const std::byte>;

/// What must hold whatever came in.
void must(bool holds) {
  if (!holds) std::abort();
}

std::string textIn(Input bytes) { return textOf(bytes); }
nlohmann::json jsonIn(Input bytes) { return parseJson(textOf(bytes), "input"); }

/// The bytes before the first 0, and those behind it.
std::pair<Input, Input> parted(Input bytes) {
  const auto zero = std::find(bytes.begin(), bytes.end(), std::byte{0});
  const auto head = static_cast<std::size_t>(zero - bytes.begin());
  return {bytes.first(head), zero == bytes.end() ? Input() : bytes.subspan(head + 1)};
}

void picture(Input bytes) {
  const auto loaded = decodePicture(bytes, "input");
  must(!loaded.picture.empty() && loaded.picture.size().area() <= workedPicturePixels);
}

void png(Input bytes) {
  const auto content = decodePng(bytes);
  must(content.picture.width() > 0);
}

void pngTexts(Input bytes) {
  const Recipe recipe = recipeFromTexts(readPngTexts(bytes));
  const auto written = recipeToJson(recipe);
  must(recipeToJson(recipeFromJson(written)).dump() == written.dump());
}

void svg(Input bytes) {
  for (const Size frame : {Size{}, Size{256, 192}})
    for (const auto& stroke : readSvgLines(bytes, "input", frame).strokes)
      must(stroke->widths.size() == stroke->curves() + 1);
}

void svgPath(Input bytes) {
  for (const SvgRun& run : runsOfPath(textIn(bytes), 10'000))
    for (const Point p : run.points) must(std::isfinite(p.x) && std::isfinite(p.y));
}

void figures(Input bytes) {
  for (const Size frame : {Size{}, Size{256, 192}})
    for (const auto& figure : figuresFromFile(bytes, "input", frame).figures.figures)
      for (const auto& point : figure->points) must(std::isfinite(point.at.x) && std::isfinite(point.at.y));
}

void inks(Input bytes) { pose::inksFromJson(textIn(bytes), "input"); }
void hints(Input bytes) { depth::hintsFromText(textIn(bytes), "input"); }
void skeleton(Input bytes) { pose::skeletonFromJson(textIn(bytes), "input"); }
void poses(Input bytes) { pose::posesFromJson(textIn(bytes), "input"); }
void lights(Input bytes) { light::tableFromText(textIn(bytes), "input"); }
void nearness(Input bytes) { nearnessFromText(textIn(bytes), "input"); }
void styles(Input bytes) { stylesFromJson(jsonIn(bytes)); }
void wishes(Input bytes) { mapsWantedFromJson(jsonIn(bytes), "input"); }

void scene(Input bytes) {
  Mended mended;
  const auto read = stage::sceneFromText(textIn(bytes), "input", &mended);
  const std::string text = stage::sceneToText(read);
  must(stage::sceneToText(stage::sceneFromText(text, "again")) == text);
  for (const auto& mesh : stage::setOf(read).meshes)
    for (const auto& at : mesh.at) must(at.allFinite());
}

void model(Input bytes) {
  const auto read = stage::modelFrom(bytes, "input");
  must(read.model != nullptr && !read.model->faces.empty());
  for (const auto& face : read.model->faces)
    for (const auto corner : face) must(corner < read.model->at.size());
}

void recipe(Input bytes) {
  Mended mended;
  const Recipe read = recipeFromJson(jsonIn(bytes), &mended);
  const auto written = recipeToJson(read);
  must(recipeToJson(recipeFromJson(written)).dump() == written.dump());
}

/// A recipe, and what stands in every file that it names.
void job(Input bytes) {
  const auto [head, content] = parted(bytes);
  const Recipe wanted = recipeFromJson(jsonIn(head));
  const Bytes file(content.begin(), content.end());
  const auto read = readJob(wanted, [&](const std::string&) { return file; });
  must(read.job.inputs.size() == read.job.recipe.guides.size());
}

/// What a program left that was killed; with a digest that is right, or nothing behind it would be read.
void note(Input bytes) {
  const std::string digest = digestOf(bytes);
  const auto head = bytesOf(digest);
  Bytes whole(head.begin(), head.end());
  whole.insert(whole.end(), bytes.begin(), bytes.end());
  StudyEntry entry, again;
  std::int64_t written = 0, writtenAgain = 0;
  std::string study, studyAgain;
  if (!readNote(whole, entry, written, study)) return;
  must(readNote(noteOf(entry, written, study), again, writtenAgain, studyAgain));
  must(again.settings == entry.settings && again.step == entry.step && writtenAgain == written && studyAgain == study);
  must(again.parts.size() == entry.parts.size() && again.proofs.size() == entry.proofs.size());
}

/// Files of a request, each after its name and a line's end, with a line "--part" between two.
void request(Input bytes) {
  static const EngineInfo info = StandinEngine().info();
  constexpr std::string_view between = "\n--part\n";
  const std::string text = textIn(bytes);
  std::map<std::string, std::string_view> files;
  for (std::string_view rest = text; !rest.empty();) {
    const std::string_view part = rest.substr(0, rest.find(between));
    rest.remove_prefix(std::min(rest.size(), part.size() + between.size()));
    const std::size_t line = part.find('\n');
    if (line != std::string_view::npos) files.emplace(part.substr(0, line), part.substr(line + 1));
  }
  ServiceLimits limits;
  limits.pixels = 1'000'000;
  try {
    const AskedJob asked = askedJob(files, limits, info);
    must(asked.job.inputs.size() == asked.job.recipe.guides.size() && !asked.digest.empty());
    must(asked.job.recipe.frame.area() <= limits.pixels);
  } catch (const Refused& refused) {
    must(refused.status >= 400 && refused.status < 500 && refused.detail.size() > 5);
  }
}

void settings(Input bytes) {
  Mended mended;
  StudyState state = stateFromJson(jsonIn(bytes), &mended);
  keepWithinLimits(state);
  const auto written = stateToJson(state);
  must(stateToJson(stateFromJson(written)).dump() == written.dump());
  recipeOf(state);
}

/// Hand work of any form: the first byte says which.
void handWork(Input bytes) {
  if (bytes.empty()) return;
  std::vector<const WorkForm*> forms;
  for (const Kind& kind : kinds())
    for (const WorkSlot& slot : kind.workSlots) forms.push_back(slot.form);
  const WorkForm& form = *forms[std::to_integer<std::size_t>(bytes[0]) % forms.size()];
  const auto piece = form.read(textOf(bytes.subspan(1)));
  const std::string text = form.write(piece);
  must(form.write(form.read(text)) == text);
}

/// A layer of retouch, whose tiles are all the bytes behind it.
void layer(Input bytes) {
  const auto [head, tile] = parted(bytes);
  const Bytes first(head.begin(), head.end()), other(tile.begin(), tile.end());
  WorkStore store([&](const std::string& id) { return id == "layer" ? first : other; });
  store.layer("layer");
}

void plan(Input bytes) {
  Mended mended;
  const auto read = planFromJson(jsonIn(bytes), "input", &mended);
  must(read.cells() >= 1);
  const auto written = planToJson(read);
  must(planToJson(planFromJson(written, "again")).dump() == written.dump());
}

void axis(Input bytes) {
  Recipe base;
  RecipeGuide guide;
  guide.guide.id = "g1";
  guide.guide.name = "Edges";
  guide.guide.kind = "edges";
  base.guides.push_back(guide);
  must(axisFromText(textIn(bytes), base).count() >= 1);
}

void network(Input bytes) {
  networks::Network read(bytes, "input");
  const networks::Tensor input{{1, 3, 32, 32}, std::vector<float>(3 * 32 * 32, 0.5f)};
  for (const auto& made : read.run(input)) {
    std::size_t count = 1;
    for (const int side : made.shape) count *= static_cast<std::size_t>(side);
    must(count == made.values.size());
  }
}

/// What a service says: events, its answers, the engine that it is.
void answers(Input bytes) {
  const std::string text = textIn(bytes);
  sentenceIn(text);
  EventReader whole(1 << 16), pieces(1 << 16);
  std::size_t together = 0, apart = 0;
  for (const auto& event : whole.add(text.data(), text.size())) together += event.data.size() + 1;
  for (std::size_t i = 0; i < text.size(); i += 7)
    for (const auto& event : pieces.add(text.data() + i, std::min<std::size_t>(7, text.size() - i)))
      apart += event.data.size() + 1;
  must(together == apart);
  engineFromJson(jsonIn(bytes), "input");
}

void numbers(Input bytes) {
  const std::string text = textIn(bytes);
  if (const auto value = numberFrom(text)) must(std::isfinite(*value));
  for (const double value : svgNumbers(text)) must(std::isfinite(value));
  rangeFromText(text, "input");
}

}  // namespace

const std::vector<Target>& targets() {
  static const std::vector<Target> all = {
      {"picture", picture},   {"png", png},         {"png-texts", pngTexts}, {"svg", svg},
      {"svg-path", svgPath},  {"figures", figures}, {"inks", inks},          {"hints", hints},
      {"skeleton", skeleton}, {"poses", poses},     {"lights", lights},      {"nearness", nearness},
      {"styles", styles},     {"wishes", wishes},   {"scene", scene},        {"model", model},
      {"recipe", recipe},     {"job", job},         {"settings", settings},  {"hand-work", handWork},
      {"layer", layer},       {"plan", plan},       {"axis", axis},          {"network", network},
      {"answers", answers},   {"numbers", numbers}, {"request", request},    {"note", note}};
  return all;
}

void run(const Target& target, Input bytes) {
  try {
    target.take(bytes);
  } catch (const Problem& problem) {
    must(std::string(problem.what()).size() > 5);
  }
}

}  // namespace hscaffold::fuzz
