/// A sheet: the proofs of one pull. With one or two axes it is a test strip, without any a row of seeds, or what a
/// search tried.
#pragma once

#include <nlohmann/json_fwd.hpp>
#include <string>
#include <vector>

#include "core/sheet/find_plan.h"

namespace hscaffold {

/// What is pulled: every value of the first axis across, of the second one down, each with every seed.
struct SheetPlan {
  Recipe base;
  std::vector<Axis> axes;                 ///< none to two
  std::vector<std::uint32_t> seeds;       ///< at least one
  std::optional<Search> search = {};      ///< then there are no axes: every choice has its place across, and grows them
  std::vector<std::string> engines = {};  ///< that share its cells with the base's one, by name
  friend bool operator==(const SheetPlan&, const SheetPlan&) = default;

  [[nodiscard]] int across() const;
  [[nodiscard]] int down() const;
  [[nodiscard]] int cells() const { return across() * down() * static_cast<int>(seeds.size()); }
};
/// What a sheet looks for. @param plan  of a search
FindPlan findPlanOf(const SheetPlan& plan);
/// More are not pulled at once.
inline constexpr int mostCells = 4096;

/// Where a cell stands in the matrix. Seeds go down where there is room for them: under one axis, or under each value
/// of the second one; a plan without axes has them across.
struct CellPlace {
  int across = 0, down = 0, seed = 0;
  friend bool operator==(const CellPlace&, const CellPlace&) = default;
};
/// @param cell  [0, cells())
CellPlace placeOf(const SheetPlan& plan, int cell);
int cellAt(const SheetPlan& plan, const CellPlace& place);
/// @throws Problem (badInput) if the base recipe lacks what an axis changes.
Recipe recipeOfCell(const SheetPlan& plan, int cell);

/// Throws what is wrong with a plan before anything is pulled. @throws Problem (badInput)
void checkPlan(const SheetPlan& plan);
/// Cells whose recipes come to the same pictures as an earlier one: the same guides act at the same steps.
std::vector<int> repeatedCells(const SheetPlan& plan);

/// "Kite flyer, weight across, range end down" or "9 seeds".
std::string titleOf(const SheetPlan& plan);
/// The guide that a sheet is about: the only one that its axes change, or that a search has a goal for; empty for none
/// or several.
std::string guideOf(const SheetPlan& plan);
/// What a cell has that others have not: "weight 0.50, range end 45 %, seed 4117".
std::string cellName(const SheetPlan& plan, int cell);

/// The frame at about this many pixels on its longer side, at its exact ratio where the size step allows that, else as
/// near as it does; the frame itself where it is no larger.
Size smallSize(Size frame, int longest, int step);

nlohmann::json planToJson(const SheetPlan& plan);
/// With `mended`: mends what can be in its recipe (see `Mended`). @throws Problem (badInput)
SheetPlan planFromJson(const nlohmann::json& json, const std::string& where, Mended* mended = nullptr);

/// A sheet as the study keeps it.
struct SheetInfo {
  std::int64_t number = 0;
  std::string made;  ///< ISO 8601, UTC
  SheetPlan plan;
  std::vector<int> waiting;  ///< cells still to be pulled, in order; what is left after a crash is offered again
};
/// "Strip 7", "Search 7", or "Sheet 7" where it has no axes.
std::string nameOf(const SheetInfo& info);

}  // namespace hscaffold
