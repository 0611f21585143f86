// hscaffold final STUDY, hscaffold touch-up STUDY: a proof made large, and put right in places.
#include <fmt/format.h>

#include <unistd.h>

#include <iostream>
#include <nlohmann/json.hpp>

#include "cli/commands.h"
#include "cli/engine_choice.h"
#include "cli/study_commands.h"
#include "core/finish/touch_up.h"
#include "core/frame/frame.h"
#include "core/json_text.h"
#include "core/number_text.h"
#include "files/final_files.h"
#include "files/study_job.h"

namespace hscaffold {
namespace {

struct FinalOptions {
  std::string in, out, of, maps;
  std::int64_t proof = 0;
  double times = limits::finalTimes.usual, change = limits::finalChange.usual;
  std::optional<std::int64_t> width;
  bool alone = false, sixteen = false;
  EngineChoice engine;
};

struct TouchOptions {
  std::string in, out, final, words, name, begin = "below";
  std::vector<std::string> boxes, loops;
  double change = limits::touchChange.usual, rim = limits::touchRim.usual, feather = limits::touchFeather.usual;
  std::optional<double> detail;
  std::int64_t tries = 1;
  bool plain = false;
  EngineChoice engine;
};

PictureBytes picturesIn(const StudyFile& file) {
  return [&file](const std::string& content) { return std::make_shared<const Bytes>(file.picture(content)); };
}

const ProofInfo& proofOf(const std::vector<ProofInfo>& proofs, std::int64_t number, const std::string& path) {
  const auto found =
      std::find_if(proofs.begin(), proofs.end(), [&](const ProofInfo& info) { return info.number == number; });
  if (found == proofs.end()) throw badInput(fmt::format("{}: there is no proof {}.", path, number));
  return *found;
}

Final& finalNamed(StudyState& state, const std::string& name, const std::string& path) {
  if (state.finals.empty()) throw badInput(path + ": there is no final in this study.");
  if (name.empty()) return state.finals.back();
  for (Final& final : state.finals)
    if (final.id == name || final.name == name) return final;
  throw badInput(fmt::format("{}: there is no final \"{}\".", path, name));
}

/// The recipe of a whole final: from its proof where that is still there, else as its picture tells it.
Recipe recipeOf(const Final& final, const StudyFile& file) {
  const auto proofs = file.proofs();
  const auto found =
      std::find_if(proofs.begin(), proofs.end(), [&](const ProofInfo& info) { return info.number == final.proof; });
  if (found != proofs.end()) return finalRecipe({found->recipe, final.proof, final.size, final.change});
  return toldBy(final, file.picture(final.picture));
}

/// @param out   the picture; empty: none @param maps  a new folder for its maps; empty: none
void write(const Final& final, const StudyFile& file, const std::string& out, const std::string& maps, bool sixteen) {
  const bool layered = std::filesystem::path(out).extension() == ".ora";
  FinalMaps made;
  if (layered || !maps.empty()) made = mapsOf(recipeOf(final, file), final.size, sourcesIn(file));
  for (const std::string& note : made.notes) std::cerr << "hscaffold: " << note << "\n";
  if (!maps.empty()) writeMapFolder(maps, made);
  if (out.empty()) return;
  const PictureBytes pictures = picturesIn(file);
  FinalExport form;
  form.sixteenBits = sixteen;
  if (layered) form.maps = layersOf(made);
  writeFileAtomically(out, finalFile(final, shownFrom(pictures), pictures, out, form));
}

nlohmann::json asJson(const Final& final) {
  nlohmann::json json{{"final", final.id},
                      {"proof", final.proof},
                      {"width", final.size.width},
                      {"height", final.size.height},
                      {"parts", final.columns * final.rows},
                      {"milliseconds", final.milliseconds},
                      {"holds", final.holds}};
  if (final.joins > 0) json["joins"] = {{"energy", final.joins}, {"worst", final.worstJoin}};
  return json;
}

void runFinal(const FinalOptions& options, bool json) {
  if (!options.out.empty()) checkFinalName(options.out);
  StudyToChange study(options.in);
  if (!options.of.empty()) {
    write(finalNamed(study.state, options.of, options.in), study.file, options.out, options.maps, options.sixteen);
    return;
  }
  const auto proofs = study.file.proofs();
  std::int64_t number = options.proof > 0 ? options.proof : study.state.looking.proof;
  if (number == 0 && !proofs.empty()) number = proofs.back().number;
  const ProofInfo& proof = proofOf(proofs, number, options.in);
  const auto engine = options.engine.engine(study.state.engine);
  const Size base = proof.recipe.mapsSize();
  const int width =
      options.width ? static_cast<int>(*options.width) : static_cast<int>(std::lround(base.width * options.times));
  const auto offers = sizesByWidth(ratioOf(base), width, engine->info().sizeStep, 1);
  if (offers.empty()) throw badInput("There is no such size of the proof's ratio.");
  const FinalPlan plan{proof.recipe, number, offers.front().size, options.change};
  const auto picture = decodePngRgb8(study.file.proofPng(number));
  FinalSink sink;
  if (::isatty(STDERR_FILENO) != 0)
    sink.tile = [](int tile, View<Rgb8>) { std::cerr << fmt::format("\rpart {} is there   ", tile + 1) << std::flush; };
  MadeMaps made(mostMadeBytes);
  const JobSources sources = sourcesIn(study.file);
  FinishedFinal finished = options.alone ? enlargeToFinal(plan, picture.view(), sources, &made, {})
                                         : pullFinal(*engine, plan, picture.view(), sources, &made, sink, {});
  for (const std::string& note : finished.notes) std::cerr << "hscaffold: " << note << "\n";
  const PictureFile file = pictureFile(std::move(finished.png));
  Final final;
  final.id = newId(study.state, "f");
  final.name = fmt::format("Proof {}, {} x {}", number, plan.size.width, plan.size.height);
  final.proof = number;
  final.size = plan.size;
  final.change = options.change;
  final.enlarged = options.alone;
  final.engine = options.alone ? std::string() : engine->info().id;
  final.picture = file.content;
  final.columns = finished.plan.columns;
  final.rows = finished.plan.rows;
  final.milliseconds = finished.milliseconds;
  final.joins = finished.joins.energy;
  final.worstJoin = finished.joins.worst;
  final.holds = finished.measures.holds;
  final.held = proof.holds;
  study.state.looking.final = final.id;
  study.state.looking.touchUp.clear();
  study.state.finals.push_back(final);
  study.file.writeState(checked(study.state), {}, std::span(&file, 1));
  write(final, study.file, options.out, options.maps, options.sixteen);
  if (json)
    std::cout << jsonText(asJson(final), 2) << "\n";
  else
    std::cerr << fmt::format("{}: {} x {} in {} parts, {:.1f} s\n", final.id, final.size.width, final.size.height,
                             final.columns * final.rows, final.milliseconds / 1000);
}

TouchRegion regionOf(const TouchOptions& options, Size whole) {
  TouchRegion region;
  for (const std::string& text : options.boxes) {
    const auto box = parsedNumbers(text, 4);
    if (box.empty()) throw badInput("--box: \"" + text + "\" is not left,top,right,bottom in pixels of the final.");
    const double w = whole.width, h = whole.height;
    TouchShape shape;
    shape.lines = {
        {{box[0] / w, box[1] / h}, {box[2] / w, box[1] / h}, {box[2] / w, box[3] / h}, {box[0] / w, box[3] / h}}};
    region.push_back(std::move(shape));
  }
  for (const std::string& text : options.loops) {
    const auto count = static_cast<std::size_t>(std::count(text.begin(), text.end(), ',') + 1);
    const auto places = parsedNumbers(text, count);
    if (places.size() < 6 || places.size() % 2 != 0)
      throw badInput("--loop: at least three places, x,y,x,y,x,y, in pixels of the final.");
    TouchShape shape;
    shape.lines.emplace_back();
    for (std::size_t i = 0; i < places.size(); i += 2)
      shape.lines.back().push_back({places[i] / whole.width, places[i + 1] / whole.height});
    region.push_back(std::move(shape));
  }
  return region;
}

void runTouchUp(const TouchOptions& options, bool json) {
  if (!options.out.empty()) checkFinalName(options.out);
  StudyToChange study(options.in);
  Final& final = finalNamed(study.state, options.final, options.in);
  const auto proofs = study.file.proofs();
  const ProofInfo& proof = proofOf(proofs, final.proof, options.in);
  const auto engine = options.engine.engine(study.state.engine);
  TouchUp touchUp;
  touchUp.id = newId(study.state, "t");
  touchUp.name = options.name.empty() ? fmt::format("Touch-up {}", final.touchUps.size() + 1) : options.name;
  touchUp.region = regionOf(options, final.size);
  touchUp.words = options.words;
  touchUp.withBrief = !options.plain;
  touchUp.change = options.change;
  touchUp.rim = options.rim;
  touchUp.feather = options.feather;
  touchUp.detail = options.detail;
  touchUp.start = options.begin == "noise"     ? TouchStart::noise
                  : options.begin == "colours" ? TouchStart::colours
                                               : TouchStart::below;
  const PictureBytes pictures = picturesIn(study.file);
  const auto below = composedFinal(final, shownFrom(pictures));
  const Recipe recipe = finalRecipe({proof.recipe, final.proof, final.size, final.change});
  MadeMaps made(mostMadeBytes);
  const JobSources sources = sourcesIn(study.file);
  std::vector<PictureFile> files;
  auto list = nlohmann::json::array();
  for (std::int64_t i = 0; i < options.tries; ++i) {
    const auto seed = proof.recipe.brief.seed + static_cast<std::uint32_t>(i);
    FinishedTry one = pullTry(*engine, recipe, touchUp, below.view(), seed, sources, &made, {}, {});
    files.push_back(pictureFile(std::move(one.png)));
    one.info.picture = files.back().content;
    list.push_back({{"seed", seed},
                    {"milliseconds", one.info.milliseconds},
                    {"box", {one.info.box.left, one.info.box.top, one.info.box.right, one.info.box.bottom}},
                    {"width", one.picture.width()},
                    {"height", one.picture.height()}});
    touchUp.tries.push_back(std::move(one.info));
  }
  touchUp.used = 0;
  final.touchUps.push_back(std::move(touchUp));
  study.state.looking.final = final.id;
  study.state.looking.touchUp = final.touchUps.back().id;
  study.file.writeState(checked(study.state), {}, files);
  write(final, study.file, options.out, {}, false);
  if (json) std::cout << jsonText(list, 2) << "\n";
}

}  // namespace

void addFinalCommands(Command& root, const bool& json) {
  auto final = root.add("final", "Make a proof of a study large; or write one of its finals");
  auto options = std::make_shared<FinalOptions>();
  final.text("STUDY", options->in, "The study").required();
  final.whole("--proof", options->proof, "Which proof; the one that is shown where nothing is said", {1, 1e15});
  final.number("--times", options->times, "How many times the frame's size", limits::finalTimes);
  final.whole("--width", options->width, "Or its width", limits::side);
  final.number("--change", options->change, "How far the proof may be left, 0 to 1", limits::finalChange);
  final.flag("--without-engine", options->alone, "Enlarge it only, along its edges");
  final.text("--of", options->of, "Write this final of the study, by id or name, in place of making one");
  final.text("-o,--out", options->out, "A file: .png, .tif, .jpg, .webp or .ora (layers)");
  final.text("--all-maps", options->maps, "A new folder for the maps of all its guides, made anew at its size");
  final.flag("--sixteen", options->sixteen, "16 bits in PNG and TIFF");
  options->engine.addTo(final);
  final.run([options, &json] { runFinal(*options, json); });

  auto touch = root.add("touch-up", "Pull a part of a final again, larger than it is shown, and lay it over");
  auto own = std::make_shared<TouchOptions>();
  touch.text("STUDY", own->in, "The study").required();
  touch.text("--final", own->final, "Which final, by id or name; the newest where nothing is said");
  touch.texts("--box", own->boxes, "Where it acts: left,top,right,bottom in pixels of the final; may be said again");
  touch.texts("--loop", own->loops, "The area within x,y,x,y,x,y,...; may be said again");
  touch.text("--words", own->words, "What to make there; the prompt where nothing is said");
  touch.text("--name", own->name, "What it is called");
  touch.text("--begin", own->begin, "With what is there (below), its colours only, or noise")
      .oneOf({"below", "colours", "noise"});
  touch.number("--change", own->change, "How far what is there may be left, 0 to 1", limits::touchChange);
  touch.number("--detail", own->detail,
               "How much larger it is pulled than shown; as the engine likes it where nothing is said",
               limits::touchDetail);
  touch.number("--rim", own->rim, "Pixels round the region that the engine sees", limits::touchRim);
  touch.number("--feather", own->feather, "Pixels beyond the border over which both mix", limits::touchFeather);
  touch.whole("--tries", own->tries, "How many, each with another seed; the first is used", {1, 16});
  touch.flag("--plain", own->plain, "Without the style cards and the avoid of the brief");
  touch.text("-o,--out", own->out, "A file for the final as it is then");
  own->engine.addTo(touch);
  touch.run([own, &json] { runTouchUp(*own, json); });
}

}  // namespace hscaffold
