// hscaffold mood IN: colours and light of a picture without its layout, and the palette of it.
#include <fmt/format.h>

#include <iostream>
#include <nlohmann/json.hpp>

#include "cli/commands.h"
#include "core/frame/placement.h"
#include "core/image/png.h"
#include "core/json_text.h"
#include "core/mood/mood.h"
#include "core/mood/transport.h"
#include "files/picture_reader.h"

namespace hscaffold {
namespace {

struct MoodOptions {
  std::string in, out, layout, near, size, sorted;
  double blur = mood::limits::blur.usual;
  std::int64_t colours = 0;
};

Image<Rgb> pictureFrom(const std::string& file, const std::optional<Size>& size = {}) {
  const auto loaded = decodePicture(readInput(file), nameOfInput(file));
  if (!loaded.note.empty()) std::cerr << "hscaffold: " << loaded.note << "\n";
  return place(loaded.picture, {}, size.value_or(loaded.picture.size()));
}

std::string hex(const Rgb& c) {
  return fmt::format("#{:02x}{:02x}{:02x}", linearToSrgb8(c.r), linearToSrgb8(c.g), linearToSrgb8(c.b));
}

void runMood(const MoodOptions& options, bool json) {
  if (options.out.empty() && options.colours == 0)
    throw badInput("Say what is wanted: a picture with -o, a palette with --palette, or both.");
  const Image<Rgb> picture = pictureFrom(options.in);
  mood::MoodTuning tuning{options.blur, options.layout.empty() ? mood::Sorting::asItLies : mood::Sorting::byLight};
  if (!options.near.empty() && options.layout.empty()) tuning.sorting = mood::Sorting::byDepth;
  if (!options.sorted.empty()) tuning.sorting = *mood::sortingNamed(options.sorted);
  nlohmann::json report;
  if (!options.out.empty()) {
    const auto layout = options.layout.empty() ? Image<Rgb>() : pictureFrom(options.layout);
    Image<std::uint16_t> near;
    if (!options.near.empty()) near = greyOf(decodePng(readInput(options.near)).picture);
    if (!mood::canSort(tuning.sorting, {layout.view(), near.view()}))
      throw badInput(fmt::format("--sorted {}: {}", idOf(tuning.sorting),
                                 tuning.sorting == mood::Sorting::byDepth ? "give a depth map with --near."
                                                                          : "give a picture with --layout."));
    const Size size = !options.size.empty() ? parsedSize(options.size)
                      : !layout.empty()     ? layout.size()
                      : !near.empty()       ? near.size()
                                            : picture.size();
    const Image<Rgb> placed = picture.size() == size ? picture.clone() : pictureFrom(options.in, size);
    const auto made = mood::moodOf(placed, tuning, {layout.view(), near.view()});
    writeOutput(options.out, encodePng(toSrgb8(made)));
    report["distance"] = mood::colourDistance(made, picture);
    report["sorted"] = idOf(tuning.sorting);
  }
  for (const auto& each : mood::paletteOf(picture, static_cast<std::size_t>(options.colours)))
    if (options.colours > 0) report["palette"].push_back(hex(each.colour));
  if (options.out == "-") return;
  if (json) {
    std::cout << jsonText(report, 2) << "\n";
    return;
  }
  if (report.contains("distance"))
    std::cout << fmt::format("{}: colours {:.1f} from those of {}\n", options.out, report["distance"].get<double>(),
                             nameOfInput(options.in));
  for (const auto& each : report.value("palette", nlohmann::json::array()))
    std::cout << each.get<std::string>() << "\n";
}

}  // namespace

std::vector<std::string> moodSortings() { return {"as-it-lies", "by-light", "by-colour", "by-depth"}; }

void addMoodCommand(Command& root, const bool& json) {
  auto command = root.add("mood", "Take colours and light of a picture, without its layout");
  auto options = std::make_shared<MoodOptions>();
  command.text("IN", options->in, "The picture; - for standard input").required();
  command.text("-o,--out", options->out, "The mood, PNG; - for standard output");
  command.text("--layout", options->layout, "A picture into whose layout the colours are sorted");
  command.text("--near", options->near, "A depth map into which they are sorted, PNG, light being near");
  command.text("--sorted", options->sorted, "How; by-light with a layout, by-depth with a depth map")
      .oneOf(moodSortings());
  command.number("--blur", options->blur, "How far colours flow, percent of the longer side",
                 {mood::limits::blur.least, mood::limits::blur.most});
  command.text("--size", options->size, "WIDTHxHEIGHT; that of the layout, or the picture's own, if not given");
  command.whole("--palette", options->colours, "Print so many colours that stand for it",
                {1, static_cast<double>(mood::mostColours)});
  command.run([options, &json] { runMood(*options, json); });
}

}  // namespace hscaffold
