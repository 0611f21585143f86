#include "core/sheet/reading.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <limits>
#include <map>

namespace hscaffold {
namespace {

/// As good as the best is what loses no more than this; hold does not know itself better.
constexpr double smallestLoss = 6;
/// Shifts that differ by less are alike.
constexpr double littleShift = 2;

/// All seeds of one setting together.
struct Group {
  CellPlace place;
  std::vector<int> cells;
  double hold = 0, shift = 0;
};

std::vector<Group> grouped(const SheetPlan& plan, const std::vector<MeasuredCell>& cells, double& spread) {
  std::map<std::pair<int, int>, std::vector<const MeasuredCell*>> by;
  for (const MeasuredCell& cell : cells) {
    const CellPlace place = placeOf(plan, cell.cell);
    by[{place.down, place.across}].push_back(&cell);
  }
  std::vector<Group> groups;
  double squares = 0;
  int freedom = 0;
  for (const auto& [key, list] : by) {
    Group group{{key.second, key.first, 0}, {}, 0, 0};
    for (const MeasuredCell* cell : list) {
      group.cells.push_back(cell->cell);
      group.hold += cell->hold / static_cast<double>(list.size());
      group.shift += cell->shift / static_cast<double>(list.size());
    }
    for (const MeasuredCell* cell : list) squares += (cell->hold - group.hold) * (cell->hold - group.hold);
    freedom += static_cast<int>(list.size()) - 1;
    groups.push_back(std::move(group));
  }
  spread = freedom > 0 ? std::sqrt(squares / freedom) : -1;
  return groups;
}

struct Told {
  double mean = 0, spread = 0;  ///< standard deviation
};

/// @param cells  two at least
Told told(const std::vector<MeasuredCell>& cells, double MeasuredCell::*value) {
  const auto n = static_cast<double>(cells.size());
  Told out;
  for (const MeasuredCell& cell : cells) out.mean += cell.*value / n;
  for (const MeasuredCell& cell : cells) out.spread += (cell.*value - out.mean) * (cell.*value - out.mean) / (n - 1);
  out.spread = std::sqrt(out.spread);
  return out;
}

/// From which difference on two means over so many seeds differ: two standard errors of a difference.
double meaningful(double spread, std::size_t seeds) { return 2 * spread * std::sqrt(2 / static_cast<double>(seeds)); }

std::string whole(double value) { return fmt::format("{:.0f}", value); }

bool ordered(const Axis& axis) {
  return !isWording(axis.setting) && axis.setting != Setting::seed && axis.setting != Setting::on;
}

std::string settingAt(const SheetPlan& plan, std::size_t axis, const CellPlace& place) {
  const auto index = static_cast<std::size_t>(axis == 0 ? place.across : place.down);
  const Axis& of = plan.axes[axis];
  if (of.setting == Setting::prompt) return "\"" + valueName(of, index) + "\"";
  if (of.setting == Setting::avoid) return "avoiding " + valueName(of, index);
  return std::string(infoOf(of.setting).name) + " " + valueName(of, index);
}

std::string settingsAt(const SheetPlan& plan, const CellPlace& place) {
  std::string text;
  for (std::size_t i = 0; i < plan.axes.size(); ++i) text += (i > 0 ? ", " : "") + settingAt(plan, i, place);
  return text;
}

}  // namespace

std::vector<int> bestTradeOffs(const std::vector<MeasuredCell>& cells) {
  auto order = cells;
  std::sort(order.begin(), order.end(), [](const MeasuredCell& a, const MeasuredCell& b) {
    return a.shift != b.shift ? a.shift > b.shift : a.hold > b.hold;
  });
  std::vector<int> best;
  double highest = -std::numeric_limits<double>::infinity();
  for (const MeasuredCell& cell : order)
    if (cell.hold > highest) {
      best.push_back(cell.cell);
      highest = cell.hold;
    }
  std::reverse(best.begin(), best.end());
  return best;
}

std::optional<double> spreadOf(const std::vector<MeasuredCell>& cells) {
  if (cells.size() < 3) return {};
  return told(cells, &MeasuredCell::hold).spread;
}

SheetReading readingOf(const SheetPlan& plan, const std::vector<MeasuredCell>& cells,
                       const std::optional<KnownChance>& known) {
  SheetReading reading;
  double spread = -1;
  const auto groups = grouped(plan, cells, spread);
  const bool partly = static_cast<int>(cells.size()) < plan.cells();
  if (plan.search) {
    reading.sentence = fmt::format("Proofs of a search: {}.", titleOf(plan));
    return reading;
  }
  if (plan.axes.empty() || (plan.axes.size() == 1 && plan.axes[0].setting == Setting::seed)) {
    if (cells.size() < 3) {
      reading.sentence = "Nothing to read yet: three measured proofs at least are needed.";
      return reading;
    }
    const auto [low, high] = std::minmax_element(
        cells.begin(), cells.end(), [](const MeasuredCell& a, const MeasuredCell& b) { return a.hold < b.hold; });
    const Told hold = told(cells, &MeasuredCell::hold), shift = told(cells, &MeasuredCell::shift);
    reading.sentence = fmt::format(
        "Over {} seeds hold is {} give or take {} ({} to {}), shift {} give or take {}: that much is chance.",
        cells.size(), whole(hold.mean), whole(hold.spread), whole(low->hold), whole(high->hold), whole(shift.mean),
        whole(shift.spread));
    reading.doubt = fmt::format(
        "Of two settings with one seed each, a difference in hold below {} says nothing; with three seeds each, below "
        "{}.",
        whole(meaningful(hold.spread, 1)), whole(meaningful(hold.spread, 3)));
    reading.evidence = {low->cell, high->cell};
    return reading;
  }
  if (groups.size() < 3) {
    reading.sentence = "Nothing to read yet: three measured settings at least are needed.";
    return reading;
  }
  const auto byHold = [](const Group& a, const Group& b) { return a.hold < b.hold; };
  const Group& best = *std::max_element(groups.begin(), groups.end(), byHold);
  const Group& worst = *std::min_element(groups.begin(), groups.end(), byHold);
  const bool elsewhere = spread < 0 && known.has_value();
  if (elsewhere) spread = known->spread;
  const double noise = spread >= 0 ? meaningful(spread, plan.seeds.size()) : -1;
  const double loss = std::max(smallestLoss, noise);
  reading.doubt = fmt::format("From {} proof{}{}. ", cells.size(), cells.size() == 1 ? "" : "s",
                              partly ? fmt::format(" of {}", plan.cells()) : "");
  reading.doubt += elsewhere
                       ? fmt::format("One seed only; in {} seeds differ by {} in hold.", known->where, whole(spread))
                   : spread < 0 ? std::string("One seed only: how far seeds differ is not known.")
                                : fmt::format("Seeds differ by {} in hold.", whole(spread));
  if (best.hold - worst.hold <= loss) {
    const Group& freest = *std::max_element(groups.begin(), groups.end(),
                                            [](const Group& a, const Group& b) { return a.shift < b.shift; });
    reading.evidence = {worst.cells.front(), best.cells.front()};
    if (noise > smallestLoss) {
      reading.sentence = fmt::format(
          "Hold goes from {} to {}, and seeds alone differ as much: this strip does not say which setting is better.",
          whole(worst.hold), whole(best.hold));
      return reading;
    }
    reading.sentence =
        fmt::format("Hold stays between {} and {} all over this strip; shift is largest at {} ({}).", whole(worst.hold),
                    whole(best.hold), settingsAt(plan, freest.place), whole(freest.shift));
    reading.advised = freest.cells.front();
  } else {
    // The freest of those that hold; where it hardly matters, the one that holds best.
    double freest = 0;
    for (const Group& group : groups)
      if (group.hold >= best.hold - loss) freest = std::max(freest, group.shift);
    const Group* chosen = nullptr;
    for (const Group& group : groups)
      if (group.hold >= best.hold - loss && group.shift >= freest - littleShift &&
          (chosen == nullptr || group.hold > chosen->hold))
        chosen = &group;
    reading.advised = chosen->cells.front();
    const double floor = 5 * std::floor(chosen->hold / 5);
    // What one more step away from the best would lose: the neighbour on the way that holds less.
    const Group* next = nullptr;
    for (const Group& group : groups) {
      const int away =
          std::abs(group.place.across - chosen->place.across) + std::abs(group.place.down - chosen->place.down);
      if (away == 1 && group.hold < best.hold - loss && (next == nullptr || group.hold > next->hold)) next = &group;
    }
    const bool alone = plan.axes.size() == 1 && ordered(plan.axes[0]);
    const std::string at = settingsAt(plan, chosen->place);
    const std::string gain = best.shift + 3 < chosen->shift
                                 ? fmt::format(" At {}, where hold is best ({}), shift is only {}.",
                                               settingsAt(plan, best.place), whole(best.hold), whole(best.shift))
                                 : std::string();
    if (next != nullptr && alone)
      reading.sentence = fmt::format("Hold stays above {} {} {} (shift {}); at {} it falls to {}.{}", whole(floor),
                                     next->place.across > chosen->place.across ? "up to" : "down to", at,
                                     whole(chosen->shift), settingsAt(plan, next->place), whole(next->hold), gain);
    else if (next != nullptr)
      reading.sentence =
          fmt::format("Hold is {} at {} (shift {}); one step away, at {}, it falls to {}.{}", whole(chosen->hold), at,
                      whole(chosen->shift), settingsAt(plan, next->place), whole(next->hold), gain);
    else
      reading.sentence = fmt::format("Hold is {} at {}, with shift {}; elsewhere it goes down to {}.{}",
                                     whole(chosen->hold), at, whole(chosen->shift), whole(worst.hold), gain);
    reading.evidence = chosen->cells;
    if (next != nullptr) reading.evidence.insert(reading.evidence.end(), next->cells.begin(), next->cells.end());
    if (chosen != &best) reading.evidence.insert(reading.evidence.end(), best.cells.begin(), best.cells.end());
  }
  reading.button = "Set " + settingsAt(plan, placeOf(plan, *reading.advised));
  return reading;
}

}  // namespace hscaffold
