/// What is looked for by Find: what must hold, how far the look may go, and which settings may move.
#pragma once

#include <map>
#include <nlohmann/json_fwd.hpp>
#include <optional>
#include <string>
#include <vector>

#include "core/measure/shift.h"
#include "core/sheet/axis.h"

namespace hscaffold {

/// What is wanted of one guide. Guides without a goal are free.
struct HoldGoal {
  enum class Wish {
    atLeast,  ///< hold of `hold` or more
    about,    ///< hold near `hold`
    little    ///< no more load than the other goals take
  };
  std::string guide;  ///< id
  Wish wish = Wish::atLeast;
  double hold = 0;  ///< [0, 100]
  friend bool operator==(const HoldGoal&, const HoldGoal&) = default;
};

/// What is wanted of the look: how far it moves from the reference, or how near it comes to a proof.
struct LookGoal {
  enum class Wish { any, atLeast, far, like };
  Wish wish = Wish::far;
  double shift = 0;        ///< [0, 100], for `atLeast`
  std::int64_t proof = 0;  ///< for `like`: number of a proof of the study
  friend bool operator==(const LookGoal&, const LookGoal&) = default;
};

/// Proofs of a search, and seeds of every choice.
inline constexpr Limits searchBudget{4, 400, 24, 1, 0}, searchSeeds{1, 3, 1, 1, 0};
/// Minutes that a search may take besides; 0: as long as its proofs take.
inline constexpr Limits searchMinutes{0, 10'000, 0, 1, 0};
/// Hold of "about" is met within so many points.
inline constexpr double aboutWithin = 4;

/// The value of each setting, as its place among the values of its axis.
using Choice = std::vector<int>;

/// What is asked, and what was chosen to be tried so far.
struct Search {
  std::vector<Axis> settings;  ///< what may move, each with the values it may have
  std::vector<HoldGoal> holds;
  LookGoal look;
  int budget = static_cast<int>(searchBudget.usual);  ///< proofs altogether
  double minutes = searchMinutes.usual;               ///< that they may take
  std::vector<Choice> choices;                        ///< in the order in which they came
  friend bool operator==(const Search&, const Search&) = default;
};

struct FindPlan : Search {
  Recipe base;                       ///< all that is held
  std::vector<std::uint32_t> seeds;  ///< of every choice; as many as `searchSeeds` allows
};

/// @throws Problem (badInput) what is wrong with it.
void checkPlan(const FindPlan& plan);
/// @throws Problem (badInput)
Recipe recipeOf(const FindPlan& plan, const Choice& choice, std::size_t seed = 0);
/// What comes nearest to the base's own settings.
Choice presentChoice(const FindPlan& plan);
/// "weight 0.60, range end 45 %"; guides by name where there are several.
std::string nameOf(const FindPlan& plan, const Choice& choice);
/// Weights and range ends of the guides that have a goal.
std::vector<Axis> usualSettings(const Recipe& base, const std::vector<HoldGoal>& holds);

/// Of a guide that is there, its name.
std::string guideName(const FindPlan& plan, const std::string& guide);
/// "Edges at least 80".
std::string goalName(const FindPlan& plan, const HoldGoal& goal);
/// "Edges at least 80, shift as far as it goes".
std::string goalsOf(const FindPlan& plan);
nlohmann::json searchToJson(const Search& search);
/// @throws Problem (badInput)
Search searchFromJson(const nlohmann::json& json, const std::string& where);

/// "Edges=80", "Edges~50", "Edges=little". @throws Problem (badInput)
HoldGoal holdGoalFromText(const std::string& text, const Recipe& base);
/// What is told of the look: "shift", or "likeness to proof 12".
std::string lookName(const FindPlan& plan);
/// "far", "any", "like:12" (a proof), or a number of points. @throws Problem (badInput)
LookGoal lookGoalFromText(const std::string& text);

/// What a choice came to, over its seeds.
struct Outcome {
  std::vector<double> holds;  ///< by goal
  double shift = 0;           ///< [0, 100]; where it is to be like a proof, how like it is instead
};
struct Tried {
  Choice choice;
  Outcome mean;
  Outcome spread;  ///< standard deviation over seeds; 0 with one
};

/// What the measures of one proof come to; a guide that is off holds nothing.
/// @param shift  see `Outcome`
Outcome outcomeOf(const FindPlan& plan, const std::map<std::string, double>& holds, std::optional<double> shift);
/// How like two proofs are by colour, texture and contrast, wherever things lie in them, [0, 100]. @throws Cancelled
double likenessOf(const ShiftGround& wanted, const ProofSeen& proof, StopToken stop = {});
/// @param outcomes  by seed, not empty
Tried triedOf(Choice choice, const std::vector<Outcome>& outcomes);

/// How far it stays behind the goals, in points, all goals together; 0: they are met.
double shortfallOf(const FindPlan& plan, const Outcome& outcome);
/// What its loads cost where little is wanted, in points of shift.
double costOf(const FindPlan& plan, const Choice& choice);
/// By which choices are compared: what is gained, in points of shift, less what it costs to miss goals.
/// @param cost  see `costOf`
double meritOf(const FindPlan& plan, double cost, const Outcome& outcome);
double meritOf(const FindPlan& plan, const Tried& tried);

}  // namespace hscaffold
