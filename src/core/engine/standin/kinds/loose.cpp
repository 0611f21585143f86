// Loose lines set the same regions as edges, softly and about where they are: each seed takes them a little aside,
// outlines are hints, and borders stay open.
#include <tbb/parallel_for.h>

#include <algorithm>
#include <cmath>

#include "core/engine/standin/line_fields.h"
#include "core/engine/standin/noise.h"
#include "core/image/filter.h"
#include "core/image/parallel.h"

namespace hscaffold::standin {

Wanted looseWanted(const Asked& asked);

Wanted looseWanted(const Asked& asked) {
  const Composition& place = asked.place;
  const auto map = asked.input.map.view();
  const std::uint64_t seed = asked.seed;
  // About as far aside as a hand strays: a slow drift of the seed's own.
  const float drift = 0.008f * static_cast<float>(std::max(map.width(), map.height()));
  const float slow = 0.22f * static_cast<float>(std::max(map.width(), map.height()));
  Map aside(map.size());
  parallelRows(map.height(), [&](int first, int end) {
    for (int row = first; row < end; ++row)
      for (int column = 0; column < map.width(); ++column) {
        const float u = static_cast<float>(column) / slow, v = static_cast<float>(row) / slow;
        const float dx = drift * valueNoise(mixed(seed, 71), u, v), dy = drift * valueNoise(mixed(seed, 72), u, v);
        aside(column, row) =
            map.clamped(column + static_cast<int>(std::lround(dx)), row + static_cast<int>(std::lround(dy)));
      }
  });
  auto out = wantedByLines(place, aside, seed);
  const float soft = 0.0045f * static_cast<float>(std::max(place.fields.size().width, place.fields.size().height));
  tbb::parallel_for(std::size_t{0}, Fields::count, [&](std::size_t i) {
    if (out.acts[i]) out.fields.all[i] = gaussianBlur(out.fields.all[i].view(), soft);
  });
  for (int row = 0; row < out.fields.size().height; ++row)
    for (float& v : out.fields.line().line(row)) v *= 0.6f;
  return out;
}

}  // namespace hscaffold::standin
