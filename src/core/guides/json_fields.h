/// Reads the fields of one JSON object with checks, and says plainly what is wrong with them.
#pragma once

#include <cstdint>
#include <nlohmann/json.hpp>
#include <optional>
#include <set>
#include <string>
#include <vector>

#include "core/problem.h"

namespace hscaffold {

class JsonFields {
 public:
  /// @param where  how messages name the object. @throws Problem (badInput) if `json` is not an object.
  JsonFields(const nlohmann::json& json, std::string where);

  /// Each throws Problem (badInput) if the field is missing without a default, of the wrong type or out of range.
  double number(const std::string& key, double minimum, double maximum, std::optional<double> missing = {});
  std::int64_t integer(const std::string& key, std::int64_t minimum, std::int64_t maximum,
                       std::optional<std::int64_t> missing = {});
  std::string text(const std::string& key, std::optional<std::string> missing = {});
  bool flag(const std::string& key, std::optional<bool> missing = {});
  /// The value as it is; throws only if missing.
  const nlohmann::json& child(const std::string& key);
  [[nodiscard]] bool has(const std::string& key) const { return json_.contains(key); }

  /// @throws Problem (badInput) naming the first field that nobody asked for.
  void refuseOthers() const;
  /// The fields that nobody asked for, to be carried along.
  [[nodiscard]] nlohmann::json others() const;
  /// The same as text; empty if there are none.
  [[nodiscard]] std::string othersAsText() const;

 private:
  [[noreturn]] void wrong(const std::string& key, const std::string& what) const;
  const nlohmann::json* find(const std::string& key, bool required);

  const nlohmann::json& json_;
  std::string where_;
  std::set<std::string> asked_;
};

/// An object to be filled, with the fields that `othersAsText` carried along.
nlohmann::json objectWith(const std::string& carried);

/// A list of numbers; of `count` where that is given. @throws Problem (badInput)
std::vector<double> numbersFromJson(const nlohmann::json& json, const std::string& where,
                                    std::optional<std::size_t> count = {});

/// @throws Problem (badInput) with the place of the first mistake.
nlohmann::json parseJson(const std::string& text, const std::string& where);

}  // namespace hscaffold
