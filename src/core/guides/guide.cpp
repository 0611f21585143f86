#include "core/guides/guide.h"

#include <algorithm>
#include <array>

#include "core/guides/json_fields.h"

namespace hscaffold {
namespace {

/// Mean of the ramp over the whole way.
double meanRamp(const Range& range) {
  double in = range.rampIn, out = range.rampOut;
  const double length = std::max(0.0, range.to - range.from);
  if (in + out > length && in + out > 0) {
    const double share = length / (in + out);
    in *= share;
    out *= share;
  }
  return (length - in / 2 - out / 2) / 100;
}

}  // namespace

double rampAt(const Range& range, double percent) {
  if (percent < range.from || percent > range.to) return 0;
  double in = range.rampIn, out = range.rampOut;
  const double length = range.to - range.from;
  if (in + out > length) {
    const double share = length / (in + out);
    in *= share;
    out *= share;
  }
  const double rise = in > 0 ? (percent - range.from) / in : 1;
  const double fall = out > 0 ? (range.to - percent) / out : 1;
  return std::clamp(std::min(rise, fall), 0.0, 1.0);
}

double loadAt(const Guide& guide, int step, int steps) {
  return guide.on ? guide.weight * rampAt(guide.range, stepPercent(step, steps)) : 0;
}

std::vector<double> totalLoad(std::span<const Guide> guides, int steps) {
  std::vector<double> load(static_cast<std::size_t>(steps), 0.0);
  for (const Guide& guide : guides)
    for (int step = 0; step < steps; ++step) load[static_cast<std::size_t>(step)] += loadAt(guide, step, steps);
  return load;
}

int stepsCovered(const Range& range, int steps) {
  int count = 0;
  for (int step = 0; step < steps; ++step) count += rampAt(range, stepPercent(step, steps)) > 0 ? 1 : 0;
  return count;
}

void setWeightKeepingTotal(std::vector<Guide>& guides, std::size_t changed, double weight,
                           const std::set<std::string>& held) {
  weight = std::clamp(weight, 0.0, largestWeight);
  const auto gives = [&](std::size_t i) { return i != changed && guides[i].on && !held.contains(guides[i].id); };
  Guide& guide = guides[changed];
  double freed = guide.on ? (guide.weight - weight) * meanRamp(guide.range) : 0;
  guide.weight = weight;
  // A weight that reaches its end leaves its part to those that have not.
  for (std::size_t round = 0; round < guides.size() && std::abs(freed) > 1e-12; ++round) {
    double others = 0, open = 0;
    for (std::size_t i = 0; i < guides.size(); ++i) {
      if (!gives(i) || (freed > 0 && guides[i].weight >= largestWeight)) continue;
      others += guides[i].weight * meanRamp(guides[i].range);
      open += meanRamp(guides[i].range);
    }
    if (others <= 0 || open <= 0) return;
    const double scale = std::max(0.0, (others + freed) / others);
    for (std::size_t i = 0; i < guides.size(); ++i) {
      if (!gives(i) || (freed > 0 && guides[i].weight >= largestWeight)) continue;
      const double before = guides[i].weight;
      guides[i].weight = std::min(largestWeight, before * scale);
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

std::span<const RangeShape> rangeShapes() {
  static constexpr std::array<RangeShape, 4> shapes = {{{"Whole way", {0, 100, 0, 0}},
                                                        {"Opening only", {0, 25, 0, 10}},
                                                        {"Late entry", {40, 100, 10, 0}},
                                                        {"Fade out", {0, 80, 0, 60}}}};
  return shapes;
}

nlohmann::json rangeToJson(const Range& range) {
  return {{"from", range.from}, {"to", range.to}, {"ramp-in", range.rampIn}, {"ramp-out", range.rampOut}};
}

Range rangeFromJson(const nlohmann::json& json, const std::string& where) {
  JsonFields fields(json, where);
  Range range;
  range.from = fields.number("from", 0, 100);
  range.to = fields.number("to", 0, 100);
  range.rampIn = fields.number("ramp-in", 0, 100, 0.0);
  range.rampOut = fields.number("ramp-out", 0, 100, 0.0);
  fields.refuseOthers();
  if (range.to < range.from) throw badInput(where + ": \"to\" comes before \"from\".");
  return range;
}

}  // namespace hscaffold
