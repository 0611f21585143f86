#include "core/pose/inks.h"

#include <fmt/format.h>

#include "core/guides/json_fields.h"

namespace hscaffold::pose {
namespace {

constexpr std::size_t mostMarks = 1000;
constexpr double widest = 0.5;

Rgb8 colourFrom(const std::string& text, const std::string& where) {
  unsigned value = 0;
  char rest = 0;
  if (text.size() != 7 || std::sscanf(text.c_str(), "#%6x%c", &value, &rest) != 1)
    throw badInput(fmt::format("{}: \"{}\" is not a colour like #7a5cff.", where, text));
  return {static_cast<std::uint8_t>(value >> 16), static_cast<std::uint8_t>(value >> 8 & 255),
          static_cast<std::uint8_t>(value & 255)};
}

std::size_t pointFrom(const nlohmann::json& json, const Skeleton& skeleton, const std::string& where) {
  if (!json.is_string()) throw badInput(where + ": a point's name is expected.");
  const auto found = skeleton.find(json.get<std::string>());
  if (!found)
    throw badInput(
        fmt::format("{}: the {} skeleton has no point \"{}\".", where, skeleton.id, json.get<std::string>()));
  return *found;
}

std::vector<std::size_t> pointsFrom(const nlohmann::json& json, const Skeleton& skeleton, const std::string& where) {
  if (!json.is_array() || json.empty()) throw badInput(where + ": a list of points is expected.");
  std::vector<std::size_t> out;
  for (const auto& entry : json) out.push_back(pointFrom(entry, skeleton, where));
  return out;
}

std::pair<double, double> pairFrom(JsonFields& fields, const std::string& key, const std::string& where) {
  const auto v = numbersFromJson(fields.child(key), where + ", \"" + key + "\"", 2);
  if (!(v[0] >= 0 && v[1] >= 0 && v[0] <= widest && v[1] <= widest))
    throw badInput(fmt::format("{}: \"{}\" goes from 0 to {}.", where, key, widest));
  return {v[0], v[1]};
}

/// Calls `read` for each entry of a list, with how messages name it.
template <typename Read>
void readList(JsonFields& fields, const std::string& key, const std::string& where, Read&& read) {
  if (!fields.has(key)) return;
  const auto& list = fields.child(key);
  if (!list.is_array() || list.size() > mostMarks)
    throw badInput(fmt::format("{}: \"{}\" is not a list of at most {}.", where, key, mostMarks));
  for (std::size_t i = 0; i < list.size(); ++i) {
    const std::string here = fmt::format("{}, {} {}", where, key, i + 1);
    JsonFields one(list[i], here);
    read(one, here);
    one.refuseOthers();
  }
}

SkeletonInks skeletonInksFrom(JsonFields& fields, const Skeleton& skeleton, const std::string& where) {
  SkeletonInks out;
  readList(fields, "strokes", where, [&](JsonFields& one, const std::string& here) {
    InkStroke stroke;
    stroke.from = pointsFrom(one.child("from"), skeleton, here);
    stroke.to = pointsFrom(one.child("to"), skeleton, here);
    std::tie(stroke.widthFrom, stroke.widthTo) = pairFrom(one, "widths", here);
    const auto& colours = one.child("colours");
    if (!colours.is_array() || colours.size() != 2 || !colours[0].is_string() || !colours[1].is_string())
      throw badInput(here + ": \"colours\" are two, for either end.");
    stroke.colourFrom = colourFrom(colours[0].get<std::string>(), here);
    stroke.colourTo = colourFrom(colours[1].get<std::string>(), here);
    out.strokes.push_back(std::move(stroke));
  });
  readList(fields, "rings", where, [&](JsonFields& one, const std::string& here) {
    out.rings.push_back({pointFrom(one.child("point"), skeleton, here), one.number("radius", 0, widest),
                         one.number("width", 0, widest), colourFrom(one.text("colour"), here)});
  });
  readList(fields, "heads", where, [&](JsonFields& one, const std::string& here) {
    InkHead head;
    head.about = pointsFrom(one.child("about"), skeleton, here);
    head.above = pointFrom(one.child("above"), skeleton, here);
    head.towards = pointFrom(one.child("towards"), skeleton, here);
    std::tie(head.across, head.along) = pairFrom(one, "size", here);
    head.width = one.number("width", 0, widest);
    head.colour = colourFrom(one.text("colour"), here);
    out.heads.push_back(std::move(head));
  });
  return out;
}

}  // namespace

Inks inksFromJson(const std::string& text, const std::string& where) {
  const auto json = parseJson(text, where);
  JsonFields fields(json, where);
  fields.integer("inks", 1, 1);
  Inks inks;
  inks.text = text;
  inks.name = fields.text("name", "Inks");
  inks.background = colourFrom(fields.text("background", "#000000"), where + ", background");
  if (fields.has("dash")) std::tie(inks.dash, inks.gap) = pairFrom(fields, "dash", where);
  const auto& list = fields.child("skeletons");
  if (!list.is_object() || list.empty()) throw badInput(where + ": \"skeletons\" names at least one.");
  for (const auto& [id, entry] : list.items()) {
    const std::string here = where + ", " + id;
    const Skeleton& skeleton = skeletonOf(id, where);
    JsonFields one(entry, here);
    inks.skeletons[id] = skeletonInksFrom(one, skeleton, here);
    one.refuseOthers();
  }
  fields.refuseOthers();
  return inks;
}

const WorkForm& inksForm() {
  static const WorkForm form = workForm<Inks>(
      "inks", "Inks", [](const Inks& inks) { return inks.text; },
      [](const std::string& text) { return inksFromJson(text, "Inks in the study"); },
      [](const Inks& inks, Size, const std::optional<Affine>&) { return inks; });
  return form;
}

const Inks& houseInks() {
  static const Inks inks = inksFromJson(std::string(poseData("house-inks.json")), "The house inks");
  return inks;
}

}  // namespace hscaffold::pose
