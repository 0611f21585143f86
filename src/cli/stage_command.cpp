// hscaffold stage new|render|say|lift|export: scenes and the maps of them.
#include <fmt/format.h>

#include <chrono>
#include <iostream>
#include <nlohmann/json.hpp>

#include "cli/commands.h"
#include "core/image/colour.h"
#include "core/image/png.h"
#include "core/json_text.h"
#include "core/kinds.h"
#include "core/pose/bvh.h"
#include "core/pose/coco.h"
#include "core/pose/library.h"
#include "core/pose/pose_map.h"
#include "core/stage/clip.h"
#include "core/stage/gltf.h"
#include "core/stage/leading.h"
#include "core/stage/lift.h"
#include "core/stage/photograph.h"
#include "core/stage/scene_maps.h"
#include "core/strokes/line_export.h"
#include "core/text.h"
#include "files/map_files.h"
#include "files/picture_reader.h"

namespace hscaffold {
namespace {

stage::Scene readScene(const std::string& path) {
  Mended mended;
  auto scene = stage::sceneFromText(textOf(readInput(path)), nameOfInput(path), &mended);
  for (const std::string& sentence : mended.sentences()) std::cerr << "hscaffold: " << sentence << "\n";
  return scene;
}

void writeScene(const std::string& path, const stage::Scene& scene) {
  const std::string text = stage::sceneToText(scene);
  writeOutput(path, bytesOf(text));
}

struct RenderOptions {
  std::string scene, out, map = "depth", size = "768x512", shot;
  bool fit = false, figuresOnly = false, byDepth = false, noCreases = false;
  double width = 1.6;
  std::optional<double> near, far;
  std::string over;  ///< a picture's depth that it is joined with
};

stage::Scene sceneFor(const RenderOptions& options, Size size) {
  auto scene = readScene(options.scene);
  if (!options.shot.empty()) {
    const auto found = std::find_if(scene.shots.begin(), scene.shots.end(),
                                    [&](const stage::Shot& shot) { return shot.name == options.shot; });
    if (found == scene.shots.end()) throw badInput("There is no shot \"" + options.shot + "\".");
    scene.eye = found->eye;
  }
  if (options.fit) scene.eye = stage::fittedEye(scene, size);
  return scene;
}

void runRender(const RenderOptions& options, bool json) {
  const Size size = parsedSize(options.size);
  const auto scene = sceneFor(options, size);
  const auto begun = std::chrono::steady_clock::now();
  const bool lines = options.map == "edges" || options.map == "lines";
  const auto look = stage::lookAt(scene, size, {}, {.fine = lines});
  Bytes content;
  if (options.map == "pose") {
    const auto figures = stage::figuresIn(scene, look);
    if (options.out.ends_with(".json")) {
      const std::string text = jsonText(pose::cocoFrom(figures), 1) + "\n";
      const auto bytes = bytesOf(text);
      content.assign(bytes.begin(), bytes.end());
    } else {
      content = encodePng(pose::drawnFigures(figures, size, pose::houseInks()).view());
    }
  } else if (lines) {
    stage::LineAsk ask;
    ask.width = options.width;
    ask.byDepth = options.byDepth;
    ask.creases = ask.contacts = !options.noCreases;
    const auto strokes = stage::strokesOf(stage::linesOf(look, ask), ask);
    if (options.out.ends_with(".svg")) {
      const std::string text = svgFrom(strokes, size, nameOfInput(options.scene));
      const auto bytes = bytesOf(text);
      content.assign(bytes.begin(), bytes.end());
    } else {
      content = encodePng(drawnStrokes(strokes, size).view());
    }
  } else if (options.map == "picture") {
    content = encodePng(toSrgb8(look.seen.colour.view()).view());
  } else {
    stage::DepthAsk ask;
    if (options.near) ask.near = static_cast<float>(*options.near);
    if (options.far) ask.far = static_cast<float>(*options.far);
    ask.figuresOnly = options.figuresOnly;
    auto map = options.map == "tone" ? stage::toneMap(look) : stage::depthMap(look, ask);
    if (!options.over.empty()) {
      if (options.map != "depth") throw badInput("--over is about depth: give --map depth.");
      const auto picture = decodePicture(readInput(options.over), nameOfInput(options.over)).picture;
      if (picture.size() != size)
        throw badInput(fmt::format("{} is {} x {} pixels: give --size {}x{}.", nameOfInput(options.over),
                                   picture.width(), picture.height(), picture.width(), picture.height()));
      Image<std::uint16_t> depth(size);
      for (int y = 0; y < size.height; ++y)
        for (int x = 0; x < size.width; ++x) depth(x, y) = picture(x, y).r;
      auto joined = stage::joinedDepth(depth.view(), look);
      if (!joined) throw badInput("Too little ground is seen in both to match their scales.");
      map = std::move(*joined);
    }
    content = encodedMap(kindOf(options.map), map, {}, options.out, {false, 0});
  }
  const double took = std::chrono::duration<double, std::milli>(std::chrono::steady_clock::now() - begun).count();
  writeOutput(options.out, content);
  for (const std::string& outside : stage::whatIsOutside(scene, look.set, size))
    std::cerr << "hscaffold: " << outside << "\n";
  if (json) std::cout << jsonText({{"map", options.map}, {"milliseconds", took}}, 2) << "\n";
}

void runSay(const RenderOptions& options, bool json) {
  const Size size = parsedSize(options.size);
  const auto scene = sceneFor(options, size);
  const auto look = stage::lookAt(scene, size);
  const auto words = stage::wordsFor(scene, look);
  const auto outside = stage::whatIsOutside(scene, look.set, size), sinks = stage::whatSinksIn(scene, look.set);
  if (json) {
    auto things = nlohmann::json::array();
    for (const auto& thing : scene.things) things.push_back({{"id", thing.id}, {"name", thing.name}});
    std::cout << jsonText({{"words", words}, {"outside", outside}, {"sinks", sinks}, {"things", things}}, 2) << "\n";
    return;
  }
  std::cout << (words.empty() ? "Nothing that words are known for." : words) << "\n";
  for (const std::string& each : outside) std::cout << "outside: " << each << "\n";
  for (const std::string& each : sinks) std::cout << each << "\n";
}

struct NewScene {
  std::string out, set = "figure";
  std::vector<std::string> poses;
  double apart = 1.2;
  std::string clip;
  std::optional<std::int64_t> frame;
  std::vector<std::string> models;
};

void addFigureOf(stage::Scene& scene, const std::string& path, std::optional<std::int64_t> asked) {
  const auto clip = pose::bvhFrom(textOf(readInput(path)), nameOfInput(path));
  const auto mapping = pose::mappingByName(clip);
  const auto keys = pose::keyFrames(clip, mapping);
  const std::size_t frame = asked ? static_cast<std::size_t>(std::max<std::int64_t>(0, *asked)) : keys.front();
  if (frame >= clip.frames) throw badInput(fmt::format("{} has frames 0 to {}.", nameOfInput(path), clip.frames - 1));
  std::cerr << fmt::format("hscaffold: key poses are at {}; this is frame {}\n", fmt::join(keys, ", "), frame);
  stage::Person person;
  person.angles = stage::anglesOf(clip, frame, mapping, person);
  scene.things.push_back({stage::newThingId(scene), "Figure of a clip", {{0, 0, 1.2f}, 0}, false, std::move(person)});
}

void makeScene(const NewScene& options) {
  const auto& [out, set, poses, apart, clip, frame, models] = options;
  const auto all = stage::houseScenes();
  const auto found = std::find_if(all.begin(), all.end(), [&](const auto& each) { return set == each.id; });
  stage::Scene scene = found->make();
  for (std::size_t i = 0; i < poses.size(); ++i) {
    const auto house = pose::housePoses();
    const auto pose = std::find_if(house.begin(), house.end(),
                                   [&](const auto& each) { return each.name == poses[i] && each.skeleton == "human"; });
    if (pose == house.end()) throw badInput("There is no pose \"" + poses[i] + "\": see hscaffold pose list.");
    stage::Person person;
    person.angles = stage::anglesAhead(*pose);
    const double x = apart * (static_cast<double>(i) - 0.5 * static_cast<double>(poses.size() - 1));
    scene.things.push_back(
        {stage::newThingId(scene), poses[i], {{static_cast<float>(x), 0, 0.6f}, 0}, false, std::move(person)});
  }
  if (!clip.empty()) addFigureOf(scene, clip, frame);
  float aside = 0;
  for (const std::string& path : models) {
    const auto read = stage::modelFrom(readInput(path), nameOfInput(path));
    if (read.model->faces.size() != read.faces)
      std::cerr << fmt::format("hscaffold: of {} triangles of {} {} are kept\n", read.faces, nameOfInput(path),
                               read.model->faces.size());
    scene.things.push_back({stage::newThingId(scene),
                            fittedText(std::filesystem::path(path).stem().string(), longestName),
                            {{aside, 0, -1}, 0},
                            false,
                            stage::propOf(read)});
    aside += 1.5f;
  }
  writeScene(out, scene);
}

}  // namespace

void addStageCommand(Command& root, const bool& json) {
  auto stage = root.add("stage", "Scenes of figures and things, and exact maps of them");

  auto fresh = std::make_shared<NewScene>();
  auto make = stage.add("new", "Make a scene");
  make.text("SCENE", fresh->out, "The JSON file to make; - for standard output").required();
  std::vector<std::string> sets;
  for (const auto& each : stage::houseScenes()) sets.emplace_back(each.id);
  make.text("--set", fresh->set, "What it begins with").oneOf(sets);
  make.texts("--pose", fresh->poses, "A figure in a pose of the library, by its name; may be given several times");
  make.number("--apart", fresh->apart, "Metres between such figures", {0, 100});
  make.text("--clip", fresh->clip, "A figure in a pose of a motion clip, BVH");
  make.texts("--model", fresh->models, "A thing out of a glTF 2.0 file, .glb or .gltf; may be given several times");
  make.whole("--frame", fresh->frame, "Of the clip; the first key pose if not given", {0, 200000});
  make.run([fresh] { makeScene(*fresh); });

  auto options = std::make_shared<RenderOptions>();
  const auto addView = [options](Command& command) {
    command.text("SCENE", options->scene, "The scene, JSON; - for standard input").required();
    command.text("--size", options->size, "Frame, WIDTHxHEIGHT");
    command.text("--shot", options->shot, "From this shot of the scene");
    command.flag("--fit", options->fit, "Go back until all of it lies in the frame");
  };
  auto render = stage.add("render", "Make a map of a scene");
  addView(render);
  render.text("--map", options->map, "Which: depth of 16 bits, lines without those that are hidden, the shaded picture")
      .oneOf({"pose", "depth", "edges", "lines", "tone", "picture"});
  render
      .text("-o,--out", options->out,
            "The map, PNG; depth and tone also .exr, lines .svg, poses as key points .json; - for standard output")
      .required();
  render.number("--near", options->near, "Of depth: metres that are white; the nearest that is seen if not given",
                {0.05, 10000});
  render.number("--far", options->far, "Of depth: metres that are black; endlessly far if not given", {0.05, 100000});
  render.text(
      "--over", options->over,
      "Of depth: the depth map of a picture (PNG, EXR) that the scene stands in; the nearer of both wins, scales "
      "are matched on the ground");
  render.flag("--figures-only", options->figuresOnly, "Of depth: figures and animals, nothing else");
  render.number("--width", options->width, "Of lines: pixels", {0.5, 12});
  render.flag("--by-depth", options->byDepth, "Of lines: finer where they are far");
  render.flag("--outlines-only", options->noCreases, "Of lines: without creases");
  render.run([options, &json] { runRender(*options, json); });

  auto say = stage.add("say", "What a scene shows in words, and what of it lies outside of the frame");
  addView(say);
  say.run([options, &json] { runSay(*options, json); });

  struct LiftOptions {
    std::string in, out;
    stage::LiftAsk ask;
    std::optional<std::string> size;
  };
  auto lift = std::make_shared<LiftOptions>();
  auto lifting = stage.add("lift", "Put figures of a picture onto a stage, with the eye that saw them");
  lifting.text("KEYPOINTS", lift->in, "COCO key points, JSON; - for standard input").required();
  lifting.text("-o,--out", lift->out, "The scene, JSON; - for standard output").required();
  lifting.text("--size", lift->size, "Size of their picture, if the file does not say it");
  lifting.number("--height", lift->ask.height, "How tall people are, metres", {0.2, 4});
  lifting.number("--millimetres", lift->ask.millimetres, "The lens, for a frame 36 mm wide", {14, 200});
  lifting.run([lift] {
    auto read = pose::figuresFromCoco(textOf(readInput(lift->in)), nameOfInput(lift->in));
    if (!read.note.empty()) std::cerr << "hscaffold: " << read.note << "\n";
    if (lift->size) read.size = parsedSize(*lift->size);
    if (read.size.area() == 0) throw badInput("The file does not say how large its picture is: give --size.");
    read.figures.frame = read.size;
    writeScene(lift->out, stage::stagedFrom(read.figures, lift->ask));
  });

  struct ExportOptions {
    std::string in, out, size = "768x512";
  };
  auto exporting = std::make_shared<ExportOptions>();
  auto gltf = stage.add("export", "Write a scene as glTF 2.0: things, figures over their bones, the eye as a camera");
  gltf.text("SCENE", exporting->in, "The scene, JSON").required();
  gltf.text("-o,--out", exporting->out, "The .gltf file").required();
  gltf.text("--size", exporting->size, "What the eye sees");
  gltf.run([exporting] {
    const std::string text = stage::gltfFrom(readScene(exporting->in), parsedSize(exporting->size));
    writeOutput(exporting->out, bytesOf(text));
  });
}

}  // namespace hscaffold
