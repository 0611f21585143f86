// hscaffold map KIND IN -o OUT: one extraction.
#include <fmt/format.h>

#include <chrono>
#include <iostream>
#include <nlohmann/json.hpp>
#include <optional>

#include "cli/commands.h"
#include "core/frame/frame.h"
#include "core/frame/placement.h"
#include "core/image/atomic_file.h"
#include "core/kinds.h"
#include "core/lines/trace.h"
#include "files/picture_reader.h"
#include "files/svg_lines.h"

namespace hscaffold {
namespace {

struct MapOptions {
  double tolerance = 1;
  std::string in, out, size, fit = "cover", report;
  std::map<std::string, std::string> values;
};

void runMap(const Kind& kind, const MapOptions& options) {
  Tuning tuning;
  for (const auto& [id, text] : options.values)
    if (!text.empty()) tuning[id] = tuningValueFromText(fieldNamed(*kind.fields, id), text);
  // A threshold given by hand is meant to be used.
  if ((tuning.contains("low") || tuning.contains("high")) && !tuning.contains("thresholds")) tuning["thresholds"] = 1;
  const std::string name = nameOfInput(options.in);
  const auto loaded = decodePicture(readInput(options.in), name);
  if (!loaded.note.empty()) std::cerr << "hscaffold: " << loaded.note << "\n";
  const Size frame = options.size.empty() ? loaded.picture.size() : parsedSize(options.size);
  Placement placement;
  placement.fit = options.fit == "contain" ? Fit::contain : options.fit == "stretch" ? Fit::stretch : Fit::cover;
  const auto picture = place(loaded.picture, placement, frame);
  ExtractionCache cache;
  const auto start = std::chrono::steady_clock::now();
  const auto extraction = kind.extract(picture, tuning, cache, {});
  const double took = std::chrono::duration<double, std::milli>(std::chrono::steady_clock::now() - start).count();
  if (!extraction.note.empty()) std::cerr << "hscaffold: " << extraction.note << "\n";
  const bool svg = kind.lines && (options.out.ends_with(".svg") || options.out.ends_with(".SVG"));
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
    content = encodeMap(kind, extraction.map);
  }
  writeOutput(options.out, content);
  if (options.report.empty()) return;
  nlohmann::json report = {{"kind", kind.id},
                           {"milliseconds", took},
                           {"reference", {{"width", loaded.picture.width()}, {"height", loaded.picture.height()}}},
                           {"frame", {{"width", frame.width}, {"height", frame.height}}},
                           {"tuning", tuningToJson(*kind.fields, tuning)},
                           {"map-digest", digestOf(extraction.map)}};
  if (!extraction.found.empty()) report["found"] = extraction.found;
  if (!extraction.note.empty()) report["note"] = extraction.note;
  if (svg) report["strokes"] = strokes;
  if (!extraction.thresholds.histogram.empty())
    report["thresholds-used"] = {{"low", extraction.thresholds.low}, {"high", extraction.thresholds.high}};
  const std::string text = report.dump(2) + "\n";
  writeFileAtomically(options.report, bytesOf(text));
}

}  // namespace

Bytes readInput(const std::string& in) {
  if (in != "-") return readWholeFile(in);
  const std::string all{std::istreambuf_iterator<char>(std::cin), {}};
  const auto bytes = bytesOf(all);
  return {bytes.begin(), bytes.end()};
}

void writeOutput(const std::string& out, std::span<const std::byte> content) {
  if (out == "-")
    std::cout.write(reinterpret_cast<const char*>(content.data()), static_cast<std::streamsize>(content.size()))
        .flush();
  else
    writeFileAtomically(out, content);
}

std::string nameOfInput(const std::string& in) {
  return in == "-" ? "standard input" : std::filesystem::path(in).filename().string();
}

Size parsedSize(const std::string& text) {
  int width = 0, height = 0;
  char rest = 0;
  if (std::sscanf(text.c_str(), "%dx%d%c", &width, &height, &rest) != 2 || width < 1 || height < 1 ||
      width > largestSide || height > largestSide)
    throw badInput(fmt::format("--size: \"{}\" is not a size like 768x512 with sides up to {}.", text, largestSide));
  return {width, height};
}

void addMapCommand(CLI::App& app, CliContext& context) {
  auto* map = app.add_subcommand("map", "Make a control map from a picture");
  map->require_subcommand(1);
  for (const Kind& kind : kinds()) {
    if (kind.figures) {
      addPoseMapCommand(*map, context);
      continue;
    }
    auto* sub = map->add_subcommand(kind.id, kind.help);
    auto options = std::make_shared<MapOptions>();
    sub->add_option("IN", options->in, "The picture; - for standard input")->required();
    sub->add_option("-o,--out", options->out,
                    kind.lines ? "The map, PNG; as strokes if it ends in .svg; - for standard output"
                               : "The map, PNG; - for standard output")
        ->required();
    if (kind.lines)
      sub->add_option("--svg-tolerance", options->tolerance, "How far curves in SVG may leave the lines, in pixels")
          ->check(CLI::Range(0.3, 20.0));
    sub->add_option("--size", options->size, "Frame, WIDTHxHEIGHT; the picture's own size if not given");
    sub->add_option("--fit", options->fit, "How the picture lies in the frame")
        ->check(CLI::IsMember({"cover", "contain", "stretch"}));
    sub->add_option("--report", options->report, "Write sizes, tuning and the time of the computation alone as JSON");
    for (const TuningField& field : *kind.fields) {
      std::string help = field.help;
      if (field.choices.empty())
        help += fmt::format(" [{} to {}{}, usually {}]", field.minimum, field.maximum,
                            field.unit.empty() ? "" : " " + field.unit, field.defaultValue);
      else
        help += fmt::format(" [{}; usually {}]", fmt::join(field.choices, ", "),
                            field.choices[static_cast<std::size_t>(field.defaultValue)]);
      sub->add_option("--" + field.id, options->values[field.id], help);
    }
    sub->callback([&context, options, &kind] { context.run = [options, &kind] { runMap(kind, *options); }; });
  }
}

}  // namespace hscaffold
