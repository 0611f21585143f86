/// Jobs with one guide, for tests of the stand-in.
#pragma once

#include <cmath>

#include "core/engine/standin/standin.h"
#include "fixtures.h"

namespace fixtures {

inline constexpr Size layout{384, 256};  ///< of the stand-in for a frame of 3 to 2

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

/// A line of full strength into a map; what lies beyond it is left out.
inline void line(Map& map, double x0, double y0, double x1, double y1) {
  const int steps = static_cast<int>(2 * std::hypot(x1 - x0, y1 - y0)) + 1;
  for (int i = 0; i <= steps; ++i) {
    const double t = static_cast<double>(i) / steps;
    const auto x = static_cast<int>(std::lround(x0 + t * (x1 - x0))),
               y = static_cast<int>(std::lround(y0 + t * (y1 - y0)));
    if (x >= 0 && y >= 0 && x < map.width() && y < map.height()) map(x, y) = 65535;
  }
}

inline void box(Map& map, double left, double top, double right, double bottom) {
  line(map, left, top, right, top);
  line(map, right, top, right, bottom);
  line(map, right, bottom, left, bottom);
  line(map, left, bottom, left, top);
}

}  // namespace fixtures
