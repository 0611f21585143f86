// The light table as JSON, and as it follows its reference.
#include "core/tone/light_table.h"

#include <array>
#include <cmath>
#include <nlohmann/json.hpp>

#include "core/guides/affine_json.h"
#include "core/guides/json_fields.h"
#include "core/image/narrow.h"
#include "core/image/resample.h"

namespace hscaffold::light {
namespace {

constexpr std::array forms = {std::pair{Light::Form::brush, "brush"}, std::pair{Light::Form::straight, "straight"},
                              std::pair{Light::Form::round, "round"}, std::pair{Light::Form::rays, "rays"},
                              std::pair{Light::Form::flat, "flat"}};

nlohmann::json spotsToJson(const std::vector<Point>& spots) {
  nlohmann::json out = nlohmann::json::array();
  for (const Point& spot : spots)
    for (double place : {spot.x, spot.y}) {
      // Brought along by a reference that was made huge, it can be further off than readers take.
      keepWithin(place, hscaffold::limits::spot);
      out.push_back(std::round(place * 100) / 100);
    }
  return out;
}

std::vector<Point> spotsFromJson(const nlohmann::json& json, const std::string& where) {
  const auto numbers = numbersFromJson(json, where);
  if (numbers.size() % 2 != 0) throw badInput(where + ": \"spots\" is not a list of pairs.");
  if (numbers.size() / 2 > mostSpots) throw badInput(where + ": \"spots\" has too many numbers.");
  std::vector<Point> out;
  for (std::size_t i = 0; i + 1 < numbers.size(); i += 2) {
    // Outside the frame is allowed; what no frame could hold is a mistake.
    if (std::abs(numbers[i]) > hscaffold::limits::spot.most || std::abs(numbers[i + 1]) > hscaffold::limits::spot.most)
      throw badInput(where + ": \"spots\" has a place far outside any frame.");
    out.push_back({numbers[i], numbers[i + 1]});
  }
  return out;
}

nlohmann::json hueToJson(const Hue& hue) { return {{"chroma", hue.chroma}, {"angle", hue.angle}}; }

Hue hueFromJson(const nlohmann::json& json, const std::string& where) {
  JsonFields fields(json, where);
  Hue out{fields.number("chroma", limits::chroma), fields.number("angle", 0, 360)};
  fields.refuseOthers();
  return out;
}

nlohmann::json strokeToJson(const Stroke& stroke) {
  nlohmann::json out = {{"spots", spotsToJson(stroke.spots)},
                        {"width", std::clamp(stroke.width, limits::width.least, limits::width.most)},
                        {"softness", stroke.softness},
                        {"strength", stroke.strength}};
  if (stroke.away) out["away"] = true;
  return out;
}

Stroke strokeFromJson(const nlohmann::json& json, const std::string& where) {
  JsonFields fields(json, where);
  Stroke out;
  out.spots = spotsFromJson(fields.child("spots"), where);
  if (out.spots.empty()) throw badInput(where + ": it has no place.");
  out.width = fields.number("width", limits::width);
  out.softness = fields.number("softness", 0, 1, out.softness);
  out.strength = fields.number("strength", 0, 1, out.strength);
  out.away = fields.flag("away", false);
  fields.refuseOthers();
  return out;
}

nlohmann::json lightToJson(const Light& light) {
  nlohmann::json out = {{"form", idOf(light.form)}, {"light", light.light}, {"opacity", light.opacity}};
  if (!light.name.empty()) out["name"] = light.name;
  if (light.hidden) out["hidden"] = true;
  if (light.hue) out["hue"] = hueToJson(*light.hue);
  if (!light.spots.empty()) out["spots"] = spotsToJson(light.spots);
  if (light.form != Light::Form::brush && light.form != Light::Form::straight) out["softness"] = light.softness;
  if (light.form == Light::Form::straight) {
    out["end-light"] = light.endLight;
    if (light.endHue) out["end-hue"] = hueToJson(*light.endHue);
  }
  if (light.form == Light::Form::rays) {
    out["count"] = light.count;
    out["spread"] = light.spread;
    if (light.aside) out["aside"] = true;
    if (light.nearest < 1) out["nearest"] = light.nearest;
  }
  if (light.form == Light::Form::brush) {
    auto& strokes = out["strokes"] = nlohmann::json::array();
    for (const Stroke& stroke : light.strokes) strokes.push_back(strokeToJson(stroke));
  }
  return out;
}

Light lightFromJson(const nlohmann::json& json, const std::string& where) {
  JsonFields fields(json, where);
  Light out;
  const std::string form = fields.text("form");
  const auto* const known =
      std::find_if(forms.begin(), forms.end(), [&](const auto& each) { return form == each.second; });
  if (known == forms.end())
    throw badInput(where + ": there is no light of the form \"" + form +
                   "\"; there are brush, straight, round, rays and flat.");
  out.form = known->first;
  out.name = fields.text("name", std::string());
  out.hidden = fields.flag("hidden", false);
  out.opacity = fields.number("opacity", 0, 1, 1.0);
  out.light = fields.number("light", limits::light);
  if (fields.has("hue")) out.hue = hueFromJson(fields.child("hue"), where);
  if (fields.has("spots")) out.spots = spotsFromJson(fields.child("spots"), where);
  if (out.spots.size() < leastSpots(out.form))
    throw badInput(where + ": \"spots\" has too few numbers for a light of the form \"" + form + "\".");
  out.softness = fields.number("softness", 0, 1, out.softness);
  out.endLight = fields.number("end-light", limits::light, 0.0);
  if (fields.has("end-hue")) out.endHue = hueFromJson(fields.child("end-hue"), where);
  out.count = static_cast<int>(fields.integer("count", limits::rays, static_cast<std::int64_t>(limits::rays.usual)));
  out.spread = fields.number("spread", limits::spread, limits::spread.usual);
  out.aside = fields.flag("aside", false);
  out.nearest = fields.number("nearest", 0, 1, 1.0);
  if (fields.has("strokes")) {
    const auto& strokes = fields.list("strokes");
    if (strokes.size() > mostStrokes) throw badInput(where + ": there are more strokes than can be used.");
    for (std::size_t i = 0; i < strokes.size(); ++i)
      out.strokes.push_back(strokeFromJson(strokes[i], where + ", stroke " + std::to_string(i + 1)));
  }
  fields.refuseOthers();
  return out;
}

LightTable tableFrom(const std::string& text, const std::string& where) {
  const auto json = parseJson(text, where);
  JsonFields fields(json, where);
  LightTable out;
  out.frame = workFrameFrom(fields);
  if (fields.has("placing")) out.placing = affineFromJson(fields.child("placing"), where);
  if (fields.has("lights")) {
    const auto& list = fields.list("lights");
    if (list.size() > mostLights) throw badInput(where + ": there are more lights than can be used.");
    for (std::size_t i = 0; i < list.size(); ++i)
      out.lights.push_back(lightFromJson(list[i], where + ", light " + std::to_string(i + 1)));
  }
  out.tint = fields.number("tint", 0, 1, 0.0);
  if (fields.has("in-light")) out.inLight = hueFromJson(fields.child("in-light"), where);
  if (fields.has("in-shadow")) out.inShadow = hueFromJson(fields.child("in-shadow"), where);
  out.relight = fields.number("relight", 0, 1, 0.0);
  out.from = fields.number("from", -360, 360, out.from);
  out.height = fields.number("height-of-light", limits::height, out.height);
  fields.refuseOthers();
  return out;
}

std::string written(const LightTable& table) {
  nlohmann::json list = nlohmann::json::array();
  for (const Light& light : table.lights) list.push_back(lightToJson(light));
  return nlohmann::json{{"width", table.frame.width},
                        {"height", table.frame.height},
                        {"placing", affineToJson(table.placing)},
                        {"lights", std::move(list)},
                        {"tint", table.tint},
                        {"in-light", hueToJson(table.inLight)},
                        {"in-shadow", hueToJson(table.inShadow)},
                        {"relight", table.relight},
                        {"from", table.from},
                        {"height-of-light", table.height}}
      .dump();
}

LightTable readTable(const std::string& text) { return tableFrom(text, "A light table in the study"); }

std::string writtenRelief(const Relief& relief) { return nearnessToText(relief); }
Relief readRelief(const std::string& text) { return nearnessFromText(text, "A relief in the study"); }
Relief reliefInFrame(const Relief& relief, Size frame, const std::optional<Affine>& placing) {
  return hscaffold::following(relief, frame, placing);
}

}  // namespace

const char* idOf(Light::Form form) {
  const auto* const known =
      std::find_if(forms.begin(), forms.end(), [&](const auto& each) { return form == each.first; });
  return known->second;
}

std::size_t leastSpots(Light::Form form) {
  switch (form) {
    case Light::Form::brush:
      return 0;
    case Light::Form::flat:
      return 3;
    default:
      return 2;
  }
}

LightTable following(const LightTable& table, Size frame, const std::optional<Affine>& placing) {
  LightTable out = table;
  out.frame = frame;
  out.placing = placing;
  const Affine back = thenFromNow(table.frame, table.placing, frame, placing);
  if (frame == table.frame && isIdentity(back)) return out;
  const Affine forth = back.inverted();
  const double scale = std::sqrt(std::abs(forth.a * forth.e - forth.b * forth.d));
  const auto bring = [&](std::vector<Point>& spots) {
    for (Point& spot : spots) spot = {forth.mapX(spot.x, spot.y), forth.mapY(spot.x, spot.y)};
  };
  for (Light& light : out.lights) {
    bring(light.spots);
    for (Stroke& stroke : light.strokes) {
      bring(stroke.spots);
      stroke.width = std::clamp(stroke.width * scale, limits::width.least, limits::width.most);
    }
  }
  return out;
}

const WorkForm& lightForm() {
  static const WorkForm form = workForm<LightTable>("light", "A light table", written, readTable, following);
  return form;
}

const WorkForm& reliefForm() {
  static const WorkForm form = workForm<Relief>("relief", "A relief", writtenRelief, readRelief, reliefInFrame);
  return form;
}

LightTable tableFromText(const std::string& text, const std::string& where) { return tableFrom(text, where); }

Relief reliefFrom(View<std::uint16_t> near, const GuidePlace& place, const std::string& name) {
  return {place.frame, place.placing, name,
          nearAtSize(resampled(widened(near).view(), within(near.size(), Relief::mostSide), Resampling::area).view(),
                     within(near.size(), Relief::mostSide))};
}

}  // namespace hscaffold::light
