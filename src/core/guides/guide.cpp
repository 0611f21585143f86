#include "core/guides/guide.h"

#include <algorithm>

namespace hscaffold {
double loadAt(const Guide& guide, int step, int steps) {
  return guide.on ? guide.weight * rampAt(guide.range, stepPercent(step, steps)) : 0;
}

std::vector<double> totalLoad(std::span<const Guide> guides, int steps) {
  std::vector<double> load(static_cast<std::size_t>(steps), 0.0);
  for (const Guide& guide : guides)
    for (int step = 0; step < steps; ++step) load[static_cast<std::size_t>(step)] += loadAt(guide, step, steps);
  return load;
}

void setWeightKeepingTotal(std::vector<Guide>& guides, std::size_t changed, double weight,
                           const std::set<std::string>& held) {
  weight = std::clamp(weight, 0.0, limits::weight.most);
  const auto gives = [&](std::size_t i) { return i != changed && guides[i].on && !held.contains(guides[i].id); };
  Guide& guide = guides[changed];
  double freed = guide.on ? (guide.weight - weight) * meanRamp(guide.range) : 0;
  guide.weight = weight;
  // A weight that reaches its end leaves its part to those that have not.
  for (std::size_t round = 0; round < guides.size() && std::abs(freed) > 1e-12; ++round) {
    double others = 0, open = 0;
    for (std::size_t i = 0; i < guides.size(); ++i) {
      if (!gives(i) || (freed > 0 && guides[i].weight >= limits::weight.most)) continue;
      others += guides[i].weight * meanRamp(guides[i].range);
      open += meanRamp(guides[i].range);
    }
    if (others <= 0 || open <= 0) return;
    const double scale = std::max(0.0, (others + freed) / others);
    for (std::size_t i = 0; i < guides.size(); ++i) {
      if (!gives(i) || (freed > 0 && guides[i].weight >= limits::weight.most)) continue;
      const double before = guides[i].weight;
      guides[i].weight = std::min(limits::weight.most, before * scale);
      freed -= (guides[i].weight - before) * meanRamp(guides[i].range);
    }
    if (scale <= 0) return;
  }
}

bool isDrowned(std::span<const Guide> guides, std::size_t which, int steps, double comfort) {
  const Guide& guide = guides[which];
  if (!guide.on || guide.weight <= 0) return false;
  bool acts = false;
  for (int step = 0; step < steps; ++step) {
    const double own = loadAt(guide, step, steps);
    if (own <= 0) continue;
    acts = true;
    double others = 0;
    for (std::size_t i = 0; i < guides.size(); ++i)
      if (i != which) others += loadAt(guides[i], step, steps);
    if (others < comfort || own >= 0.25 * (own + others)) return false;
  }
  return acts;
}

}  // namespace hscaffold
