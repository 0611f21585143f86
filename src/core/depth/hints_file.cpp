// Hints as JSON, and as they follow their reference.
#include <array>
#include <cmath>
#include <nlohmann/json.hpp>

#include "core/depth/hints.h"
#include "core/guides/affine_json.h"
#include "core/guides/json_fields.h"

namespace hscaffold::depth {
namespace {

constexpr std::array forms = {Hint::Form::level, Hint::Form::same,  Hint::Form::front,
                              Hint::Form::ramp,  Hint::Form::plane, Hint::Form::cut};

nlohmann::json hintToJson(const Hint& hint) {
  nlohmann::json spots = nlohmann::json::array();
  for (const Spot& s : hint.spots)
    for (double place : {s.x, s.y}) {
      // Brought along by a reference that was made huge, it can be further off than readers take.
      keepWithin(place, limits::spot);
      spots.push_back(place);
    }
  nlohmann::json out = {{"form", idOf(hint.form)}, {"spots", std::move(spots)}};
  if (hint.form == Hint::Form::level || hint.form == Hint::Form::ramp) out["near"] = hint.near;
  if (hint.form == Hint::Form::ramp) out["near-end"] = hint.nearEnd;
  if (hint.form == Hint::Form::level || hint.form == Hint::Form::same || hint.form == Hint::Form::ramp)
    out["width"] = hint.width;
  return out;
}

Hint hintFromJson(const nlohmann::json& json, const std::string& where) {
  JsonFields fields(json, where);
  Hint out;
  const std::string form = fields.text("form");
  bool known = false;
  for (const auto each : forms) {
    if (form != idOf(each)) continue;
    out.form = each;
    known = true;
  }
  if (!known)
    throw badInput(where + ": there is no hint of the form \"" + form +
                   "\"; there are level, same, front, ramp, plane and cut.");
  const auto numbers = numbersFromJson(fields.child("spots"), where);
  if (numbers.size() % 2 != 0 || numbers.size() / 2 < leastSpots(out.form))
    throw badInput(where + ": \"spots\" has too few numbers for a hint of the form \"" + form + "\".");
  if (numbers.size() / 2 > mostSpots) throw badInput(where + ": \"spots\" has too many numbers.");
  for (std::size_t i = 0; i + 1 < numbers.size(); i += 2) {
    // Outside the frame is allowed, and says nothing; what no frame could hold is a mistake.
    if (std::abs(numbers[i]) > limits::spot.most || std::abs(numbers[i + 1]) > limits::spot.most)
      throw badInput(where + ": \"spots\" has a place far outside any frame.");
    out.spots.push_back({numbers[i], numbers[i + 1]});
  }
  out.near = fields.number("near", 0, 1, 0.5);
  out.nearEnd = fields.number("near-end", 0, 1, 0.5);
  out.width = fields.number("width", 0, 4096, 16.0);
  return out;
}

Hints hintsFrom(const std::string& text, const std::string& where) {
  const auto json = parseJson(text, where);
  JsonFields fields(json, where);
  Hints out;
  out.frame = workFrameFrom(fields);
  if (fields.has("placing")) out.placing = affineFromJson(fields.child("placing"), where);
  const auto& list = fields.child("hints");
  if (!list.is_array()) throw badInput(where + ": \"hints\" is not a list.");
  if (list.size() > mostHints) throw badInput(where + ": there are more hints than can be used.");
  for (std::size_t i = 0; i < list.size(); ++i)
    out.hints.push_back(hintFromJson(list[i], where + ", hint " + std::to_string(i + 1)));
  return out;
}

std::string written(const Hints& hints) {
  nlohmann::json list = nlohmann::json::array();
  for (const Hint& hint : hints.hints) list.push_back(hintToJson(hint));
  return nlohmann::json{{"width", hints.frame.width},
                        {"height", hints.frame.height},
                        {"placing", affineToJson(hints.placing)},
                        {"hints", std::move(list)}}
      .dump();
}

Hints readHints(const std::string& text) { return hintsFrom(text, "Hints of depth in the study"); }

}  // namespace

const char* idOf(Hint::Form form) {
  switch (form) {
    case Hint::Form::level:
      return "level";
    case Hint::Form::same:
      return "same";
    case Hint::Form::front:
      return "front";
    case Hint::Form::ramp:
      return "ramp";
    case Hint::Form::plane:
      return "plane";
    default:
      return "cut";
  }
}

std::size_t leastSpots(Hint::Form form) {
  switch (form) {
    case Hint::Form::level:
    case Hint::Form::same:
      return 1;
    case Hint::Form::front:
    case Hint::Form::ramp:
      return 2;
    default:
      return 3;
  }
}

Hints following(const Hints& hints, Size frame, const std::optional<Affine>& placing) {
  const Affine back = thenFromNow(hints.frame, hints.placing, frame, placing);
  Hints out = hints;
  out.frame = frame;
  out.placing = placing;
  if (frame == hints.frame && isIdentity(back)) return out;
  const Affine forth = back.inverted();
  const double scale = std::sqrt(std::abs(forth.a * forth.e - forth.b * forth.d));
  for (Hint& hint : out.hints) {
    for (Spot& s : hint.spots) s = {forth.mapX(s.x, s.y), forth.mapY(s.x, s.y)};
    hint.width *= scale;
  }
  return out;
}

const WorkForm& hintsForm() {
  static const WorkForm form = workForm<Hints>("hints", "A set of hints", written, readHints, following);
  return form;
}

Hints hintsFromText(const std::string& text, const std::string& where) { return hintsFrom(text, where); }

}  // namespace hscaffold::depth
