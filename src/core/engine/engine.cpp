#include "core/engine/engine.h"

#include <algorithm>

#include <fmt/format.h>

#include "core/frame/frame.h"

namespace hscaffold {

bool serves(const EngineInfo& info, const std::string& family) {
  return family.empty() || std::any_of(info.families.begin(), info.families.end(),
                                       [&](const EngineFamily& each) { return each.name == family; });
}

const std::vector<std::string>& kindsIn(const EngineInfo& info, const std::string& family) {
  const auto found = std::find_if(info.families.begin(), info.families.end(),
                                  [&](const EngineFamily& each) { return family.empty() || each.name == family; });
  return found != info.families.end() && !found->kinds.empty() ? found->kinds : info.kinds;
}

std::vector<Guide> asUnderstood(std::span<const Guide> guides, const EngineInfo& info, const std::string& family) {
  std::vector<Guide> out(guides.begin(), guides.end());
  if (info.missing) return out;
  const auto& kinds = kindsIn(info, family);
  for (Guide& guide : out) {
    const Range& range = guide.range;
    if (!info.understands.ranges)
      guide.range = Range{};
    else if (!info.understands.ramps)
      guide.range = Range{range.from, range.to};
    guide.on = guide.on && std::find(kinds.begin(), kinds.end(), guide.kind) != kinds.end();
  }
  return out;
}

void checkJob(const EngineJob& job, const EngineInfo& info) {
  const Size frame = job.recipe.frame;
  if (!isOnStep(frame, info.sizeStep))
    throw badInput(fmt::format("The frame is {} x {}, but {} wants both sides in steps of {}.", frame.width,
                               frame.height, info.title, info.sizeStep));
  if (info.mostPixels > 0 && frame.area() > info.mostPixels)
    throw badInput(fmt::format("The frame has {:.1f} megapixels, but {} makes at most {:.1f}.", megapixels(frame),
                               info.title, static_cast<double>(info.mostPixels) / 1e6));
  if (!serves(info, job.recipe.family))
    throw badInput(fmt::format("{} has no models of the family \"{}\".", info.title, job.recipe.family));
  if (job.recipe.brief.start.given() != !job.start.empty() || (!job.start.empty() && job.start.size() != frame))
    throw badInput("The start picture is missing or not of the frame's size.");
  if (job.inputs.size() != job.recipe.guides.size())
    throw badInput(fmt::format("There are {} guides but {} maps.", job.recipe.guides.size(), job.inputs.size()));
  const Size maps = job.recipe.mapsSize();
  for (std::size_t i = 0; i < job.inputs.size(); ++i) {
    const GuideInput& input = job.inputs[i];
    if (input.map.size() != maps)
      throw badInput(fmt::format("The map of guide {} is {} x {}, but the frame is {} x {}.", i + 1, input.map.width(),
                                 input.map.height(), maps.width, maps.height));
    if ((!input.region.empty() && input.region.size() != maps) ||
        (!input.colour.empty() && input.colour.size() != maps))
      throw badInput(fmt::format("Region or colours of guide {} are not of its map's size.", i + 1));
  }
}

}  // namespace hscaffold
