// hscaffold map KIND IN -o OUT: one extraction. hscaffold pattern WHAT -o OUT: a map without a picture.
#include <fmt/format.h>

#include <chrono>
#include <iostream>
#include <nlohmann/json.hpp>
#include <optional>

#include "cli/commands.h"
#include "core/depth/estimate.h"
#include "core/depth/hints.h"
#include "core/frame/frame.h"
#include "core/frame/placement.h"
#include "core/image/atomic_file.h"
#include "core/image/png.h"
#include "core/json_text.h"
#include "core/kinds.h"
#include "core/number_text.h"
#include "core/pattern/ground.h"
#include "core/strokes/line_export.h"
#include "core/strokes/trace.h"
#include "core/tone/light_table.h"
#include "files/map_files.h"
#include "files/picture_reader.h"

namespace hscaffold {
namespace {

struct MapOptions {
  double tolerance = 1, shortSide = 0;
  std::string in, out, size, fit = "cover", report, hints, network, lights, near, ground, bits = "16";
  std::map<std::string, std::string> values;
  Tuning preset;
};

/// What stands beside the picture: hints from a file, which are brought to the frame if they were made for another
/// one, and what a network of the artist's makes of it.
GuideWork workFor(const MapOptions& options, View<Rgb> picture) {
  GuideWork work;
  if (!options.hints.empty()) {
    work.put(depth::hintsSlot, std::make_shared<const depth::Hints>(
                                   depth::hintsFromText(textOf(readWholeFile(options.hints)), options.hints)));
  }
  if (!options.network.empty())
    work.put(depth::estimateSlot,
             std::make_shared<const depth::Estimate>(depth::Estimator(options.network).estimate(picture, {})));
  if (!options.lights.empty())
    work.put(light::lightSlot, std::make_shared<const light::LightTable>(
                                   light::tableFromText(textOf(readWholeFile(options.lights)), options.lights)));
  if (!options.near.empty()) {
    const auto near = greyOf(decodePng(readWholeFile(options.near)).picture);
    work.put(light::reliefSlot, std::make_shared<const light::Relief>(
                                    light::reliefFrom(near, {picture.size(), {}}, nameOfInput(options.near))));
  }
  return work;
}

void runMap(const Kind& kind, const MapOptions& options) {
  Tuning tuning = options.preset;
  for (const auto& [id, text] : options.values)
    if (!text.empty()) tuning[id] = tuningValueFromText(fieldNamed(*kind.fields, id), text);
  // A threshold given by hand is meant to be used.
  if ((tuning.contains("low") || tuning.contains("high")) && !tuning.contains("thresholds")) tuning["thresholds"] = 1;
  if (tuning.contains("corners")) tuning["laid"] = 1;
  const bool onSettings = !kind.extract;
  const std::string name = options.in.empty() ? kind.id : nameOfInput(options.in);
  Image<Rgba16> reference;
  if (!options.in.empty()) {
    auto loaded = decodePicture(readInput(options.in), name);
    if (!loaded.note.empty()) std::cerr << "hscaffold: " << loaded.note << "\n";
    reference = std::move(loaded.picture);
  }
  const Size frame = options.size.empty() ? reference.size() : parsedSize(options.size);
  Placement placement;
  placement.fit = options.fit == "contain" ? Fit::contain : options.fit == "stretch" ? Fit::stretch : Fit::cover;
  if (!options.ground.empty()) {
    const auto near = greyOf(decodePng(readWholeFile(options.ground)).picture);
    pattern::layOnCorners(tuning, pattern::cornersOnGround(pattern::patternTuningFrom(tuning), frame, near.view()),
                          frame);
  }
  const auto pixels = kind.extractPixels ? pixelsSeen(reference, placement, frame) : std::nullopt;
  const auto picture = reference.empty() || pixels ? Image<Rgb>() : place(reference, placement, frame);
  ExtractionCache cache;
  const auto start = std::chrono::steady_clock::now();
  const bool plain = !onSettings && options.hints.empty() && options.network.empty() && options.lights.empty();
  const auto extraction = !plain   ? kind.make({picture, {frame, {}}, tuning, workFor(options, picture)}, cache, {})
                          : pixels ? kind.extractPixels(*pixels, tuning, cache, {})
                                   : kind.extract(picture, tuning, cache, {});
  const double took = std::chrono::duration<double, std::milli>(std::chrono::steady_clock::now() - start).count();
  if (extraction.facts.contains("empty")) throw badInput(extraction.note);
  if (!extraction.note.empty()) std::cerr << "hscaffold: " << extraction.note << "\n";
  const bool svg = kind.nature == MapNature::lines && (options.out.ends_with(".svg") || options.out.ends_with(".SVG"));
  Bytes content;
  std::size_t strokes = 0;
  if (svg) {
    TraceTuning trace;
    trace.tolerance = options.tolerance;
    const auto tracing = traced(extraction.map, trace);
    strokes = tracing.strokes.size();
    if (tracing.dropped > 0)
      std::cerr << fmt::format("hscaffold: the {} longest of {} strokes were kept.\n", strokes,
                               strokes + tracing.dropped);
    const std::string text = svgFrom(tracing.strokes, frame, name);
    const auto view = bytesOf(text);
    content.assign(view.begin(), view.end());
  } else {
    content = encodedMap(kind, extraction.map, extraction.colour, options.out,
                         {options.bits == "8", static_cast<int>(options.shortSide)});
  }
  writeOutput(options.out, content);
  if (options.report.empty()) return;
  nlohmann::json report = {{"kind", kind.id},
                           {"milliseconds", took},
                           {"frame", {{"width", frame.width}, {"height", frame.height}}},
                           {"tuning", tuningToJson(*kind.fields, tuning)},
                           {"map-digest", digestOf(extraction.map, extraction.colour)}};
  if (!reference.empty()) report["reference"] = {{"width", reference.width()}, {"height", reference.height()}};
  for (const auto& [fact, value] : extraction.facts) report["facts"][fact] = value;
  if (!extraction.found.empty()) report["found"] = extraction.found;
  if (!extraction.note.empty()) report["note"] = extraction.note;
  if (svg) report["strokes"] = strokes;
  if (!extraction.thresholds.histogram.empty())
    report["thresholds-used"] = {{"low", extraction.thresholds.low}, {"high", extraction.thresholds.high}};
  const std::string text = jsonText(report, 2) + "\n";
  writeOutput(options.report, bytesOf(text));
}

/// The options of one kind's map.
/// @param preset  settings that are not asked for; what they make mean nothing is not offered
void addMapCommand(Command& parent, const Kind& kind, const std::string& name, const std::string& help,
                   const Tuning& preset) {
  const bool onSettings = !kind.extract, lines = kind.nature == MapNature::lines;
  const bool fromPicture = !onSettings || (preset.contains("what") && name == "picture");
  auto command = parent.add(name, help);
  auto options = std::make_shared<MapOptions>();
  options->preset = preset;
  if (fromPicture) command.text("IN", options->in, "The picture; - for standard input").required();
  command
      .text("-o,--out", options->out,
            lines ? "The map, PNG; as strokes if it ends in .svg; - for standard output"
                  : "The map, PNG of 16 bits, or .exr; - for standard output")
      .required();
  if (lines)
    command.number("--svg-tolerance", options->tolerance, "How far curves in SVG may leave the lines, in pixels",
                   {0.3, 20});
  if (!lines) {
    command.text("--bits", options->bits, "Of the PNG's values").oneOf({"16", "8"});
    command.number("--short-side", options->shortSide,
                   "Write the map at this size instead, its ratio kept; 0: as it is", {0, largestSide});
  }
  if (fromPicture) {
    command.text("--size", options->size, "Frame, WIDTHxHEIGHT; the picture's own size if not given");
    command.text("--fit", options->fit, "How the picture lies in the frame").oneOf({"cover", "contain", "stretch"});
  } else {
    command.text("--size", options->size, "Frame, WIDTHxHEIGHT").required();
  }
  if (kind.id == "pattern" && !fromPicture)
    command.text("--ground", options->ground,
                 "Lay it on the ground that this depth map shows where its middle is, PNG, light being near");
  if (kind.hasSlot(light::lightSlot)) {
    command.text("--lights", options->lights, "What lies on its light table, a JSON file: see docs/light.md");
    command.text("--near", options->near,
                 "How near things are, a depth map as PNG, light being near: shapes are relit and rays hidden by it");
  }
  if (kind.hasSlot(depth::hintsSlot))
    command.text("--hints", options->hints, "Hints of depth, a JSON file: see docs/depth.md");
  if (kind.hasSlot(depth::estimateSlot))
    command.text("--network", options->network, "Guess with this ONNX network too: see docs/networks.md");
  command.text("--report", options->report,
               "Write sizes, tuning and the time of the computation alone as JSON; - for standard output");
  for (const TuningField& field : *kind.fields) {
    const auto& when = field.shownWhen;
    const bool meant = std::all_of(when.begin(), when.end(), [&](const TuningField::Condition& condition) {
      const auto fixed = preset.find(condition.field);
      return fixed == preset.end() || std::find(condition.values.begin(), condition.values.end(),
                                                std::lround(fixed->second.number())) != condition.values.end();
    });
    if (preset.contains(field.id) || !meant) continue;
    std::string about = field.help;
    if (field.text)
      about += fmt::format(" [at most {} characters]", field.text->most);
    else if (field.choices.empty())
      about += fmt::format(" [{} to {}{}, usually {}]", field.minimum, field.maximum,
                           field.unit.empty() ? "" : " " + field.unit, field.defaultValue);
    else
      about += fmt::format(" [{}; usually {}]", fmt::join(field.choices, ", "),
                           field.choices[static_cast<std::size_t>(field.defaultValue)]);
    auto option = command.text("--" + field.id, options->values[field.id], about);
    if (field.text && !preset.empty() && isShown(*kind.fields, field, preset)) option.required();
  }
  command.run([options, &kind] { runMap(kind, *options); });
}

}  // namespace

void addMapCommand(Command& root) {
  auto map = root.add("map", "Make a control map");
  // Kinds whose maps take more than a picture and settings have a command of their own.
  const std::map<std::string, void (*)(Command&)> own{{"pose", addPoseMapCommand}};
  for (const Kind& kind : kinds()) {
    if (const auto found = own.find(kind.id); found != own.end())
      found->second(map);
    else if (kind.extract || kind.onSettings)
      addMapCommand(map, kind, kind.id, kind.help, {});
  }
}

void addPatternCommand(Command& root) {
  auto pattern = root.add("pattern", "Make a code or a shape that a picture should take on");
  const Kind& kind = kindOf("pattern");
  const TuningField& what = fieldNamed(*kind.fields, "what");
  for (std::size_t i = 0; i < what.choices.size(); ++i)
    addMapCommand(pattern, kind, what.choices[i], what.choices[i] == "code" ? "A code to be scanned" : kind.help,
                  {{what.id, static_cast<double>(i)}});
}

}  // namespace hscaffold
