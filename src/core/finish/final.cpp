#include "core/finish/final.h"

#include <fmt/format.h>

#include <array>

#include "core/brief/recipe.h"
#include "core/guides/json_fields.h"
#include "core/text.h"

namespace hscaffold {
namespace {

constexpr std::array<const char*, 3> startNames = {"below", "colours", "noise"};
constexpr double mostMilliseconds = 1e12, mostEnergy = 1e9;

nlohmann::json touchUpToJson(const TouchUp& touchUp) {
  nlohmann::json json{{"id", touchUp.id},
                      {"name", touchUp.name},
                      {"on", touchUp.on},
                      {"region", regionToJson(touchUp.region)},
                      {"feather", touchUp.feather},
                      {"words", touchUp.words},
                      {"with-brief", touchUp.withBrief},
                      {"start", startNames[static_cast<std::size_t>(touchUp.start)]},
                      {"change", touchUp.change},
                      {"rim", touchUp.rim},
                      {"used", touchUp.used}};
  if (touchUp.detail) json["detail"] = *touchUp.detail;
  for (const auto& [id, guide] : touchUp.guides) json["guides"][id] = {{"on", guide.on}, {"weight", guide.weight}};
  json["tries"] = nlohmann::json::array();
  for (const TouchTry& one : touchUp.tries)
    json["tries"].push_back({{"picture", one.picture},
                             {"box", {one.box.left, one.box.top, one.box.right, one.box.bottom}},
                             {"seed", one.seed},
                             {"change", one.change},
                             {"milliseconds", one.milliseconds},
                             {"words", one.words}});
  return json;
}

TouchTry tryFromJson(const nlohmann::json& json, const std::string& where, Mended* mended) {
  JsonFields fields(json, where, mended);
  TouchTry out;
  out.picture = fields.text("picture");
  const auto box = numbersFromJson(fields.child("box"), where + ", box", 4);
  for (const double at : box)
    if (at < 0 || at > limits::side.most) throw badInput(where + ": its box lies outside of any picture.");
  out.box = {static_cast<int>(box[0]), static_cast<int>(box[1]), static_cast<int>(box[2]), static_cast<int>(box[3])};
  if (out.box.empty() || out.picture.empty()) throw badInput(where + ": has no picture or no place.");
  out.seed = static_cast<std::uint32_t>(fields.integer("seed", limits::seed, 0));
  out.change = fields.number("change", limits::touchChange, limits::touchChange.usual);
  out.milliseconds = fields.number("milliseconds", 0, mostMilliseconds, 0.0);
  out.words = fittedText(fields.text("words", ""), longestPrompt);
  return out;
}

TouchUp touchUpFromJson(const nlohmann::json& json, const std::string& where, Mended* mended) {
  JsonFields fields(json, where, mended);
  TouchUp out;
  out.id = fields.text("id");
  out.name = fittedText(fields.text("name", ""), longestName);
  out.on = fields.flag("on", true);
  readOrLeaveOut(mended, [&] { out.region = regionFromJson(fields.child("region"), where + ", region", mended); });
  out.feather = fields.number("feather", limits::touchFeather, limits::touchFeather.usual);
  out.words = fittedText(fields.text("words", ""), longestPrompt);
  out.withBrief = fields.flag("with-brief", true);
  const std::string start = fields.text("start", startNames.front());
  const auto found = std::find(startNames.begin(), startNames.end(), start);
  if (found != startNames.end())
    out.start = static_cast<TouchStart>(found - startNames.begin());
  else
    fields.wrong("start", "is \"" + start + "\", which is no way to begin", "It was set to below.");
  out.change = fields.number("change", limits::touchChange, limits::touchChange.usual);
  if (fields.has("detail")) out.detail = fields.number("detail", limits::touchDetail, limits::touchDetail.usual);
  out.rim = fields.number("rim", limits::touchRim, limits::touchRim.usual);
  if (fields.has("guides"))
    for (const auto& [id, one] : fields.child("guides").items())
      readOrLeaveOut(mended, [&, &id = id, &one = one] {
        JsonFields guide(one, where + ", guide " + id, mended);
        out.guides[id] = {guide.flag("on", true), guide.number("weight", limits::weight, limits::weight.usual)};
      });
  std::size_t number = 0;
  if (fields.has("tries"))
    for (const auto& one : fields.list("tries"))
      readOrLeaveOut(mended, [&, at = fmt::format("{}, try {}", where, ++number)] {
        out.tries.push_back(tryFromJson(one, at, mended));
      });
  out.used = static_cast<int>(fields.integer("used", -1, static_cast<std::int64_t>(mostTries), -1));
  if (out.used >= std::ssize(out.tries)) out.used = -1;
  return out;
}

nlohmann::json holdsToJson(const std::map<std::string, double>& holds) {
  auto json = nlohmann::json::object();
  for (const auto& [id, hold] : holds) json[id] = hold;
  return json;
}

std::map<std::string, double> holdsFromJson(const nlohmann::json& json, const std::string& where, Mended* mended) {
  JsonFields fields(json, where, mended);
  std::map<std::string, double> holds;
  for (const auto& [id, hold] : json.items()) holds[id] = fields.number(id, limits::hold, 0.0);
  return holds;
}

}  // namespace

const TouchUp* Final::touchUp(const std::string& wanted) const {
  const auto found = std::find_if(touchUps.begin(), touchUps.end(), [&](const TouchUp& t) { return t.id == wanted; });
  return found != touchUps.end() ? &*found : nullptr;
}

TouchUp* Final::touchUp(const std::string& wanted) {
  const auto found = std::find_if(touchUps.begin(), touchUps.end(), [&](const TouchUp& t) { return t.id == wanted; });
  return found != touchUps.end() ? &*found : nullptr;
}

std::set<std::string> Final::pictures() const {
  std::set<std::string> all(tiles.begin(), tiles.end());
  if (!picture.empty()) all.insert(picture);
  for (const TouchUp& touchUp : touchUps)
    for (const TouchTry& one : touchUp.tries) all.insert(one.picture);
  return all;
}

void keepWithinLimits(Final& final) {
  final.name = fittedText(final.name, longestName);
  keepWithin(final.size.width, limits::side);
  keepWithin(final.size.height, limits::side);
  keepWithin(final.change, limits::finalChange);
  if (final.touchUps.size() > mostTouchUps) final.touchUps.resize(mostTouchUps);
  for (TouchUp& touchUp : final.touchUps) {
    touchUp.name = fittedText(touchUp.name, longestName);
    touchUp.words = fittedText(touchUp.words, longestPrompt);
    keepWithin(touchUp.feather, limits::touchFeather);
    keepWithin(touchUp.change, limits::touchChange);
    keepWithin(touchUp.rim, limits::touchRim);
    if (touchUp.detail) keepWithin(*touchUp.detail, limits::touchDetail);
    for (auto& [id, guide] : touchUp.guides) keepWithin(guide.weight, limits::weight);
    keepWithinLimits(touchUp.region);
    if (touchUp.used >= std::ssize(touchUp.tries)) touchUp.used = -1;
  }
}

nlohmann::json finalToJson(const Final& final) {
  nlohmann::json json = objectWith(final.extra);
  json["id"] = final.id;
  json["name"] = final.name;
  json["proof"] = final.proof;
  json["size"] = sizeToJson(final.size);
  json["change"] = final.change;
  if (final.enlarged) json["enlarged"] = true;
  if (!final.engine.empty()) json["engine"] = final.engine;
  if (!final.picture.empty()) json["picture"] = final.picture;
  if (!final.tiles.empty()) json["tiles"] = final.tiles;
  json["columns"] = final.columns;
  json["rows"] = final.rows;
  json["milliseconds"] = final.milliseconds;
  if (final.joins > 0) json["joins"] = {{"energy", final.joins}, {"worst", final.worstJoin}};
  if (!final.holds.empty()) json["holds"] = holdsToJson(final.holds);
  if (!final.held.empty()) json["held"] = holdsToJson(final.held);
  json["touch-ups"] = nlohmann::json::array();
  for (const TouchUp& touchUp : final.touchUps) json["touch-ups"].push_back(touchUpToJson(touchUp));
  return json;
}

Final finalFromJson(const nlohmann::json& json, const std::string& where, Mended* mended) {
  JsonFields fields(json, where, mended);
  Final out;
  out.id = fields.text("id");
  out.name = fittedText(fields.text("name", ""), longestName);
  out.proof = fields.integer("proof", 0, std::int64_t{1} << 53, 0);
  out.size = frameFromJson(fields.child("size"), where + ", size", mended);
  out.change = fields.number("change", limits::finalChange, limits::finalChange.usual);
  out.enlarged = fields.flag("enlarged", false);
  out.engine = fields.text("engine", "");
  out.picture = fields.text("picture", "");
  constexpr int mostTiles = 4096;
  if (fields.has("tiles"))
    for (const auto& tile : fields.list("tiles"))
      if (tile.is_string() && out.tiles.size() < mostTiles) out.tiles.push_back(tile.get<std::string>());
  out.columns = static_cast<int>(fields.integer("columns", 1, mostTiles, 1));
  out.rows = static_cast<int>(fields.integer("rows", 1, mostTiles, 1));
  out.milliseconds = fields.number("milliseconds", 0, mostMilliseconds, 0.0);
  if (fields.has("joins")) {
    JsonFields joins(fields.child("joins"), where + ", joins", mended);
    out.joins = joins.number("energy", 0, mostEnergy, 0.0);
    out.worstJoin = joins.number("worst", 0, mostEnergy, 0.0);
  }
  if (fields.has("holds")) out.holds = holdsFromJson(fields.child("holds"), where + ", holds", mended);
  if (fields.has("held")) out.held = holdsFromJson(fields.child("held"), where + ", held", mended);
  std::size_t number = 0;
  if (fields.has("touch-ups"))
    for (const auto& one : fields.list("touch-ups"))
      readOrLeaveOut(mended, [&, at = fmt::format("{}, touch-up {}", where, ++number)] {
        TouchUp touchUp = touchUpFromJson(one, at, mended);
        if (out.touchUp(touchUp.id) != nullptr) throw badInput(at + ": \"" + touchUp.id + "\" is there twice.");
        out.touchUps.push_back(std::move(touchUp));
      });
  out.extra = fields.othersAsText();
  return out;
}

}  // namespace hscaffold
