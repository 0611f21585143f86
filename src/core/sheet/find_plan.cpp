#include "core/sheet/find_plan.h"

#include <fmt/format.h>

#include <algorithm>
#include <array>
#include <cmath>
#include <limits>
#include <tuple>

#include "core/guides/json_fields.h"
#include "core/number_text.h"

namespace hscaffold {
namespace {

constexpr int mostSettings = 8;
/// What goals that are not met cost, and every point of shortfall, in points of shift.
constexpr double notMet = 2, perShortfall = 3;
/// What the whole load of a guide costs that should have little.
constexpr double perLoad = 30;
/// Holds beyond what is asked still tell equals apart.
constexpr double perSpareHold = 0.02;

constexpr std::array<const char*, 3> holdIds = {"at-least", "about", "little"};
constexpr std::array<const char*, 4> lookIds = {"any", "at-least", "far", "like"};

}  // namespace

void checkPlan(const FindPlan& plan) {
  if (plan.settings.empty() || plan.settings.size() > mostSettings)
    throw badInput(fmt::format("Find moves 1 to {} settings.", mostSettings));
  for (const Axis& axis : plan.settings) {
    if (isWording(axis.setting) || axis.setting == Setting::seed)
      throw badInput("Find moves numbers: prompts and seeds stay as they are.");
    if (axis.values.size() < 2)
      throw badInput(fmt::format("{} has only one value to choose from.", nameOf(axis, plan.base)));
    static_cast<void>(withValue(plan.base, axis, 0));
  }
  for (std::size_t i = 0; i < plan.settings.size(); ++i)
    for (std::size_t j = 0; j < i; ++j)
      if (plan.settings[i].setting == plan.settings[j].setting && plan.settings[i].of == plan.settings[j].of)
        throw badInput(fmt::format("{} is named twice.", nameOf(plan.settings[i], plan.base)));
  for (const HoldGoal& goal : plan.holds)
    if (guideIn(plan.base, goal.guide) == nullptr)
      throw badInput("A goal is set for a guide that is not there or not on.");
  if (plan.holds.empty() && plan.look.wish == LookGoal::Wish::any)
    throw badInput("Nothing is asked for: name a hold or a shift.");
  const auto isWithin = [](double value, const Limits& limits) {
    return value >= limits.least && value <= limits.most;
  };
  if (!isWithin(static_cast<double>(plan.seeds.size()), searchSeeds))
    throw badInput(
        fmt::format("Find looks at each setting with {:.0f} to {:.0f} seeds.", searchSeeds.least, searchSeeds.most));
  for (const Choice& choice : plan.choices) {
    bool fits = choice.size() == plan.settings.size();
    for (std::size_t i = 0; fits && i < choice.size(); ++i)
      fits = choice[i] >= 0 && choice[i] < static_cast<int>(plan.settings[i].values.size());
    if (!fits) throw badInput("A choice of the search is not among the values of its settings.");
  }
  if (!isWithin(plan.budget, searchBudget))
    throw badInput(fmt::format("Find takes {:.0f} to {:.0f} proofs.", searchBudget.least, searchBudget.most));
  if (!isWithin(plan.minutes, searchMinutes))
    throw badInput(fmt::format("Find takes up to {:.0f} minutes.", searchMinutes.most));
  if (plan.look.wish == LookGoal::Wish::like && plan.look.proof <= 0)
    throw badInput("The look is to be like a proof: say which.");
}

Recipe recipeOf(const FindPlan& plan, const Choice& choice, std::size_t seed) {
  Recipe recipe = plan.base;
  for (std::size_t i = 0; i < plan.settings.size(); ++i)
    recipe = withValue(std::move(recipe), plan.settings[i], static_cast<std::size_t>(choice[i]));
  recipe.brief.seed = plan.seeds.at(seed);
  return recipe;
}

Choice presentChoice(const FindPlan& plan) {
  Choice out;
  for (const Axis& axis : plan.settings) {
    const double now = valueIn(plan.base, axis);
    const auto nearest = std::min_element(axis.values.begin(), axis.values.end(),
                                          [&](double a, double b) { return std::abs(a - now) < std::abs(b - now); });
    out.push_back(static_cast<int>(nearest - axis.values.begin()));
  }
  return out;
}

std::string nameOf(const FindPlan& plan, const Choice& choice) {
  const bool several = std::any_of(plan.settings.begin(), plan.settings.end(),
                                   [&](const Axis& axis) { return axis.of != plan.settings.front().of; });
  std::string out;
  for (std::size_t i = 0; i < plan.settings.size(); ++i) {
    const Axis& axis = plan.settings[i];
    if (!out.empty()) out += ", ";
    out += several ? nameOf(axis, plan.base) : std::string(infoOf(axis.setting).name);
    out += " " + valueName(axis, static_cast<std::size_t>(choice[i]));
  }
  return out;
}

std::vector<Axis> usualSettings(const Recipe& base, const std::vector<HoldGoal>& holds) {
  std::vector<Axis> out;
  for (const HoldGoal& goal : holds) {
    const Guide* guide = guideIn(base, goal.guide);
    if (guide == nullptr) continue;
    out.push_back(axisOver(Setting::weight, goal.guide, 0.2, 1.2, 21));
    if (guide->range.from <= 85) out.push_back(axisOver(Setting::end, goal.guide, guide->range.from + 10, 100, 19));
  }
  return out;
}

std::string guideName(const FindPlan& plan, const std::string& guide) {
  const Guide* found = guideIn(plan.base, guide);
  return found != nullptr ? found->name : guide;
}

std::string goalName(const FindPlan& plan, const HoldGoal& goal) {
  const std::string name = guideName(plan, goal.guide);
  if (goal.wish == HoldGoal::Wish::little) return name + " as little as it takes";
  return fmt::format("{} {} {:.0f}", name, goal.wish == HoldGoal::Wish::about ? "about" : "at least", goal.hold);
}

std::string goalsOf(const FindPlan& plan) {
  std::vector<std::string> parts;
  for (const HoldGoal& goal : plan.holds) parts.push_back(goalName(plan, goal));
  if (plan.look.wish == LookGoal::Wish::far) parts.push_back("shift as far as it goes");
  if (plan.look.wish == LookGoal::Wish::atLeast) parts.push_back(fmt::format("shift at least {:.0f}", plan.look.shift));
  if (plan.look.wish == LookGoal::Wish::like)
    parts.push_back(fmt::format("as like proof {} as it gets", plan.look.proof));
  return fmt::format("{}", fmt::join(parts, ", "));
}

std::string lookName(const FindPlan& plan) {
  return plan.look.wish == LookGoal::Wish::like ? fmt::format("likeness to proof {}", plan.look.proof) : "shift";
}

nlohmann::json searchToJson(const Search& search) {
  nlohmann::json json{
      {"settings", nlohmann::json::array()},
      {"holds", nlohmann::json::array()},
      {"look", {{"wish", lookIds[static_cast<std::size_t>(search.look.wish)]}, {"shift", search.look.shift}}},
      {"budget", search.budget},
      {"choices", search.choices}};
  if (search.look.wish == LookGoal::Wish::like) json["look"]["proof"] = search.look.proof;
  if (search.minutes > 0) json["minutes"] = search.minutes;
  for (const Axis& axis : search.settings) json["settings"].push_back(axisToJson(axis));
  for (const HoldGoal& goal : search.holds)
    json["holds"].push_back(
        {{"guide", goal.guide}, {"wish", holdIds[static_cast<std::size_t>(goal.wish)]}, {"hold", goal.hold}});
  return json;
}

Search searchFromJson(const nlohmann::json& json, const std::string& where) {
  const auto among = [&](const auto& ids, const std::string& id) {
    for (std::size_t i = 0; i < ids.size(); ++i)
      if (id == ids[i]) return i;
    throw badInput(fmt::format("{}: \"{}\" is no goal.", where, id));
  };
  JsonFields fields(json, where);
  Search search;
  for (const auto& axis : fields.list("settings")) search.settings.push_back(axisFromJson(axis, where + ", setting"));
  for (const auto& one : fields.list("holds")) {
    JsonFields goal(one, where + ", hold");
    search.holds.push_back({goal.text("guide"), static_cast<HoldGoal::Wish>(among(holdIds, goal.text("wish"))),
                            goal.number("hold", limits::hold)});
    goal.refuseOthers();
  }
  JsonFields look(fields.child("look"), where + ", look");
  search.look = {static_cast<LookGoal::Wish>(among(lookIds, look.text("wish"))), look.number("shift", limits::hold),
                 look.integer("proof", 0, std::numeric_limits<std::int64_t>::max() / 2, 0)};
  look.refuseOthers();
  search.budget = static_cast<int>(fields.integer("budget", searchBudget));
  search.minutes = fields.number("minutes", searchMinutes, searchMinutes.usual);
  for (const auto& one : fields.list("choices")) {
    Choice choice;
    for (const double value : numbersFromJson(one, where + ", choice"))
      choice.push_back(static_cast<int>(std::clamp(value, -1.0, 1e6)));
    search.choices.push_back(std::move(choice));
  }
  fields.refuseOthers();
  return search;
}

HoldGoal holdGoalFromText(const std::string& text, const Recipe& base) {
  const auto sign = text.find_last_of("=~");
  HoldGoal goal;
  if (sign != std::string::npos) {
    const std::string name = text.substr(0, sign), wish = text.substr(sign + 1);
    goal.guide = guideNamed(base, name);
    if (goal.guide.empty()) throw badInput("There is no guide \"" + name + "\", or it is not on.");
    if (text[sign] == '=' && wish == "little") {
      goal.wish = HoldGoal::Wish::little;
      return goal;
    }
    goal.wish = text[sign] == '~' ? HoldGoal::Wish::about : HoldGoal::Wish::atLeast;
    if (const auto hold = numberFrom(wish); hold && *hold >= limits::hold.least && *hold <= limits::hold.most) {
      goal.hold = *hold;
      return goal;
    }
  }
  throw badInput("The goal \"" + text + "\" is not like GUIDE=80 (at least), GUIDE~50 (about) or GUIDE=little.");
}

LookGoal lookGoalFromText(const std::string& text) {
  if (text == "far") return {LookGoal::Wish::far, 0};
  if (text == "any") return {LookGoal::Wish::any, 0};
  if (const auto shift = numberFrom(text); shift && *shift >= limits::hold.least && *shift <= limits::hold.most)
    return {LookGoal::Wish::atLeast, *shift};
  if (const auto proof = text.starts_with("like:") ? numberFrom(std::string_view(text).substr(5)) : std::nullopt;
      proof && *proof >= 1 && *proof < 1e15 && *proof == std::floor(*proof))
    return {LookGoal::Wish::like, 0, static_cast<std::int64_t>(*proof)};
  throw badInput("The shift \"" + text + "\" is not far, any, like:PROOF, or 0 to 100.");
}

Outcome outcomeOf(const FindPlan& plan, const std::map<std::string, double>& holds, std::optional<double> shift) {
  Outcome out;
  for (const HoldGoal& goal : plan.holds) {
    const auto found = holds.find(goal.guide);
    out.holds.push_back(found != holds.end() ? found->second : 0.0);
  }
  out.shift = shift.value_or(0);
  return out;
}

double likenessOf(const ShiftGround& wanted, const ProofSeen& proof, StopToken stop) {
  return 100 - shiftBetween(wanted, proof, stop).total;
}

Tried triedOf(Choice choice, const std::vector<Outcome>& outcomes) {
  Tried out{std::move(choice), outcomes.front(), outcomes.front()};
  const auto over = [&](auto&& of) {
    double mean = 0, squares = 0;
    for (const Outcome& each : outcomes) mean += of(each) / static_cast<double>(outcomes.size());
    for (const Outcome& each : outcomes) squares += std::pow(of(each) - mean, 2);
    const double spread = outcomes.size() > 1 ? std::sqrt(squares / static_cast<double>(outcomes.size() - 1)) : 0;
    return std::pair(mean, spread);
  };
  for (std::size_t i = 0; i < out.mean.holds.size(); ++i)
    std::tie(out.mean.holds[i], out.spread.holds[i]) = over([i](const Outcome& each) { return each.holds[i]; });
  std::tie(out.mean.shift, out.spread.shift) = over([](const Outcome& each) { return each.shift; });
  return out;
}

double shortfallOf(const FindPlan& plan, const Outcome& outcome) {
  double sum = 0;
  for (std::size_t i = 0; i < plan.holds.size(); ++i) {
    const HoldGoal& goal = plan.holds[i];
    const double behind = goal.hold - outcome.holds[i];
    if (goal.wish == HoldGoal::Wish::atLeast) sum += std::max(0.0, behind);
    if (goal.wish == HoldGoal::Wish::about) sum += std::max(0.0, std::abs(behind) - aboutWithin);
  }
  if (plan.look.wish == LookGoal::Wish::atLeast) sum += std::max(0.0, plan.look.shift - outcome.shift);
  return sum;
}

double costOf(const FindPlan& plan, const Choice& choice) {
  const bool asked = std::any_of(plan.holds.begin(), plan.holds.end(),
                                 [](const HoldGoal& goal) { return goal.wish == HoldGoal::Wish::little; });
  if (!asked) return 0;
  const Recipe recipe = recipeOf(plan, choice);
  double cost = 0;
  for (const HoldGoal& goal : plan.holds)
    if (const Guide* guide = guideIn(recipe, goal.guide); guide != nullptr && goal.wish == HoldGoal::Wish::little)
      cost += perLoad * guide->weight * (guide->range.to - guide->range.from) / 100;
  return cost;
}

double meritOf(const FindPlan& plan, double cost, const Outcome& outcome) {
  const double behind = shortfallOf(plan, outcome);
  double merit = -cost - (behind > 0 ? notMet + perShortfall * behind : 0);
  if (plan.look.wish == LookGoal::Wish::far || plan.look.wish == LookGoal::Wish::like) merit += outcome.shift;
  for (std::size_t i = 0; i < plan.holds.size(); ++i)
    if (plan.holds[i].wish == HoldGoal::Wish::atLeast) merit += perSpareHold * outcome.holds[i];
  return merit;
}

double meritOf(const FindPlan& plan, const Tried& tried) {
  return meritOf(plan, costOf(plan, tried.choice), tried.mean);
}

}  // namespace hscaffold
