/// Jobs with one guide, for tests of the stand-in.
#pragma once

#include "core/engine/standin/standin.h"
#include "fixtures.h"

namespace fixtures {

/// A frame of the map's size, and the map as a guide.
inline EngineJob guidedJob(const std::string& kind, const Map& map, std::uint32_t seed, double weight,
                           const std::string& prompt, Range range = {}) {
  EngineJob job;
  job.recipe.frame = map.size();
  job.recipe.brief.prompt = prompt;
  job.recipe.brief.seed = seed;
  RecipeGuide guide;
  guide.guide.kind = kind;
  guide.guide.weight = weight;
  guide.guide.range = range;
  job.recipe.guides.push_back(guide);
  job.inputs.emplace_back();
  job.inputs.back().map = map.clone();
  return job;
}

inline Image<Rgb8> made(const EngineJob& job) {
  StandinEngine engine;
  return engine.generate(job, {}, {});
}

/// What a kind extracts from a scene of the almanac, with its usual tuning.
inline Map mapOf(const std::string& kind, int number) {
  ExtractionCache cache;
  return kindOf(kind).extract(scene(number), {}, cache, {}).map;
}

}  // namespace fixtures
