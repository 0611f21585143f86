#include "core/sheet/sharing.h"

#include <algorithm>
#include <cmath>
#include <nlohmann/json.hpp>
#include <vector>

namespace hscaffold {
namespace {

/// How much of a recipe there is to do: megapixels times steps.
double workIn(const Recipe& recipe) {
  return static_cast<double>(recipe.frame.area()) / 1e6 * std::max(1, recipe.brief.steps);
}

}  // namespace

std::optional<std::size_t> takerOf(std::span<const Worker> workers, int waiting) {
  // When each lane is free: one that is taken, half a proof from now.
  struct Lane {
    std::size_t worker;
    double free, each;
  };
  std::vector<Lane> lanes;
  for (std::size_t w = 0; w < workers.size(); ++w) {
    // Nobody takes no time at all, whatever they say.
    const double each = std::max(1.0, workers[w].milliseconds);
    for (int i = 0; i < std::max(1, workers[w].lanes); ++i)
      lanes.push_back({w, i < workers[w].running ? each / 2 : 0, each});
  }
  for (int cell = 0; cell < waiting; ++cell) {
    const auto next = std::min_element(lanes.begin(), lanes.end(),
                                       [](const Lane& a, const Lane& b) { return a.free + a.each < b.free + b.each; });
    if (next == lanes.end()) return {};
    // The first that would go to somebody who can begin now.
    if (next->free <= 0) return next->worker;
    next->free += next->each;
  }
  return {};
}

void Pace::took(const std::string& engine, const Recipe& recipe, double milliseconds) {
  const double now = milliseconds / workIn(recipe);
  if (!std::isfinite(now) || now <= 0) return;
  const auto [found, isNew] = each_.try_emplace(engine, now);
  if (!isNew) found->second += 0.4 * (now - found->second);
}

std::optional<double> Pace::estimate(const std::string& engine, const Recipe& recipe) const {
  const auto found = each_.find(engine);
  return found != each_.end() ? std::optional(found->second * workIn(recipe)) : std::nullopt;
}

nlohmann::json Pace::toJson() const { return each_; }

Pace Pace::fromJson(const nlohmann::json& json) {
  Pace pace;
  if (json.is_object())
    for (const auto& [name, value] : json.items())
      if (value.is_number() && value.get<double>() > 0 && value.get<double>() < 1e9)
        pace.each_[name] = value.get<double>();
  return pace;
}

}  // namespace hscaffold
