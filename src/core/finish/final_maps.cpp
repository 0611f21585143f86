#include "core/finish/final_maps.h"

#include "core/finish/touch_up.h"

namespace hscaffold {

Recipe toldBy(const Final& final, std::span<const std::byte> png) {
  Recipe recipe = recipeFromTexts(readPngTexts(png));
  recipe.frame = final.size;
  return recipe;
}

FinalMaps mapsOf(const Recipe& final, Size whole, const JobSources& sources, StopToken stop) {
  constexpr double asItIs = 1;
  FinalMaps out;
  const Recipe all = mapsRecipe(final, whole, asItIs);
  for (const RecipeGuide& entry : all.guides) {
    throwIfStopped(stop);
    Recipe alone = all;
    alone.guides = {entry};
    try {
      PreparedJob prepared = jobFrom(std::move(alone), sources, stop);
      out.maps.push_back({entry.guide.name, entry.guide.kind, std::move(prepared.job.inputs.at(0))});
      out.notes.insert(out.notes.end(), prepared.notes.begin(), prepared.notes.end());
    } catch (const Problem& problem) {
      out.notes.push_back("The map of " + entry.guide.name + " could not be made: " + problem.what());
    }
  }
  return out;
}

}  // namespace hscaffold
