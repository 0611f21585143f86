#include "core/job/job_folder.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <nlohmann/json.hpp>

#include "core/image/colour.h"
#include "core/image/narrow.h"
#include "core/image/png.h"
#include "core/job/prepare.h"
#include "core/kinds.h"

namespace hscaffold {
namespace {

constexpr const char* recipeFile = "recipe.json";

/// Whether the map can be written with 8 bits a value and read back the same.
bool fitsEightBits(View<std::uint16_t> map) {
  for (int y = 0; y < map.height(); ++y)
    for (const std::uint16_t value : map.line(y))
      if (value % 257 != 0) return false;
  return true;
}

Bytes mapFile(const Kind& kind, const GuideInput& input) {
  if (!input.colour.empty()) return encodePng(input.colour.view());
  return fitsEightBits(input.map) ? encodeMap(kind, input.map, {}, true) : encodePng(input.map.view());
}

std::string endingOf(const std::string& name) {
  std::string ending = std::filesystem::path(name).extension().string();
  std::transform(ending.begin(), ending.end(), ending.begin(),
                 [](unsigned char c) { return static_cast<char>(std::tolower(c)); });
  return ending;
}

/// Where a recipe's file lies: in its folder or below, wherever the recipe says.
std::filesystem::path insideOf(const std::filesystem::path& folder, const std::string& name) {
  const auto path = std::filesystem::path(name).lexically_normal();
  if (path.empty() || path.is_absolute() || *path.begin() == "..")
    throw badInput("The recipe names \"" + name + "\", which is not in its own folder.");
  return folder / path;
}

GuideInput readInput(const RecipeGuide& entry, Size frame, const JobFileSource& files) {
  const Kind& kind = kindOf(entry.guide.kind);
  GuideInput input;
  if (kind.readBeside && endingOf(entry.mapFile) == kind.besideEnding) {
    input = kind.readBeside(files(entry.mapFile), std::filesystem::path(entry.mapFile).filename().string(), frame,
                            entry.guide.tuning);
  } else {
    const auto content = decodePng(files(entry.mapFile));
    const auto& picture = content.picture;
    if (kind.nature == MapNature::inks || (kind.coloured && content.coloured)) {
      input.colour = inEightBits(picture);
      input.map =
          entry.valuesFile.empty() ? brightnessOf(input.colour) : greyOf(decodePng(files(entry.valuesFile)).picture);
    } else {
      input.map = greyOf(picture);
    }
  }
  input.tuning = entry.guide.tuning;
  for (const auto& [slot, name] : entry.workFiles) {
    const auto of = std::find_if(kind.workSlots.begin(), kind.workSlots.end(),
                                 [&, &slot = slot](const WorkSlot& each) { return each.name == slot; });
    if (of == kind.workSlots.end())
      throw badInput(fmt::format("The recipe's guide \"{}\" has no hand work \"{}\".", entry.guide.name, slot));
    input.work.put(slot, of->form->read(textOf(files(name))));
  }
  if (!entry.regionFile.empty()) input.region = greyOf(decodePng(files(entry.regionFile)).picture);
  return input;
}

}  // namespace

void makeFolder(const std::filesystem::path& folder) {
  std::error_code error;
  std::filesystem::create_directories(folder, error);
  if (error) throw failed("Could not make the folder " + folder.string() + ": " + error.message() + ".");
}

void writeJobFolder(const EngineJob& job, const std::filesystem::path& folder) {
  makeFolder(folder);
  const JobFiles files = jobFiles(job);
  const auto& [recipe, bytes] = *files.find(recipeFile);
  for (const auto& [name, content] : files)
    if (name != recipe) writeFileAtomically(folder / name, content);
  writeFileAtomically(folder / recipe, bytes);
}

JobFiles jobFiles(const EngineJob& job) {
  JobFiles files;
  const auto write = [&](const std::string& name, std::span<const std::byte> bytes) {
    files[name] = Bytes(bytes.begin(), bytes.end());
    return name;
  };
  Recipe recipe = job.recipe;
  forgetFiles(recipe);
  for (std::size_t i = 0; i < job.inputs.size(); ++i) {
    RecipeGuide& entry = recipe.guides[i];
    const Kind& kind = kindOf(entry.guide.kind);
    const GuideInput& input = job.inputs[i];
    entry.mapFile = write(fmt::format("map-{}-{}.png", i + 1, kind.id), mapFile(kind, input));
    if (!input.colour.empty() && !(brightnessOf(input.colour) == input.map))
      entry.valuesFile = write(fmt::format("values-{}.png", i + 1), encodePng(input.map.view()));
    if (!input.region.empty())
      entry.regionFile = write(fmt::format("region-{}.png", i + 1), encodePng(input.region.view()));
    for (const WorkSlot& slot : kind.workSlots)
      if (const std::any* piece = input.work.find(slot.name))
        entry.workFiles[slot.name] =
            write(fmt::format("work-{}-{}.json", i + 1, slot.name), bytesOf(slot.form->write(*piece)));
  }
  if (!job.start.empty())
    recipe.brief.start.pictureFile = write("start.png", encodePng(toSrgb16(job.start.view()).view()));
  write(recipeFile, bytesOf(recipeToJson(recipe).dump(2) + "\n"));
  return files;
}

ReadJob readJob(Recipe recipe, const std::filesystem::path& folder) {
  return readJob(std::move(recipe), [&](const std::string& name) { return readWholeFile(insideOf(folder, name)); });
}

ReadJob readJob(Recipe recipe, const JobFileSource& files) {
  ReadJob out;
  for (RecipeGuide& entry : recipe.guides) {
    const std::string& name = entry.guide.name;
    if (entry.mapFile.empty())
      throw badInput("The recipe's guide \"" + name +
                     "\" names no map file. Pull from the study, or add \"map\" with a PNG's name.");
    auto input = readInput(entry, recipe.mapsSize(), files);
    const auto digest = digestOf(input.map, input.colour);
    const bool drawnAnew = endingOf(entry.mapFile) != ".png";
    if (!drawnAnew && !entry.mapDigest.empty() && entry.mapDigest != digest)
      out.notes.push_back(entry.mapFile + " is not the map that the recipe was made with; the proof will differ.");
    if (entry.guide.limited() && input.region.empty())
      out.notes.push_back(
          fmt::format("The region of \"{}\" is not beside the recipe: it acts everywhere, and the "
                      "proof will differ. Export from the study again, or add \"region-map\".",
                      name));
    entry.mapDigest = digest;
    entry.called.clear();  // it was for whoever got the job
    out.job.inputs.push_back(std::move(input));
  }
  // Somebody may have brought the maps to the proof's own size.
  if (std::all_of(out.job.inputs.begin(), out.job.inputs.end(),
                  [&](const GuideInput& input) { return input.map.size() == recipe.frame; }))
    recipe.mapsFrame = {};
  const StartPicture& start = recipe.brief.start;
  if (!start.pictureFile.empty()) {
    // It was placed when it was written.
    const auto picture = decodePng(files(start.pictureFile)).picture;
    out.job.start = picture.size() == recipe.frame
                        ? asHandedOver(picture)
                        : asHandedOver(toSrgb16(place(picture, {.fit = Fit::stretch}, recipe.frame)).view());
  } else if (start.from == StartPicture::From::colour) {
    Recipe alone = recipe;
    alone.guides.clear();
    out.job.start = std::move(jobFrom(std::move(alone), {}).job.start);
  } else if (start.given()) {
    throw badInput("The recipe names no file for its start picture. Pull from the study, or add \"picture\".");
  }
  forgetFiles(recipe);
  out.job.recipe = std::move(recipe);
  return out;
}

}  // namespace hscaffold
