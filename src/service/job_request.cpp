#include "service/job_request.h"

#include <fmt/format.h>

#include "core/digest.h"
#include "core/guides/json_fields.h"
#include "core/job/job_folder.h"

namespace hscaffold {
namespace {

std::uint32_t bigEndian(std::string_view bytes, std::size_t at) {
  std::uint32_t value = 0;
  for (std::size_t i = 0; i < 4; ++i) value = value << 8 | static_cast<unsigned char>(bytes[at + i]);
  return value;
}

/// Says before anything is unpacked what is too large.
void lookAtPicture(const std::string& name, std::string_view bytes, std::int64_t mostPixels) {
  if (bytes.size() < 33 || bytes.compare(1, 3, "PNG") != 0) throw Refused{422, "No picture", name + " is not a PNG."};
  // Two sides of 32 bits: no whole number holds all that they may come to.
  const double area = static_cast<double>(bigEndian(bytes, 16)) * bigEndian(bytes, 20);
  if (area > static_cast<double>(mostPixels))
    throw Refused{413, "Too large",
                  fmt::format("{} has {:.1f} megapixels, but up to {:.1f} are taken.", name, area / 1e6,
                              static_cast<double>(mostPixels) / 1e6)};
}

}  // namespace

AskedJob askedJob(const std::map<std::string, std::string_view>& files, const ServiceLimits& limits,
                  const EngineInfo& info) {
  const auto bytesIn = [](std::string_view text) { return std::as_bytes(std::span(text.data(), text.size())); };
  std::string all;
  for (const auto& [name, content] : files) all += name + '\n' + digestOf(bytesIn(content)) + '\n';
  const auto recipeText = files.find("recipe.json");
  if (recipeText == files.end()) throw Refused{422, "No recipe", "The job has no recipe.json."};
  constexpr std::size_t longestRecipe = std::size_t{8} << 20;
  if (recipeText->second.size() > longestRecipe) throw Refused{413, "Too large", "The recipe is too long."};
  try {
    const Recipe recipe = recipeFromJson(parseJson(std::string(recipeText->second), "The recipe"));
    for (const Size size : {recipe.frame, recipe.mapsSize()})
      if (size.area() > limits.pixels)
        throw Refused{413, "Too large",
                      fmt::format("{} x {} pixels are asked for, but up to {:.1f} megapixels are made.", size.width,
                                  size.height, static_cast<double>(limits.pixels) / 1e6)};
    const auto read = readJob(recipe, [&](const std::string& name) {
      const auto found = files.find(name);
      if (found == files.end()) throw badInput("The recipe names " + name + ", which did not come with it.");
      if (name.ends_with(".png")) lookAtPicture(name, found->second, limits.pixels);
      const auto bytes = bytesIn(found->second);
      return Bytes(bytes.begin(), bytes.end());
    });
    AskedJob asked{{read.job.recipe, {}, {}}, digestOf(bytesOf(all))};
    for (const GuideInput& input : read.job.inputs) asked.job.inputs.push_back(input.clone());
    if (!read.job.start.empty()) asked.job.start = read.job.start.clone();
    checkJob(asked.job, info);
    return asked;
  } catch (const Problem& problem) {
    throw Refused{422, "Not a job", problem.what()};
  }
}

}  // namespace hscaffold
