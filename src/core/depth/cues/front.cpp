#include <algorithm>
#include <cmath>
#include <limits>
#include <queue>

#include "core/depth/cues/cue.h"

namespace hscaffold::depth {
namespace {

/// Shortest way from the top and the sides of the frame, over differences of colour (Dijkstra 1959).
std::vector<float> wayFromRim(const Seen& seen) {
  const std::size_t count = seen.x.size();
  struct Step {
    std::size_t to;
    float cost;
  };
  std::vector<std::vector<Step>> steps(count);
  std::vector<float> costs;
  for (const Border& border : seen.patches.borders) {
    const auto a = static_cast<std::size_t>(border.a), b = static_cast<std::size_t>(border.b);
    const float cost = colourDifference(seen.patches.cells[a].colour, seen.patches.cells[b].colour);
    costs.push_back(cost);
    steps[a].push_back({b, cost});
    steps[b].push_back({a, cost});
  }
  if (costs.empty()) return std::vector<float>(count);
  // Small differences are grain, not borders.
  std::nth_element(costs.begin(), costs.begin() + static_cast<std::ptrdiff_t>(costs.size() / 2), costs.end());
  const float grain = costs[costs.size() / 2];
  std::vector<float> way(count, std::numeric_limits<float>::max());
  using Item = std::pair<float, std::size_t>;
  std::priority_queue<Item, std::vector<Item>, std::greater<>> open;
  const float rimX = 0.8f * seen.patches.spacing / static_cast<float>(seen.size.width),
              rimY = 0.8f * seen.patches.spacing / static_cast<float>(seen.size.height);
  for (std::size_t i = 0; i < count; ++i)
    if (seen.x[i] < rimX || seen.x[i] > 1 - rimX || seen.y[i] < rimY) open.emplace(way[i] = 0.0f, i);
  while (!open.empty()) {
    const auto [far, i] = open.top();
    open.pop();
    if (far > way[i]) continue;
    for (const Step& step : steps[i]) {
      const float next = far + std::max(0.0f, step.cost - grain);
      if (next < way[step.to]) open.emplace(way[step.to] = next, step.to);
    }
  }
  for (float& value : way)
    if (value == std::numeric_limits<float>::max()) value = 0;
  return way;
}

}  // namespace

Cue frontCue(const Seen& seen) {
  Cue out;
  out.near = wayFromRim(seen);
  out.sure.resize(out.near.size());
  if (out.near.empty()) return out;
  // Only where it comes out as one thing before its surroundings: much of the frame on the way, little of it far.
  auto sorted = out.near;
  std::sort(sorted.begin(), sorted.end());
  const float low = sorted[sorted.size() / 2], high = std::max(12.0f, sorted[sorted.size() * 19 / 20]);
  float between = 0;
  for (const float way : sorted) between += way > 0.3f * high && way < 0.7f * high ? 1 : 0;
  between /= static_cast<float>(sorted.size());
  // Noise grows evenly from the rim to the middle; a thing begins at its border.
  const float evidence = std::max(0.0f, 1 - 1.6f * roominess(seen)) *
                         std::clamp(1.2f * (high - low) / high - 0.3f, 0.0f, 1.0f) *
                         std::clamp(1.4f - 2.8f * between, 0.0f, 1.0f);
  for (std::size_t i = 0; i < out.near.size(); ++i) {
    out.near[i] = std::clamp(out.near[i] / high, 0.0f, 1.0f);
    out.sure[i] = (1 - seen.sky[i]) * evidence * (0.15f + 0.85f * out.near[i]);
  }
  return out;
}

}  // namespace hscaffold::depth
