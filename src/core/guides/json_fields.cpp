#include "core/guides/json_fields.h"

#include <fmt/format.h>

#include <cmath>

namespace hscaffold {

JsonFields::JsonFields(const nlohmann::json& json, std::string where) : json_(json), where_(std::move(where)) {
  if (!json.is_object()) throw badInput(where_ + ": an object with fields is expected.");
}

void JsonFields::wrong(const std::string& key, const std::string& what) const {
  throw badInput(fmt::format("{}: \"{}\" {}.", where_, key, what));
}

const nlohmann::json* JsonFields::find(const std::string& key, bool required) {
  asked_.insert(key);
  const auto found = json_.find(key);
  if (found != json_.end()) return &*found;
  if (required) wrong(key, "is missing");
  return nullptr;
}

double JsonFields::number(const std::string& key, double minimum, double maximum, std::optional<double> missing) {
  const auto* value = find(key, !missing);
  if (value == nullptr) return *missing;
  if (!value->is_number()) wrong(key, "is not a number");
  const double number = value->get<double>();
  if (!(number >= minimum && number <= maximum))
    wrong(key, fmt::format("is {}, but goes from {} to {}", number, minimum, maximum));
  return number;
}

std::int64_t JsonFields::integer(const std::string& key, std::int64_t minimum, std::int64_t maximum,
                                 std::optional<std::int64_t> missing) {
  const auto* value = find(key, !missing);
  if (value == nullptr) return *missing;
  const bool whole = value->is_number_integer() ||
                     (value->is_number_float() && std::trunc(value->get<double>()) == value->get<double>() &&
                      std::abs(value->get<double>()) < 9e15);
  if (!whole) wrong(key, "is not a whole number");
  const auto number = value->get<std::int64_t>();
  if (number < minimum || number > maximum)
    wrong(key, fmt::format("is {}, but goes from {} to {}", number, minimum, maximum));
  return number;
}

std::string JsonFields::text(const std::string& key, std::optional<std::string> missing) {
  const auto* value = find(key, !missing);
  if (value == nullptr) return *missing;
  if (!value->is_string()) wrong(key, "is not a text");
  return value->get<std::string>();
}

bool JsonFields::flag(const std::string& key, std::optional<bool> missing) {
  const auto* value = find(key, !missing);
  if (value == nullptr) return *missing;
  if (!value->is_boolean()) wrong(key, "is neither true nor false");
  return value->get<bool>();
}

const nlohmann::json& JsonFields::child(const std::string& key) { return *find(key, true); }

void JsonFields::refuseOthers() const {
  for (const auto& [key, value] : json_.items())
    if (!asked_.contains(key)) wrong(key, "is not a field that this version knows; a newer one may have written it");
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
  try {
    return nlohmann::json::parse(text);
  } catch (const nlohmann::json::out_of_range&) {
    throw badInput(where + " holds a number that is out of all bounds.");
  } catch (const nlohmann::json::parse_error& error) {
    throw badInput(fmt::format("{} is not JSON: something is wrong near byte {}.", where, error.byte));
  }
}

}  // namespace hscaffold
