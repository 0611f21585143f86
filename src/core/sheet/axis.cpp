#include "core/sheet/axis.h"

#include <fmt/format.h>

#include <algorithm>
#include <array>
#include <cmath>

#include "core/guides/json_fields.h"
#include "core/number_text.h"

namespace hscaffold {
namespace {

using Of = SettingInfo::Of;

constexpr std::array<SettingInfo, 14> infos{{
    {Setting::weight, "weight", "weight", Of::guide, limits::weight},
    {Setting::start, "start", "range start", Of::guide, limits::percent},
    {Setting::end, "end", "range end", Of::guide, limits::percent},
    {Setting::place, "place", "range moved to", Of::guide, limits::percent},
    {Setting::ramp, "ramp", "ramps", Of::guide, limits::percent},
    {Setting::on, "on", "on or off", Of::guide, {0, 1, 1}},
    {Setting::style, "style", "strength", Of::style, limits::strength},
    {Setting::guidance, "guidance", "guidance", Of::brief, limits::guidance},
    {Setting::steps, "steps", "steps", Of::brief, limits::steps},
    {Setting::change, "change", "change amount", Of::brief, limits::change},
    {Setting::vary, "vary", "vary seed by", Of::brief, limits::vary},
    {Setting::seed, "seed", "seed", Of::brief, limits::seed},
    {Setting::prompt, "prompt", "prompt", Of::brief, {0, 0}},
    {Setting::avoid, "avoid", "avoid", Of::brief, {0, 0}},
}};

const SettingInfo* infoNamed(const std::string& id) {
  const auto found = std::find_if(infos.begin(), infos.end(), [&](const SettingInfo& info) { return id == info.id; });
  return found != infos.end() ? &*found : nullptr;
}

double roundedFor(const SettingInfo& info, double value) {
  const double scale = std::pow(10.0, info.values.decimals);
  return std::round(value * scale) / scale;
}

template <typename RecipeLike>
auto* guideOf(RecipeLike& recipe, const std::string& id) {
  const auto found = std::find_if(recipe.guides.begin(), recipe.guides.end(),
                                  [&](const RecipeGuide& entry) { return entry.guide.id == id; });
  return found != recipe.guides.end() ? &found->guide : nullptr;
}

template <typename RecipeLike>
auto* styleIn(RecipeLike& recipe, const std::string& id) {
  const auto found = std::find_if(recipe.brief.styles.begin(), recipe.brief.styles.end(),
                                  [&](const StyleUse& use) { return use.id == id; });
  return found != recipe.brief.styles.end() ? &*found : nullptr;
}

Problem notThere(const Axis& axis) {
  if (axis.setting == Setting::change)
    return badInput("The test strip changes a start picture, and the brief has none.");
  return badInput(fmt::format("The test strip changes {} \"{}\", and that is not there or not on.",
                              infoOf(axis.setting).of == Of::style ? "the style card" : "the guide", axis.of));
}

std::string trimmed(const std::string& text) {
  const auto first = text.find_first_not_of(' '), last = text.find_last_not_of(' ');
  return first == std::string::npos ? std::string() : text.substr(first, last - first + 1);
}

std::vector<std::string> parted(const std::string& text, char by) {
  std::vector<std::string> parts;
  for (std::size_t at = 0; at <= text.size();) {
    const auto end = std::min(text.find(by, at), text.size());
    parts.push_back(trimmed(text.substr(at, end - at)));
    at = end + 1;
  }
  return parts;
}

void checkValues(const Axis& axis) {
  const SettingInfo& info = infoOf(axis.setting);
  if (axis.count() < 1 || axis.count() > mostAxisValues)
    throw badInput(fmt::format("A test strip goes through 1 to {} values of one setting.", mostAxisValues));
  for (const double value : axis.values)
    if (!(value >= info.values.least && value <= info.values.most))
      throw badInput(fmt::format("A test strip over {} takes values from {} to {}{}{}.", info.name, info.values.least,
                                 info.values.most, *info.values.unit != '\0' ? " " : "", info.values.unit));
  for (const std::string& prompt : axis.prompts)
    if (charactersIn(prompt) > longestPrompt)
      throw badInput(fmt::format("A prompt of the test strip is longer than {} characters.", longestPrompt));
}

}  // namespace

const Guide* guideIn(const Recipe& recipe, const std::string& id) { return guideOf(recipe, id); }
Guide* guideIn(Recipe& recipe, const std::string& id) { return guideOf(recipe, id); }

std::string guideNamed(const Recipe& recipe, const std::string& name) {
  std::string id;
  for (const RecipeGuide& entry : recipe.guides)
    if (entry.guide.name == name || entry.guide.id == name) id = entry.guide.id;
  return id;
}

std::span<const SettingInfo> settingInfos() { return infos; }

const SettingInfo& infoOf(Setting setting) {
  return *std::find_if(infos.begin(), infos.end(), [&](const SettingInfo& info) { return info.setting == setting; });
}

Axis axisOver(Setting setting, const std::string& of, double from, double to, int count) {
  if (count < 1 || count > static_cast<int>(mostAxisValues))
    throw badInput(fmt::format("A test strip goes through 1 to {} values of one setting.", mostAxisValues));
  Axis axis{setting, of, {}, {}};
  for (int i = 0; i < count; ++i) {
    const double value = roundedFor(infoOf(setting), count == 1 ? from : from + (to - from) * i / (count - 1));
    if (axis.values.empty() || axis.values.back() != value) axis.values.push_back(value);
  }
  checkValues(axis);
  return axis;
}

Axis axisFromText(const std::string& text, const Recipe& base) {
  const auto wrong = [&] {
    return badInput("The test strip \"" + text +
                    "\" is not like weight:GUIDE=0.2..1.2/6, end:GUIDE=20,45,100, start:, place: and ramp: likewise, "
                    "on:GUIDE, style:CARD=0..1.5/4, guidance=2..12/5, steps=8..40/5, change=0.2..0.8/4, vary=0..0.4/5, "
                    "seed=1..9/9 or prompt=ONE|OTHER.");
  };
  const auto equals = text.find('=');
  const std::string left = text.substr(0, equals), right = equals == std::string::npos ? "" : text.substr(equals + 1);
  const auto colon = left.find(':');
  const SettingInfo* info = infoNamed(left.substr(0, colon));
  if (info == nullptr) throw wrong();
  Axis axis{info->setting, {}, {}, {}};
  const std::string name = colon == std::string::npos ? "" : left.substr(colon + 1);
  if ((info->of == Of::brief) != name.empty()) throw wrong();
  if (info->of == Of::guide) axis.of = guideNamed(base, name);
  if (info->of == Of::style)
    for (const StyleUse& use : base.brief.styles)
      if (use.name == name || use.id == name) axis.of = use.id;
  if (info->of != Of::brief && axis.of.empty()) {
    axis.of = name;
    throw notThere(axis);
  }
  if (info->setting == Setting::change && !base.brief.start.given()) throw notThere(axis);
  if (info->setting == Setting::on && right.empty()) {
    axis.values = {0, 1};
    return axis;
  }
  if (isWording(info->setting)) {
    axis.prompts = parted(right, '|');
    std::erase(axis.prompts, std::string());
    if (info->setting == Setting::avoid)
      std::replace(axis.prompts.begin(), axis.prompts.end(), std::string("-"), std::string());
    if (axis.prompts.empty()) throw wrong();
    checkValues(axis);
    return axis;
  }
  const auto numberOf = [&](const std::string& word) {
    const auto value = numberFrom(trimmed(word));
    if (!value) throw wrong();
    return *value;
  };
  // Written by hand: scanf would take the first dot of ".." for a decimal point.
  const auto dots = right.find(".."), slash = right.find('/');
  if (dots == std::string::npos) {
    for (const std::string& word : parted(right, ',')) {
      const double value = roundedFor(*info, numberOf(word));
      if (std::find(axis.values.begin(), axis.values.end(), value) != axis.values.end())
        throw badInput(fmt::format("The test strip \"{}\" would pull {} twice: its steps are of {}.", text, value,
                                   std::pow(10.0, -info->values.decimals)));
      axis.values.push_back(value);
    }
    checkValues(axis);
    return axis;
  }
  if (slash == std::string::npos || slash < dots) throw wrong();
  const double count = numberOf(right.substr(slash + 1));
  if (count != std::trunc(count) || std::abs(count) > 1e6) throw wrong();
  return axisOver(info->setting, axis.of, numberOf(right.substr(0, dots)),
                  numberOf(right.substr(dots + 2, slash - dots - 2)), static_cast<int>(count));
}

Recipe withValue(Recipe recipe, const Axis& axis, std::size_t index) {
  if (axis.setting == Setting::prompt) {
    // Emphasis belongs to the words it was put on.
    recipe.brief.emphasis = followed(recipe.brief.emphasis, recipe.brief.prompt, axis.prompts.at(index));
    recipe.brief.prompt = axis.prompts[index];
    return recipe;
  }
  if (axis.setting == Setting::avoid) {
    recipe.brief.avoid = axis.prompts.at(index);
    return recipe;
  }
  const double value = axis.values.at(index);
  switch (axis.setting) {
    case Setting::guidance:
      recipe.brief.guidance = value;
      return recipe;
    case Setting::steps:
      recipe.brief.steps = static_cast<int>(std::lround(value));
      return recipe;
    case Setting::vary:
      recipe.brief.vary = value;
      return recipe;
    case Setting::seed:
      recipe.brief.seed = static_cast<std::uint32_t>(value);
      return recipe;
    case Setting::change:
      if (!recipe.brief.start.given()) throw notThere(axis);
      recipe.brief.start.change = value;
      return recipe;
    case Setting::style: {
      StyleUse* use = styleIn(recipe, axis.of);
      if (use == nullptr) throw notThere(axis);
      use->strength = value;
      return recipe;
    }
    default:
      break;
  }
  Guide* guide = guideIn(recipe, axis.of);
  if (guide == nullptr) throw notThere(axis);
  Range& range = guide->range;
  switch (axis.setting) {
    case Setting::weight:
      guide->weight = value;
      break;
    case Setting::start:
      range.from = value;
      range.to = std::max(range.to, value);
      break;
    case Setting::end:
      range.to = value;
      range.from = std::min(range.from, value);
      break;
    case Setting::place: {
      const double length = range.to - range.from;
      range.from = value;
      range.to = std::min(100.0, value + length);
      break;
    }
    case Setting::ramp:
      range.rampIn = range.rampOut = value;
      range.shape.clear();
      break;
    default:
      if (value < 0.5)
        std::erase_if(recipe.guides, [&](const RecipeGuide& entry) { return entry.guide.id == axis.of; });
  }
  return recipe;
}

double valueIn(const Recipe& recipe, const Axis& axis) {
  const Guide* guide = guideIn(recipe, axis.of);
  const StyleUse* use = styleIn(recipe, axis.of);
  switch (axis.setting) {
    case Setting::weight:
      return guide != nullptr ? guide->weight : 0;
    case Setting::start:
    case Setting::place:
      return guide != nullptr ? guide->range.from : 0;
    case Setting::end:
      return guide != nullptr ? guide->range.to : 0;
    case Setting::ramp:
      return guide != nullptr ? guide->range.rampOut : 0;
    case Setting::on:
      return guide != nullptr ? 1 : 0;
    case Setting::style:
      return use != nullptr ? use->strength : 0;
    case Setting::guidance:
      return recipe.brief.guidance;
    case Setting::steps:
      return recipe.brief.steps;
    case Setting::change:
      return recipe.brief.start.change;
    case Setting::vary:
      return recipe.brief.vary;
    case Setting::seed:
      return recipe.brief.seed;
    default:
      return 0;
  }
}

std::string nameOf(const Axis& axis, const Recipe& base) {
  const SettingInfo& info = infoOf(axis.setting);
  std::string of;
  if (const Guide* guide = guideIn(base, axis.of)) of = guide->name;
  if (const StyleUse* use = styleIn(base, axis.of); use != nullptr && info.of == Of::style) of = use->name;
  return of.empty() ? info.name : of + ", " + info.name;
}

std::string valueName(const Axis& axis, std::size_t index) {
  if (isWording(axis.setting)) {
    const std::string& prompt = axis.prompts.at(index);
    if (prompt.empty()) return "nothing";
    return charactersIn(prompt) <= 28 ? prompt : fittedText(prompt, 26) + "...";
  }
  const SettingInfo& info = infoOf(axis.setting);
  if (axis.setting == Setting::on) return axis.values.at(index) < 0.5 ? "off" : "on";
  return fmt::format("{:.{}f}{}{}", axis.values.at(index), info.values.decimals, *info.values.unit != '\0' ? " " : "",
                     info.values.unit);
}

nlohmann::json axisToJson(const Axis& axis) {
  nlohmann::json json{{"setting", infoOf(axis.setting).id}};
  if (!axis.of.empty()) json["of"] = axis.of;
  if (isWording(axis.setting))
    json["prompts"] = axis.prompts;
  else
    json["values"] = axis.values;
  return json;
}

Axis axisFromJson(const nlohmann::json& json, const std::string& where) {
  JsonFields fields(json, where);
  const std::string id = fields.text("setting");
  const SettingInfo* info = infoNamed(id);
  if (info == nullptr) throw badInput(fmt::format("{}: \"{}\" is no setting of a test strip.", where, id));
  Axis axis{info->setting, fields.text("of", ""), {}, {}};
  if (isWording(info->setting)) {
    for (const auto& prompt : fields.child("prompts")) {
      if (!prompt.is_string()) throw badInput(where + ": a prompt is not text.");
      axis.prompts.push_back(prompt.get<std::string>());
    }
  } else {
    axis.values = numbersFromJson(fields.child("values"), where + ", values");
  }
  fields.refuseOthers();
  checkValues(axis);
  return axis;
}

}  // namespace hscaffold
