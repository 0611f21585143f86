#include "core/sheet/sheet.h"

#include <fmt/format.h>

#include <cmath>
#include <map>
#include <nlohmann/json.hpp>
#include <numeric>

#include "core/frame/frame.h"
#include "core/guides/json_fields.h"
#include "core/kinds.h"

namespace hscaffold {

int SheetPlan::across() const {
  if (search) return static_cast<int>(search->choices.size());
  return axes.empty() ? 1 : static_cast<int>(axes[0].count());
}
int SheetPlan::down() const { return axes.size() < 2 ? 1 : static_cast<int>(axes[1].count()); }

FindPlan findPlanOf(const SheetPlan& plan) { return {*plan.search, plan.base, plan.seeds}; }

CellPlace placeOf(const SheetPlan& plan, int cell) {
  // A search grows: what is there keeps its number.
  const int seeds = static_cast<int>(plan.seeds.size());
  if (plan.search) return {cell / seeds, 0, cell % seeds};
  // Seed by seed: the first picture of every value comes before the second of any.
  const int across = plan.across(), down = plan.down();
  return {cell % across, cell / across % down, cell / across / down};
}

int cellAt(const SheetPlan& plan, const CellPlace& place) {
  if (plan.search) return place.across * static_cast<int>(plan.seeds.size()) + place.seed;
  return (place.seed * plan.down() + place.down) * plan.across() + place.across;
}

Recipe recipeOfCell(const SheetPlan& plan, int cell) {
  const CellPlace place = placeOf(plan, cell);
  if (plan.search)
    return recipeOf(findPlanOf(plan), plan.search->choices.at(static_cast<std::size_t>(place.across)),
                    static_cast<std::size_t>(place.seed));
  Recipe recipe = plan.base;
  recipe.brief.seed = plan.seeds.at(static_cast<std::size_t>(place.seed));
  if (!plan.axes.empty()) recipe = withValue(std::move(recipe), plan.axes[0], static_cast<std::size_t>(place.across));
  if (plan.axes.size() > 1) recipe = withValue(std::move(recipe), plan.axes[1], static_cast<std::size_t>(place.down));
  return recipe;
}

void checkPlan(const SheetPlan& plan) {
  if (plan.seeds.empty()) throw badInput("A sheet needs at least one seed.");
  if (plan.axes.size() > 2) throw badInput("A test strip has one or two axes.");
  if (plan.search) {
    if (!plan.axes.empty()) throw badInput("A search has no axes.");
    checkPlan(findPlanOf(plan));
  }
  if (plan.axes.size() == 2 && plan.axes[0].setting == plan.axes[1].setting && plan.axes[0].of == plan.axes[1].of)
    throw badInput("Both axes of the test strip change the same setting.");
  const double cells = static_cast<double>(plan.across()) * plan.down() * static_cast<double>(plan.seeds.size());
  if (cells > mostCells)
    throw badInput(fmt::format("That would be {:.0f} proofs. A sheet holds up to {}: take fewer values or seeds.",
                               cells, mostCells));
  // A guide that one axis turns off cannot be changed by the other: found here rather than in the middle.
  for (int cell = 0; cell < plan.across() * plan.down(); ++cell) static_cast<void>(recipeOfCell(plan, cell));
}

std::vector<int> repeatedCells(const SheetPlan& plan) {
  std::map<std::string, int> seen;
  std::vector<int> repeated;
  for (int cell = 0; cell < plan.cells(); ++cell) {
    Recipe recipe = recipeOfCell(plan, cell);
    // What a guide comes to: its weight at every step.
    std::string key;
    for (RecipeGuide& entry : recipe.guides) {
      for (int step = 0; step < recipe.brief.steps; ++step)
        key += fmt::format("{:.4f} ", loadAt(entry.guide, step, recipe.brief.steps));
      entry.guide.range = {};
      entry.guide.weight = 1;
    }
    key += recipeToJson(recipe).dump();
    if (!seen.emplace(std::move(key), cell).second) repeated.push_back(cell);
  }
  return repeated;
}

std::string titleOf(const SheetPlan& plan) {
  if (plan.search) return goalsOf(findPlanOf(plan));
  if (plan.axes.empty()) return plan.seeds.size() == 1 ? "1 seed" : fmt::format("{} seeds", plan.seeds.size());
  if (plan.axes.size() == 1) return nameOf(plan.axes[0], plan.base);
  const bool same = plan.axes[0].of == plan.axes[1].of && !plan.axes[0].of.empty();
  return nameOf(plan.axes[0], plan.base) + " across, " +
         (same ? infoOf(plan.axes[1].setting).name : nameOf(plan.axes[1], plan.base)) + " down";
}

std::string guideOf(const SheetPlan& plan) {
  if (plan.search) return plan.search->holds.size() == 1 ? plan.search->holds.front().guide : std::string();
  std::string guide;
  for (const Axis& axis : plan.axes) {
    // A guide that is off in some cells cannot be measured in them.
    if (infoOf(axis.setting).of != SettingInfo::Of::guide || axis.setting == Setting::on) continue;
    if (!guide.empty() && guide != axis.of) return {};
    guide = axis.of;
  }
  return guide;
}

std::string cellName(const SheetPlan& plan, int cell) {
  const CellPlace place = placeOf(plan, cell);
  std::string name;
  if (plan.search) name = nameOf(findPlanOf(plan), plan.search->choices.at(static_cast<std::size_t>(place.across)));
  for (std::size_t i = 0; i < plan.axes.size(); ++i) {
    const auto index = static_cast<std::size_t>(i == 0 ? place.across : place.down);
    if (!name.empty()) name += ", ";
    if (plan.axes[i].setting != Setting::prompt) name += std::string(infoOf(plan.axes[i].setting).name) + " ";
    name += valueName(plan.axes[i], index);
  }
  if (plan.seeds.size() > 1 || (plan.axes.empty() && !plan.search))
    name += fmt::format("{}seed {}", name.empty() ? "" : ", ", plan.seeds[static_cast<std::size_t>(place.seed)]);
  return name;
}

Size smallSize(Size frame, int longest, int step) {
  const int longer = std::max(frame.width, frame.height), shorter = std::min(frame.width, frame.height);
  if (longer <= longest) return frame;
  constexpr double keptRatio = 0.01;  // no more is given up of it where that can be
  constexpr double ofRatio = 4;       // what a share of the ratio weighs against one of the length
  const double ratio = static_cast<double>(longer) / shorter;
  double best = 1e9;
  Size found;
  for (int longSide = step; longSide < longer && longSide <= longest * 5 / 4; longSide += step) {
    const int shortSide = static_cast<int>(std::lround(longSide / ratio / step)) * step;
    if (shortSide < smallestSide || longSide < smallestSide) continue;
    const double error = std::abs(longSide / (shortSide * ratio) - 1);
    // Beyond that any that keeps the ratio is better.
    const double cost =
        std::abs(static_cast<double>(longSide) / longest - 1) + ofRatio * error + (error > keptRatio ? 100 : 0);
    if (cost >= best) continue;
    best = cost;
    found = frame.width >= frame.height ? Size{longSide, shortSide} : Size{shortSide, longSide};
  }
  if (found.area() > 0) return found;
  const double scale = static_cast<double>(longest) / longer;
  return onStep(
      {static_cast<int>(std::lround(frame.width * scale)), static_cast<int>(std::lround(frame.height * scale))}, step);
}

std::string nameOf(const SheetInfo& info) {
  return fmt::format("{} {}", info.plan.search ? "Search" : info.plan.axes.empty() ? "Sheet" : "Strip", info.number);
}

nlohmann::json planToJson(const SheetPlan& plan) {
  nlohmann::json json{{"base", recipeToJson(plan.base)}, {"seeds", plan.seeds}, {"axes", nlohmann::json::array()}};
  for (const Axis& axis : plan.axes) json["axes"].push_back(axisToJson(axis));
  if (!plan.engines.empty()) json["engines"] = plan.engines;
  if (plan.search) json["search"] = searchToJson(*plan.search);
  return json;
}

SheetPlan planFromJson(const nlohmann::json& json, const std::string& where, Mended* mended) {
  JsonFields fields(json, where, mended);
  SheetPlan plan;
  plan.base = recipeFromJson(fields.child("base"), mended);
  for (const double seed : numbersFromJson(fields.child("seeds"), where + ", seeds"))
    plan.seeds.push_back(static_cast<std::uint32_t>(std::clamp(seed, limits::seed.least, limits::seed.most)));
  for (const auto& axis : fields.list("axes")) plan.axes.push_back(axisFromJson(axis, where + ", axis"));
  if (fields.has("engines"))
    for (const auto& name : fields.list("engines"))
      if (name.is_string()) plan.engines.push_back(fittedText(name.get<std::string>(), longestName));
  if (fields.has("search")) plan.search = searchFromJson(fields.child("search"), where + ", search");
  fields.refuseOthers();
  checkPlan(plan);
  return plan;
}

}  // namespace hscaffold
