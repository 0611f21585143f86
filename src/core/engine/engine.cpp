#include "core/engine/engine.h"

#include <fmt/format.h>

#include "core/frame/frame.h"

namespace hscaffold {

void checkJob(const EngineJob& job, const EngineInfo& info) {
  const Size frame = job.recipe.frame;
  if (!isOnStep(frame, info.sizeStep))
    throw badInput(fmt::format("The frame is {} x {}, but {} wants both sides in steps of {}.", frame.width,
                               frame.height, info.name, info.sizeStep));
  if (info.mostPixels > 0 && frame.area() > info.mostPixels)
    throw badInput(fmt::format("The frame has {:.1f} megapixels, but {} makes at most {:.1f}.", megapixels(frame),
                               info.name, static_cast<double>(info.mostPixels) / 1e6));
  if (job.maps.size() != job.recipe.guides.size())
    throw badInput(fmt::format("There are {} guides but {} maps.", job.recipe.guides.size(), job.maps.size()));
  for (std::size_t i = 0; i < job.maps.size(); ++i)
    if (job.maps[i].size() != frame)
      throw badInput(fmt::format("The map of guide {} is {} x {}, but the frame is {} x {}.", i + 1,
                                 job.maps[i].width(), job.maps[i].height(), frame.width, frame.height));
  for (const Map& region : job.regions)
    if (!region.empty() && region.size() != frame) throw badInput("The region of a guide is not of the frame's size.");
}

}  // namespace hscaffold
