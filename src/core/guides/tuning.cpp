#include "core/guides/tuning.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "core/guides/json_fields.h"
#include "core/number_text.h"
#include "core/text.h"

namespace hscaffold {
namespace {

double choiceIndex(const TuningField& field, const std::string& word, const std::string& where) {
  const auto found = std::find(field.choices.begin(), field.choices.end(), word);
  if (found == field.choices.end())
    throw badInput(
        fmt::format("{}: {} is one of {}, not \"{}\".", where, field.id, fmt::join(field.choices, ", "), word));
  return static_cast<double>(found - field.choices.begin());
}

double inRange(const TuningField& field, double value, const std::string& where) {
  if (!(value >= field.minimum && value <= field.maximum))
    throw badInput(
        fmt::format("{}: {} goes from {} to {}, not {}.", where, field.id, field.minimum, field.maximum, value));
  return value;
}

}  // namespace

const TuningField& fieldNamed(const TuningFields& fields, const std::string& id) {
  const auto found = std::find_if(fields.begin(), fields.end(), [&](const auto& field) { return field.id == id; });
  if (found == fields.end()) throw std::out_of_range("no tuning field " + id);
  return *found;
}

double valueOf(const TuningFields& fields, const Tuning& tuning, const std::string& id) {
  const auto found = tuning.find(id);
  return found != tuning.end() ? found->second.number() : fieldNamed(fields, id).defaultValue;
}

const std::string& wordingOf(const TuningFields& fields, const Tuning& tuning, const std::string& id) {
  const auto found = tuning.find(id);
  return found != tuning.end() ? found->second.text() : fieldNamed(fields, id).text.value().usual;
}

void keepWithin(TuningValue& value, const TuningField& field) {
  if (field.text) {
    value = fittedText(value.text(), field.text->most);
    return;
  }
  double number = value.number();
  keepWithin(number, field.minimum, field.maximum, field.defaultValue);
  value = field.choices.empty() ? number : std::round(number);
}

Tuning spelledOut(const TuningFields& fields, const Tuning& tuning) {
  Tuning all = tuning;
  for (const TuningField& field : fields)
    all.try_emplace(field.id, field.text ? TuningValue(field.text->usual) : TuningValue(field.defaultValue));
  return all;
}

nlohmann::json tuningToJson(const TuningFields& fields, const Tuning& tuning) {
  auto json = nlohmann::json::object();
  for (const auto& field : fields) {
    if (field.text) {
      json[field.id] = wordingOf(fields, tuning, field.id);
      continue;
    }
    const double value = valueOf(fields, tuning, field.id);
    if (field.choices.empty())
      json[field.id] = value;
    else
      json[field.id] = field.choices.at(static_cast<std::size_t>(value));
  }
  return json;
}

Tuning tuningFromJson(const TuningFields& fields, const nlohmann::json& json, const std::string& where,
                      Mended* mended) {
  JsonFields all(json, where, mended);
  Tuning tuning;
  for (const TuningField& field : fields) {
    if (!all.has(field.id)) continue;
    if (field.text) {
      std::string text = all.text(field.id);
      if (charactersIn(text) > field.text->most) {
        all.wrong(field.id, fmt::format("is longer than {} characters", field.text->most), "It was cut.");
        text = fittedText(text, field.text->most);
      }
      tuning[field.id] = std::move(text);
      continue;
    }
    if (field.choices.empty()) {
      tuning[field.id] = all.number(field.id, Limits{field.minimum, field.maximum, field.defaultValue});
      continue;
    }
    const std::string word = all.text(field.id);
    readOrLeaveOut(mended, [&] { tuning[field.id] = choiceIndex(field, word, where); });
  }
  all.refuseOthers();
  return tuning;
}

bool isShown(const TuningFields& fields, const TuningField& field, const Tuning& tuning) {
  return std::all_of(field.shownWhen.begin(), field.shownWhen.end(), [&](const TuningField::Condition& condition) {
    const auto now = static_cast<int>(valueOf(fields, tuning, condition.field));
    return std::find(condition.values.begin(), condition.values.end(), now) != condition.values.end();
  });
}

TuningValue tuningValueFromText(const TuningField& field, const std::string& text) {
  const std::string where = "--" + field.id;
  if (field.text) {
    if (charactersIn(text) > field.text->most)
      throw badInput(fmt::format("{}: at most {} characters.", where, field.text->most));
    return fittedText(text, field.text->most);
  }
  if (!field.choices.empty()) return choiceIndex(field, text, where);
  const auto value = numberFrom(text);
  if (!value) throw badInput(where + ": \"" + text + "\" is not a number.");
  return inRange(field, *value, where);
}

}  // namespace hscaffold
