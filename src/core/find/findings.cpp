#include "core/find/findings.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "core/find/search.h"
#include "core/sheet/reading.h"

namespace hscaffold {
namespace {

/// Goals that are missed by less are met.
constexpr double met = 0.5;
/// Proposals differ by at least so many points.
constexpr double otherwise = 4;
/// A setting that moves nothing by more hardly matters.
constexpr double hardly = 5;

std::string goalName(const FindPlan& plan, std::size_t goal) {
  return goal == plan.holds.size() ? fmt::format("shift of {:.0f}", plan.look.shift) : goalName(plan, plan.holds[goal]);
}

/// "Edges holds 84, Tone 61, shift is 42"
std::string outcomeIn(const FindPlan& plan, const Outcome& outcome) {
  std::string out;
  for (std::size_t i = 0; i < plan.holds.size(); ++i)
    out += fmt::format("{}{} {:.0f}", guideName(plan, plan.holds[i].guide), i == 0 ? " holds" : "", outcome.holds[i]) +
           ", ";
  return out + fmt::format("{} is {:.0f}", lookName(plan), outcome.shift);
}

std::string lookGain(const FindPlan& plan, double gain) {
  return plan.look.wish == LookGoal::Wish::like ? fmt::format("{:.0f} more alike", gain)
                                                : fmt::format("shift goes {:.0f} farther", gain);
}

double meanHold(const Outcome& outcome) {
  double sum = 0;
  for (const double hold : outcome.holds) sum += hold;
  return outcome.holds.empty() ? 0 : sum / static_cast<double>(outcome.holds.size());
}

FindPlan withoutGoal(FindPlan plan, std::size_t goal) {
  if (goal == plan.holds.size())
    plan.look.wish = LookGoal::Wish::any;
  else
    plan.holds[goal].wish = HoldGoal::Wish::atLeast, plan.holds[goal].hold = 0;
  return plan;
}

bool asks(const FindPlan& plan, std::size_t goal) {
  return goal == plan.holds.size() ? plan.look.wish == LookGoal::Wish::atLeast
                                   : plan.holds[goal].wish != HoldGoal::Wish::little;
}

std::string verdictOn(const FindPlan& plan, std::span<const Tried> tried, std::size_t best) {
  const Tried& at = tried[best];
  const double behind = shortfallOf(plan, at.mean);
  if (behind <= met)
    return fmt::format("The goals are met at {}: {}.", nameOf(plan, at.choice), outcomeIn(plan, at.mean));
  std::string missed;
  std::size_t costly = 0;
  double least = 1e9;
  int goals = 0;
  for (std::size_t goal = 0; goal <= plan.holds.size(); ++goal) {
    if (!asks(plan, goal)) continue;
    ++goals;
    const FindPlan without = withoutGoal(plan, goal);
    const double by = behind - shortfallOf(without, at.mean);
    if (by > met)
      missed += fmt::format("{}{} is missed by {:.0f}", missed.empty() ? "" : ", ", goalName(plan, goal), by);
    double left = 1e9;
    for (const Tried& each : tried) left = std::min(left, shortfallOf(without, each.mean));
    if (left < least) least = left, costly = goal;
  }
  std::string out =
      fmt::format("Nothing that was tried meets all goals. Nearest is {}: {}.", nameOf(plan, at.choice), missed);
  if (goals > 1)
    out += fmt::format(
        " {} costs most: without it {}.", goalName(plan, costly),
        least <= met ? std::string("the others are met") : fmt::format("{:.0f} points are still missing", least));
  return out;
}

Effect effectOf(const FindPlan& plan, std::span<const Tried> tried, const Guessed& guessed, std::size_t setting) {
  constexpr int points = 9;
  Effect out;
  out.setting = setting;
  const Axis& axis = plan.settings[setting];
  const int count = static_cast<int>(axis.values.size());
  for (int k = 0; k < std::min(points, count); ++k)
    out.values.push_back(k * (count - 1) / std::max(1, std::min(points, count) - 1));
  const auto n = static_cast<double>(tried.size());
  for (const int value : out.values) {
    Outcome mean, spread;
    mean.holds.resize(plan.holds.size());
    spread.holds.resize(plan.holds.size());
    for (const Tried& each : tried) {
      Choice choice = each.choice;
      choice[setting] = value;
      const auto [at, deviation] = guessed.at(choice);
      for (std::size_t i = 0; i < plan.holds.size(); ++i) {
        mean.holds[i] += at.holds[i] / n;
        spread.holds[i] += deviation.holds[i] / n;
      }
      mean.shift += at.shift / n;
      spread.shift += deviation.shift / n;
    }
    out.mean.push_back(std::move(mean));
    out.spread.push_back(std::move(spread));
  }
  // What it moves most, and where.
  const auto told = [&](const std::string& what, auto&& of) {
    std::size_t low = 0, high = 0, steepest = 1;
    for (std::size_t k = 0; k < out.mean.size(); ++k) {
      if (of(out.mean[k]) < of(out.mean[low])) low = k;
      if (of(out.mean[k]) > of(out.mean[high])) high = k;
      if (k > 0 && std::abs(of(out.mean[k]) - of(out.mean[k - 1])) >
                       std::abs(of(out.mean[steepest]) - of(out.mean[steepest - 1])))
        steepest = k;
    }
    if (of(out.mean[high]) - of(out.mean[low]) < hardly) return std::string();
    const auto valueAt = [&](std::size_t k) { return valueName(axis, static_cast<std::size_t>(out.values[k])); };
    const std::size_t from = std::min(low, high), to = std::max(low, high);
    std::string text = fmt::format("{} {} from {:.0f} at {} to {:.0f} at {}", what, low < high ? "rises" : "falls",
                                   of(out.mean[from]), valueAt(from), of(out.mean[to]), valueAt(to));
    if (std::abs(of(out.mean[steepest]) - of(out.mean[steepest - 1])) > 0.4 * (of(out.mean[high]) - of(out.mean[low])))
      text += fmt::format(", most of it between {} and {}", valueAt(steepest - 1), valueAt(steepest));
    return text;
  };
  std::vector<std::string> parts;
  for (std::size_t i = 0; i < plan.holds.size(); ++i)
    parts.push_back(
        told("hold of " + guideName(plan, plan.holds[i].guide), [i](const Outcome& o) { return o.holds[i]; }));
  parts.push_back(told(lookName(plan), [](const Outcome& o) { return o.shift; }));
  std::erase(parts, std::string());
  out.sentence = nameOf(axis, plan.base) + ": " +
                 (parts.empty() ? std::string("hardly matters here.") : fmt::format("{}.", fmt::join(parts, "; ")));
  return out;
}

}  // namespace

Findings findingsOf(const FindPlan& plan, std::span<const Tried> tried) {
  Findings out;
  if (tried.empty()) {
    out.verdict = "Nothing was tried yet.";
    return out;
  }
  const std::size_t best = bestOf(plan, tried);
  out.verdict = verdictOn(plan, tried, best);
  std::vector<MeasuredCell> cells;
  for (std::size_t i = 0; i < tried.size(); ++i)
    cells.push_back({static_cast<int>(i), meanHold(tried[i].mean), tried[i].mean.shift});
  for (const int cell : bestTradeOffs(cells)) out.line.push_back(static_cast<std::size_t>(cell));

  const auto propose = [&](std::size_t which, const std::string& why) {
    out.proposals.push_back({which, fmt::format("{}: {} ({}).", nameOf(plan, tried[which].choice), why,
                                                outcomeIn(plan, tried[which].mean))});
  };
  propose(best, shortfallOf(plan, tried[best].mean) <= met ? "the goals are met" : "nearest to the goals");
  // From the line of trade-offs: one that holds more, and one whose look goes farther.
  const Outcome& at = tried[best].mean;
  const auto better = [&](auto&& gained) {
    std::optional<std::size_t> found;
    double most = -1e18;
    for (const std::size_t i : out.line) {
      const double merit = meritOf(plan, tried[i]);
      if (i != best && gained(tried[i].mean) >= otherwise && merit > most) most = merit, found = i;
    }
    return found;
  };
  if (const auto more = better([&](const Outcome& o) { return meanHold(o) - meanHold(at); }))
    propose(*more, fmt::format("holds {:.0f} more", meanHold(tried[*more].mean) - meanHold(at)));
  if (const auto farther = better([&](const Outcome& o) { return o.shift - at.shift; });
      farther && (out.proposals.size() < 2 || out.proposals[1].tried != *farther))
    propose(*farther, lookGain(plan, tried[*farther].mean.shift - at.shift));

  if (tried.size() < 4) return out;
  const Guessed guessed(plan, tried);
  for (std::size_t i = 0; i < plan.settings.size(); ++i) out.effects.push_back(effectOf(plan, tried, guessed, i));
  return out;
}

}  // namespace hscaffold
