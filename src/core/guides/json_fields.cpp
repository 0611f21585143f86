#include "core/guides/json_fields.h"

#include <fmt/format.h>

#include <cmath>

namespace hscaffold {
namespace {

/// How deep brackets lie in each other, outside of strings.
int depthOf(const std::string& text) {
  int depth = 0, deepest = 0;
  bool inString = false;
  for (std::size_t i = 0; i < text.size(); ++i) {
    const char c = text[i];
    if (inString) {
      if (c == '\\') ++i;
      if (c == '"') inString = false;
    } else if (c == '"') {
      inString = true;
    } else if (c == '[' || c == '{') {
      deepest = std::max(deepest, ++depth);
    } else if (c == ']' || c == '}') {
      --depth;
    }
  }
  return deepest;
}

}  // namespace

JsonFields::JsonFields(const nlohmann::json& json, std::string where, Mended* mended)
    : json_(json), where_(std::move(where)), mended_(mended) {
  if (!json.is_object()) throw badInput(where_ + ": an object with fields is expected.");
}

void JsonFields::wrong(const std::string& key, const std::string& what, const std::string& done) const {
  std::string sentence = fmt::format("{}: \"{}\" {}.", where_, key, what);
  if (mended_ == nullptr) throw badInput(sentence);
  mended_->say(sentence + " " + done);
}

const nlohmann::json* JsonFields::find(const std::string& key, bool required) {
  asked_.insert(key);
  const auto found = json_.find(key);
  if (found != json_.end()) return &*found;
  if (required) wrong(key, "is missing", "It has its usual value now.");
  return nullptr;
}

double JsonFields::number(const std::string& key, const Limits& limits, std::optional<double> missing) {
  const double usual = missing.value_or(limits.usual);
  const auto* value = find(key, !missing);
  if (value == nullptr) return usual;
  if (!value->is_number()) {
    wrong(key, "is not a number", fmt::format("It was set to {}.", usual));
    return usual;
  }
  double number = value->get<double>();
  if (number >= limits.least && number <= limits.most) return number;
  const double was = number;
  keepWithin(number, limits.least, limits.most, usual);
  wrong(key, fmt::format("is {}, but goes from {} to {}", was, limits.least, limits.most),
        fmt::format("It was set to {}.", number));
  return number;
}

double JsonFields::number(const std::string& key, double minimum, double maximum, std::optional<double> missing) {
  return number(key, Limits{minimum, maximum, missing.value_or(std::clamp(0.0, minimum, maximum))}, missing);
}

std::int64_t JsonFields::integer(const std::string& key, std::int64_t minimum, std::int64_t maximum,
                                 std::optional<std::int64_t> missing) {
  return wholeNumber(key, minimum, maximum, missing.value_or(std::clamp<std::int64_t>(0, minimum, maximum)), !missing);
}

std::int64_t JsonFields::integer(const std::string& key, const Limits& limits, std::optional<std::int64_t> missing) {
  return wholeNumber(key, static_cast<std::int64_t>(limits.least), static_cast<std::int64_t>(limits.most),
                     missing.value_or(static_cast<std::int64_t>(limits.usual)), !missing);
}

std::int64_t JsonFields::wholeNumber(const std::string& key, std::int64_t minimum, std::int64_t maximum,
                                     std::int64_t usual, bool required) {
  const auto* value = find(key, required);
  if (value == nullptr) return usual;
  const bool whole = (value->is_number_integer() &&
                      !(value->is_number_unsigned() && value->get<std::uint64_t>() > std::uint64_t{INT64_MAX})) ||
                     (value->is_number_float() && std::trunc(value->get<double>()) == value->get<double>() &&
                      std::abs(value->get<double>()) < 9e15);
  if (!whole) {
    wrong(key, "is not a whole number", fmt::format("It was set to {}.", usual));
    return usual;
  }
  const auto number = value->get<std::int64_t>();
  if (number >= minimum && number <= maximum) return number;
  const auto nearest = std::clamp(number, minimum, maximum);
  wrong(key, fmt::format("is {}, but goes from {} to {}", number, minimum, maximum),
        fmt::format("It was set to {}.", nearest));
  return nearest;
}

std::string JsonFields::text(const std::string& key, std::optional<std::string> missing) {
  const auto* value = find(key, !missing);
  if (value != nullptr && value->is_string()) return value->get<std::string>();
  if (value != nullptr) wrong(key, "is not a text", "It was left out.");
  return missing.value_or("");
}

bool JsonFields::flag(const std::string& key, std::optional<bool> missing) {
  const auto* value = find(key, !missing);
  if (value != nullptr && value->is_boolean()) return value->get<bool>();
  if (value != nullptr)
    wrong(key, "is neither true nor false", fmt::format("It was set to {}.", missing.value_or(false)));
  return missing.value_or(false);
}

const nlohmann::json& JsonFields::child(const std::string& key) {
  asked_.insert(key);
  const auto found = json_.find(key);
  if (found == json_.end()) throw badInput(fmt::format("{}: \"{}\" is missing.", where_, key));
  return *found;
}

const nlohmann::json& JsonFields::list(const std::string& key) {
  static const nlohmann::json none = nlohmann::json::array();
  const auto* value = find(key, true);
  if (value == nullptr) return none;
  if (value->is_array()) return *value;
  wrong(key, "is not a list", "It was left out.");
  return none;
}

void JsonFields::refuseOthers() const {
  for (const auto& [key, value] : json_.items())
    if (!asked_.contains(key))
      wrong(key, "is not a field that this version knows; a newer one may have written it", "It was left out.");
}

nlohmann::json JsonFields::others() const {
  auto rest = nlohmann::json::object();
  for (const auto& [key, value] : json_.items())
    if (!asked_.contains(key)) rest[key] = value;
  return rest;
}

std::string JsonFields::othersAsText() const {
  const auto rest = others();
  return rest.empty() ? std::string() : rest.dump();
}

nlohmann::json objectWith(const std::string& carried) {
  return carried.empty() ? nlohmann::json::object() : nlohmann::json::parse(carried);
}

std::vector<double> numbersFromJson(const nlohmann::json& json, const std::string& where,
                                    std::optional<std::size_t> count) {
  const auto isNumber = [](const auto& value) { return value.is_number(); };
  if (!json.is_array() || !std::all_of(json.begin(), json.end(), isNumber))
    throw badInput(where + ": not a list of numbers.");
  if (count && json.size() != *count) throw badInput(fmt::format("{}: not {} numbers.", where, *count));
  return json.get<std::vector<double>>();
}

nlohmann::json parseJson(const std::string& text, const std::string& where) {
  if (depthOf(text) > deepestJson)
    throw badInput(fmt::format("{} has lists or objects in each other, more than {} deep.", where, deepestJson));
  try {
    return nlohmann::json::parse(text);
  } catch (const nlohmann::json::out_of_range&) {
    throw badInput(where + " holds a number that is out of all bounds.");
  } catch (const nlohmann::json::parse_error& error) {
    throw badInput(fmt::format("{} is not JSON: something is wrong near byte {}.", where, error.byte));
  }
}

}  // namespace hscaffold
