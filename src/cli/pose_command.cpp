// hscaffold map pose FILE -o OUT, and hscaffold pose words|make|list: figures without a window.
#include <fmt/format.h>

#include <iostream>
#include <nlohmann/json.hpp>

#include "cli/commands.h"
#include "core/frame/placement.h"
#include "core/image/png.h"
#include "core/json_text.h"
#include "core/number_text.h"
#include "core/pose/coco.h"
#include "core/pose/find/network_finder.h"
#include "core/pose/find/own_network.h"
#include "core/pose/library.h"
#include "core/pose/pose_map.h"
#include "core/pose/pose_svg.h"
#include "core/pose/pose_words.h"
#include "files/figure_files.h"
#include "files/picture_reader.h"

namespace hscaffold {
namespace {

struct PoseMapOptions {
  std::string in, out, size, inks, report, box, network, kind = "auto";
  double faintest = 30;  ///< percent
  std::vector<std::string> joints;
  double thickness = 100;
  std::int64_t frame = 0;
  ClipChoice clip;
};

bool endsWith(const std::string& text, const std::string& end) { return text.ends_with(end); }

/// POINT=JOINT pairs into the choice.
void addJoints(ClipChoice& choice, const std::vector<std::string>& pairs) {
  for (const std::string& pair : pairs) {
    const auto equals = pair.find('=');
    if (equals == std::string::npos) throw badInput("--joint: \"" + pair + "\" is not like left_wrist=LeftHand.");
    choice.joints[pair.substr(0, equals)] = pair.substr(equals + 1);
  }
}

/// Whether a file may hold key points or a clip; else it is taken for a picture.
bool isText(std::span<const std::byte> bytes) {
  for (const std::byte b : bytes) {
    const auto c = static_cast<unsigned char>(b);
    if (c == ' ' || c == '\n' || c == '\r' || c == '\t' || c == 0xef || c == 0xbb || c == 0xbf) continue;
    return c == '{' || c == '[' || c == 'H';
  }
  return true;
}

/// Figures found in a picture, from far to near.
pose::CocoFigures foundIn(std::span<const std::byte> bytes, const std::string& name, const PoseMapOptions& options) {
  const auto loaded = decodePicture(bytes, name);
  const Size frame = options.size.empty() ? loaded.picture.size() : parsedSize(options.size);
  const auto picture = place(loaded.picture, {}, frame);
  pose::NetworkFinderTuning tuning;
  tuning.faintestFigure = options.faintest / 100;
  tuning.sought = options.kind == "person"   ? pose::Sought::people
                  : options.kind == "animal" ? pose::Sought::animals
                                             : pose::Sought::everybody;
  if (!options.box.empty()) {
    const auto numbers = parsedNumbers(options.box, 4);
    if (numbers.empty() || !(numbers[2] > 0 && numbers[3] > 0))
      throw badInput("--box: \"" + options.box + "\" is not like 40,60,80,200: left, top, width, height.");
    tuning.box = pose::Bounds{numbers[0], numbers[1], numbers[0] + numbers[2], numbers[1] + numbers[3]};
  }
  pose::CocoFigures out;
  out.size = out.figures.frame = frame;
  out.note = loaded.note;
  const std::unique_ptr<pose::FigureFinder> finder = [&]() -> std::unique_ptr<pose::FigureFinder> {
    if (options.network.empty()) return std::make_unique<pose::NetworkFinder>(tuning);
    return std::make_unique<pose::OwnNetworkFinder>(
        options.network, tuning.box ? std::vector{*tuning.box} : std::vector<pose::Bounds>());
  }();
  for (auto& figure : pose::tidied(finder->find(picture, {}))) {
    figure.name = fmt::format("Found {}", out.figures.figures.size() + 1);
    out.figures.figures.push_back(std::make_shared<const pose::Figure>(std::move(figure)));
  }
  if (out.figures.figures.empty()) out.note = "no figure was found; a lower --faintest may show some.";
  return out;
}

/// Frame, and of each figure its name, size, confidence and what it does.
void writeReport(const std::string& path, const pose::CocoFigures& file) {
  auto list = nlohmann::json::array();
  for (const auto& figure : file.figures.figures)
    list.push_back({{"name", figure->name},
                    {"skeleton", figure->skeleton},
                    {"size", pose::sizeOf(*figure)},
                    {"confidence", pose::confidenceOf(*figure)},
                    {"words", pose::wordsFor(*figure).text()}});
  const nlohmann::json report = {{"kind", "pose"},
                                 {"frame", {{"width", file.size.width}, {"height", file.size.height}}},
                                 {"figures", std::move(list)}};
  const std::string text = jsonText(report, 2) + "\n";
  writeOutput(path, bytesOf(text));
}

void runPoseMap(const PoseMapOptions& options, const ClipChoice& clip) {
  const std::string name = nameOfInput(options.in);
  const Bytes bytes = readInput(options.in);
  const auto file = isText(bytes)
                        ? figuresFromFile(bytes, name, options.size.empty() ? Size{} : parsedSize(options.size), clip)
                        : foundIn(bytes, name, options);
  if (!file.note.empty()) std::cerr << "hscaffold: " << name << ": " << file.note << "\n";
  const pose::Inks inks = options.inks.empty()
                              ? pose::houseInks()
                              : pose::inksFromJson(textOf(readWholeFile(options.inks)), nameOfInput(options.inks));
  if (!options.report.empty()) writeReport(options.report, file);
  if (endsWith(options.out, ".json")) {
    const std::string text = jsonText(pose::cocoFrom(file.figures), 1) + "\n";
    return writeOutput(options.out, bytesOf(text));
  }
  if (endsWith(options.out, ".svg")) {
    const std::string text = pose::svgFrom(file.figures, inks, options.thickness / 100, name);
    return writeOutput(options.out, bytesOf(text));
  }
  const auto map = pose::drawnFigures(file.figures, file.size, inks, options.thickness / 100);
  writeOutput(options.out, encodePng(map.view()));
}

void runWords(const PoseMapOptions& options, const ClipChoice& clip, bool json) {
  const auto file = figuresFromFile(readInput(options.in), nameOfInput(options.in), Size{1024, 1024}, clip);
  auto list = nlohmann::json::array();
  for (std::size_t i = 0; i < file.figures.figures.size(); ++i) {
    const pose::Figure& figure = *file.figures.figures[i];
    const auto words = pose::wordsFor(figure);
    if (json)
      list.push_back({{"figure", figure.name}, {"stance", words.stance}, {"words", words.text()}});
    else
      std::cout << (figure.name.empty() ? fmt::format("Figure {}", i + 1) : figure.name) << ": " << words.text()
                << "\n";
  }
  if (json) std::cout << jsonText(list, 2) << "\n";
}

struct MakeOptions {
  std::vector<std::string> poses;
  std::string size = "768x512", out;
};

/// NAME@LEFT,TOP,WIDTH,HEIGHT, with "/DEGREES" behind the name for where it faces: 0 front, 90 right, 180 back.
pose::Figure parsedPose(const std::string& text) {
  const auto at = text.rfind('@');
  const auto numbers = at == std::string::npos ? std::vector<double>() : parsedNumbers(text.substr(at + 1), 4);
  if (numbers.empty() || !(numbers[2] > 0 && numbers[3] > 0))
    throw badInput("--pose: \"" + text + "\" is not like \"Walking/90@40,60,80,200\".");
  constexpr double farthest = 100'000, smallest = 1;
  if (std::any_of(numbers.begin(), numbers.end(), [](double v) { return std::abs(v) > farthest; }) ||
      std::min(numbers[2], numbers[3]) < smallest)
    throw badInput(fmt::format("--pose: the box of \"{}\" is beyond {} pixels, or smaller than one.", text, farthest));
  const pose::Bounds box{numbers[0], numbers[1], numbers[0] + numbers[2], numbers[1] + numbers[3]};
  std::string name = text.substr(0, at);
  std::optional<double> turn;
  if (const auto slash = name.rfind('/'); slash != std::string::npos) {
    turn = numberFrom(std::string_view(name).substr(slash + 1));
    constexpr double mostTurn = 3600;
    if (!turn || std::abs(*turn) > mostTurn)
      throw badInput("--pose: \"" + name.substr(slash + 1) + "\" is not a number of degrees.");
    name.resize(slash);
  }
  std::string wanted = name;
  if (const auto colon = name.find(": "); colon != std::string::npos) wanted = name.substr(colon + 2);
  for (const pose::NamedPose& pose : pose::housePoses()) {
    // Animals and people share some names: the category before a colon tells them apart.
    if (pose.name != wanted || (wanted != name && pose.category != name.substr(0, name.find(": ")))) continue;
    const pose::Skeleton& skeleton = pose::skeletonOf(pose.skeleton);
    auto figure = pose::figureFrom(skeleton, turn ? pose::seenFrom(skeleton, pose.pose, *turn) : pose.pose, {});
    figure.name = wanted;
    return pose::fittedInto(figure, box);
  }
  throw badInput("--pose: there is no pose \"" + name + "\"; see hscaffold pose list.");
}

void runMake(const MakeOptions& options) {
  pose::Figures figures;
  figures.frame = parsedSize(options.size);
  for (const auto& pose : options.poses)
    figures.figures.push_back(std::make_shared<const pose::Figure>(parsedPose(pose)));
  const std::string text = jsonText(pose::cocoFrom(figures), 1) + "\n";
  writeOutput(options.out, bytesOf(text));
}

void runList(const std::string& words, bool json) {
  auto list = nlohmann::json::array();
  for (const std::size_t i : pose::foundPoses(pose::housePoses(), words)) {
    const auto& pose = pose::housePoses()[i];
    if (json)
      list.push_back(
          {{"name", pose.name}, {"skeleton", pose.skeleton}, {"category", pose.category}, {"tags", pose.tags}});
    else
      std::cout << fmt::format("{:<32} {}\n", pose.name, pose.category);
  }
  if (json) std::cout << jsonText(list, 2) << "\n";
}

void addClipOptions(Command& command, const std::shared_ptr<PoseMapOptions>& options) {
  command.whole("--frame", options->frame, "Which frame of a motion clip, from 0", {0, 1e9});
  command.number("--turn", options->clip.view.turn, "How far the camera goes round a clip, degrees", {-360, 360});
  command.number("--rise", options->clip.view.rise, "How far the camera goes up, degrees", {-90, 90});
  command.texts("--joint", options->joints, "POINT=JOINT where a clip's names do not tell; may be given several times");
}

/// What was given about a clip.
ClipChoice clipOf(const PoseMapOptions& options) {
  ClipChoice clip = options.clip;
  clip.frame = static_cast<std::size_t>(options.frame);
  addJoints(clip, options.joints);
  return clip;
}

}  // namespace

void addPoseMapCommand(Command& map) {
  auto command = map.add("pose", "Figures as skeletons: found in a picture, or from key points or a motion clip");
  auto options = std::make_shared<PoseMapOptions>();
  command
      .text("IN", options->in,
            "A picture to find figures in, COCO key points (JSON) or a motion clip (BVH); - for standard input")
      .required();
  command
      .text("-o,--out", options->out,
            "The map, PNG; as shapes if it ends in .svg, as key points if in .json; - for standard output")
      .required();
  command.number("--faintest", options->faintest, "Leave out found figures that are less sure, percent", {0, 100});
  command.text("--kind", options->kind, "Whom to find in a picture; auto: people and four-legged animals")
      .oneOf({"person", "animal", "auto"});
  command.text("--box", options->box, "Find one figure in this part of the picture: left, top, width, height");
  command.text(
      "--network", options->network,
      "Find with this ONNX network of your own, described beside it: the figure in the box, or each that is found");
  command.text("--size", options->size, "Frame, WIDTHxHEIGHT; the figures' own picture if not given");
  command.text("--report", options->report, "Write the frame, and of each figure what it is and does, as JSON");
  command.text("--inks", options->inks, "A file of inks; the house's if not given");
  command.number("--thickness", options->thickness, "How thick limbs are drawn, percent", {30, 300});
  addClipOptions(command, options);
  command.run([options] { runPoseMap(*options, clipOf(*options)); });
}

void addPoseCommand(Command& root, const bool& json) {
  auto pose = root.add("pose", "Look into figures, and make them from the pose library");
  auto words = pose.add("words", "Say in words what figures do");
  auto options = std::make_shared<PoseMapOptions>();
  words.text("IN", options->in, "COCO key points (JSON) or a motion clip (BVH); - for standard input").required();
  addClipOptions(words, options);
  words.run([options, &json] { runWords(*options, clipOf(*options), json); });
  auto make = pose.add("make", "Put poses of the library into boxes, as key points");
  auto making = std::make_shared<MakeOptions>();
  make.texts("--pose", making->poses,
             "NAME[/DEGREES]@LEFT,TOP,WIDTH,HEIGHT, far ones first; may be given several times. Degrees are where it "
             "faces: 0 front, 90 right, 180 back")
      .required();
  make.text("--size", making->size, "Picture, WIDTHxHEIGHT");
  make.text("-o,--out", making->out, "Key points, JSON; - for standard output").required();
  make.run([making] { runMake(*making); });
  auto list = pose.add("list", "List the pose library");
  auto search = std::make_shared<std::string>();
  list.text("WORDS", *search, "Only poses with these words");
  list.run([search, &json] { runList(*search, json); });
}

}  // namespace hscaffold
