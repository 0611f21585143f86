/// The parameters of an extraction, described once: panels, command-line flags and file fields come from here.
#pragma once

#include <map>
#include <nlohmann/json_fwd.hpp>
#include <optional>
#include <string>
#include <vector>

namespace hscaffold {

class Mended;

/// One parameter. A field with `choices` takes the index of one of them; in files and on the command line its word. A
/// field with `text` takes a text.
struct TuningField {
  std::string id;     ///< in files and flags: lower case, dashes
  std::string label;  ///< in panels: sentence case
  std::string unit;   ///< "px", "%" or empty
  double minimum = 0, maximum = 1, defaultValue = 0, step = 0.01;
  int decimals = 2;
  std::vector<std::string> choices;
  std::string help;
  /// The field means something only while each of these fields has one of its values; panels hide it otherwise.
  struct Condition {
    std::string field;
    std::vector<int> values;
  };
  std::vector<Condition> shownWhen = {};
  struct Text {
    std::size_t most = 200;  ///< characters
    std::string usual;
  };
  std::optional<Text> text = {};

  /// Whether it takes a number between `minimum` and `maximum`.
  [[nodiscard]] bool isNumber() const { return choices.empty() && !text; }
};
using TuningFields = std::vector<TuningField>;

/// A number, or the index of a choice; or a text, for fields that take one.
class TuningValue {
 public:
  TuningValue(double number = 0) : number_(number) {}
  TuningValue(std::string text) : text_(std::move(text)) {}
  [[nodiscard]] double number() const { return number_; }
  [[nodiscard]] const std::string& text() const { return text_; }
  friend bool operator==(const TuningValue&, const TuningValue&) = default;

 private:
  double number_ = 0;
  std::string text_;
};

/// Values by field id. What is not there has its default.
using Tuning = std::map<std::string, TuningValue>;

const TuningField& fieldNamed(const TuningFields& fields, const std::string& id);
/// @throws std::out_of_range if there is no such field.
double valueOf(const TuningFields& fields, const Tuning& tuning, const std::string& id);
/// The same of a field that takes a text.
const std::string& wordingOf(const TuningFields& fields, const Tuning& tuning, const std::string& id);
/// Brings a value into what its field takes.
void keepWithin(TuningValue& value, const TuningField& field);
/// All of them, spelled out.
Tuning spelledOut(const TuningFields& fields, const Tuning& tuning);

nlohmann::json tuningToJson(const TuningFields& fields, const Tuning& tuning);
/// @param where  how messages name the place, for instance "guide 2, tuning".
/// @throws Problem (badInput) for unknown fields, wrong types and values out of range; with `mended` these keep their
/// defaults or go to the nearer end.
Tuning tuningFromJson(const TuningFields& fields, const nlohmann::json& json, const std::string& where,
                      Mended* mended = nullptr);
/// Whether a field means something with this tuning.
bool isShown(const TuningFields& fields, const TuningField& field, const Tuning& tuning);
/// One value from a word, as on a command line. @throws Problem (badInput)
TuningValue tuningValueFromText(const TuningField& field, const std::string& text);

}  // namespace hscaffold
