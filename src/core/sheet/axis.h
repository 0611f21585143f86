/// One setting that a test strip changes, and the values it goes through.
#pragma once

#include <nlohmann/json_fwd.hpp>
#include <span>
#include <string>
#include <vector>

#include "core/brief/recipe.h"

namespace hscaffold {

enum class Setting {
  weight,    ///< of a guide
  start,     ///< where a guide's range begins, percent
  end,       ///< where it ends
  place,     ///< where it begins, its length kept
  ramp,      ///< both ramps, percent
  on,        ///< a guide off (0) and on (1)
  style,     ///< strength of a style card
  guidance,  ///< how hard the prompt is obeyed
  steps,
  change,  ///< how far the start picture may be left
  vary,    ///< how far from the seed
  seed,
  prompt,  ///< one of `Axis::prompts`
  avoid    ///< the same of what is to be avoided; empty: nothing
};

/// Whether its values are texts.
constexpr bool isWording(Setting setting) { return setting == Setting::prompt || setting == Setting::avoid; }

/// The guide of that id; null if there is none.
const Guide* guideIn(const Recipe& recipe, const std::string& id);
Guide* guideIn(Recipe& recipe, const std::string& id);
/// The id of the guide that is called so, or has that id; empty if there is none.
std::string guideNamed(const Recipe& recipe, const std::string& name);

/// What a setting belongs to, and which values make sense.
struct SettingInfo {
  enum class Of { brief, guide, style };
  Setting setting;
  const char* id;    ///< in files and on the command line
  const char* name;  ///< in sentences: "range end"
  Of of;
  Limits values;
};
std::span<const SettingInfo> settingInfos();
const SettingInfo& infoOf(Setting setting);

struct Axis {
  Setting setting = Setting::weight;
  std::string of;                    ///< id of the guide or the style card; empty where the setting is the brief's
  std::vector<double> values;        ///< within the setting's range; empty for prompts
  std::vector<std::string> prompts;  ///< whole prompts, or all that is avoided
  [[nodiscard]] std::size_t count() const { return isWording(setting) ? prompts.size() : values.size(); }
  friend bool operator==(const Axis&, const Axis&) = default;
};

inline constexpr std::size_t mostAxisValues = 256;

/// `count` values from one to the other, evenly and rounded as the setting is shown; each value once.
/// @throws Problem (badInput) if the range or the count makes no sense.
Axis axisOver(Setting setting, const std::string& of, double from, double to, int count);
/// From text as on the command line: "weight:Kite flyer=0.2..1.2/6", "end:Kite flyer=20,45,100", "steps=8..40/5",
/// "on:Kite flyer", "prompt=a dune | a harbour", "avoid=fog, crowd | -" with - for nothing. Guides and cards by name or
/// id.
/// @throws Problem (badInput)
Axis axisFromText(const std::string& text, const Recipe& base);

/// The recipe with the axis's value number `index`. A guide that is off is not in it.
/// @throws Problem (badInput) if it has no such guide, card or start picture.
Recipe withValue(Recipe recipe, const Axis& axis, std::size_t index);
/// The value that the recipe has now; prompts have none.
double valueIn(const Recipe& recipe, const Axis& axis);

/// "Kite flyer, weight" or "guidance".
std::string nameOf(const Axis& axis, const Recipe& base);
/// "0.50", "45 %", "off", the first words of a prompt or of what is avoided, "nothing".
std::string valueName(const Axis& axis, std::size_t index);

nlohmann::json axisToJson(const Axis& axis);
Axis axisFromJson(const nlohmann::json& json, const std::string& where);

}  // namespace hscaffold
