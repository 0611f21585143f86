/// Reads the fields of one JSON object with checks, and says plainly what is wrong with them.
#pragma once

#include <cstdint>
#include <nlohmann/json.hpp>
#include <optional>
#include <set>
#include <string>
#include <vector>

#include "core/limits.h"
#include "core/problem.h"

namespace hscaffold {

/// What was mended or left out while reading, one sentence each. Readers that are given one go on where something is
/// wrong: a value is brought into its limits or to its usual one, an entry of a list is left out. Readers without one
/// throw.
class Mended {
 public:
  void say(std::string sentence) {
    if (sentences_.size() < most) sentences_.push_back(std::move(sentence));
  }
  [[nodiscard]] const std::vector<std::string>& sentences() const { return sentences_; }

 private:
  static constexpr std::size_t most = 1000;
  std::vector<std::string> sentences_;
};

class JsonFields {
 public:
  /// @param where  how messages name the object. @throws Problem (badInput) if `json` is not an object.
  JsonFields(const nlohmann::json& json, std::string where, Mended* mended = nullptr);

  /// Each throws Problem (badInput) if the field is missing without a default, of the wrong type or out of range; or
  /// mends that: what is out of range goes to the nearer end, everything else to the default.
  double number(const std::string& key, const Limits& limits, std::optional<double> missing = {});
  double number(const std::string& key, double minimum, double maximum, std::optional<double> missing = {});
  std::int64_t integer(const std::string& key, std::int64_t minimum, std::int64_t maximum,
                       std::optional<std::int64_t> missing = {});
  std::int64_t integer(const std::string& key, const Limits& limits, std::optional<std::int64_t> missing = {});
  std::string text(const std::string& key, std::optional<std::string> missing = {});
  bool flag(const std::string& key, std::optional<bool> missing = {});
  /// The value as it is; throws only if missing.
  const nlohmann::json& child(const std::string& key);
  /// A list; not there or no list: empty, where that is mended. @throws Problem (badInput)
  const nlohmann::json& list(const std::string& key);
  [[nodiscard]] bool has(const std::string& key) const { return json_.contains(key); }

  /// @throws Problem (badInput) naming the first field that nobody asked for; or leaves them all out.
  void refuseOthers() const;
  /// The fields that nobody asked for, to be carried along.
  [[nodiscard]] nlohmann::json others() const;
  /// The same as text; empty if there are none.
  [[nodiscard]] std::string othersAsText() const;

  /// Says what is wrong: throws it, or mends it and says what was done.
  void wrong(const std::string& key, const std::string& what, const std::string& done) const;

 private:
  const nlohmann::json* find(const std::string& key, bool required);
  std::int64_t wholeNumber(const std::string& key, std::int64_t minimum, std::int64_t maximum, std::int64_t usual,
                           bool required);

  const nlohmann::json& json_;
  std::string where_;
  Mended* mended_;
  std::set<std::string> asked_;
};

/// Reads one part by `read`. Where that throws a Problem and things are mended, the part is left out and that is said.
/// @return whether it was read
template <typename Read>
bool readOrLeaveOut(Mended* mended, const Read& read) {
  if (mended == nullptr) {
    read();
    return true;
  }
  try {
    read();
    return true;
  } catch (const Problem& problem) {
    mended->say(std::string(problem.what()) + " It was left out.");
    return false;
  }
}

/// An object to be filled, with the fields that `othersAsText` carried along.
nlohmann::json objectWith(const std::string& carried);

/// A list of numbers; of `count` where that is given. @throws Problem (badInput)
std::vector<double> numbersFromJson(const nlohmann::json& json, const std::string& where,
                                    std::optional<std::size_t> count = {});

/// @throws Problem (badInput) with the place of the first mistake, or if lists and objects lie in each other deeper
/// than `deepestJson`.
nlohmann::json parseJson(const std::string& text, const std::string& where);
/// Nothing that this program reads or writes comes near it; what reads and writes JSON calls itself once a level.
inline constexpr int deepestJson = 200;

}  // namespace hscaffold
