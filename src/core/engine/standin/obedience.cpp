#include "core/engine/standin/obedience.h"

#include <algorithm>
#include <array>
#include <cmath>
#include <utility>

namespace hscaffold::standin {

double resistanceOf(double guidance) { return 0.85 + 0.15 * guidance / 6.5; }

LoadCurve::LoadCurve(const Guide& guide, double guidance, int steps) {
  const double resistance = resistanceOf(guidance);
  for (int step = 0; step < steps; ++step) steps_.push_back(loadAt(guide, step, steps) / resistance);
}

double LoadCurve::at(double time) const {
  double sum = 0, weights = 0;
  for (std::size_t s = 0; s < steps_.size(); ++s) {
    const double t = (static_cast<double>(s) + 0.5) / static_cast<double>(steps_.size());
    const double far = (t - time) / 0.09, weight = std::exp(-far * far);
    sum += weight * steps_[s];
    weights += weight;
  }
  if (weights > 1e-9) return sum / weights;
  // So few steps that none is near: the nearest one decides.
  if (steps_.empty()) return 0;
  const auto nearest = static_cast<std::size_t>(time * static_cast<double>(steps_.size()));
  return steps_[std::min(nearest, steps_.size() - 1)];
}

double LoadCurve::atOrAfter(double time) const {
  constexpr double late = 0.55, lasts = 0.3;  // of the way
  double load = at(time);
  for (std::size_t s = 0; s < steps_.size(); ++s) {
    const double after = (static_cast<double>(s) + 0.5) / static_cast<double>(steps_.size()) - time;
    if (after > 0) load = std::max(load, steps_[s] * late * std::exp(-after / lasts));
  }
  return load;
}

double LoadCurve::most() const { return steps_.empty() ? 0 : *std::max_element(steps_.begin(), steps_.end()); }

double LoadCurve::mean() const {
  double sum = 0;
  for (const double load : steps_) sum += load;
  return steps_.empty() ? 0 : sum / static_cast<double>(steps_.size());
}

double settlingTime(double rank) { return 0.06 + 0.82 * std::pow(std::clamp(rank, 0.0, 1.0), 1.7); }

double reachOf(double load) {
  if (load >= 0.985) return 1;
  static constexpr std::array<std::pair<double, double>, 6> points = {
      {{0, 0}, {0.2, 0.20}, {0.4, 0.43}, {0.6, 0.70}, {0.8, 0.85}, {1, 1}}};
  for (std::size_t i = 1; i < points.size(); ++i)
    if (load <= points[i].first) {
      const auto& [x0, y0] = points[i - 1];
      const auto& [x1, y1] = points[i];
      return y0 + (y1 - y0) * std::max(0.0, load - x0) / (x1 - x0);
    }
  return 1;
}

float burnOf(double load) { return load > 1 ? static_cast<float>(1 + 0.5 * (load - 1)) : 1.0f; }

float lineBurnOf(double load) { return static_cast<float>(std::max(1.0, load)); }

}  // namespace hscaffold::standin
