#include "core/brief/recipe.h"

#include <fmt/format.h>

#include <array>

#include "core/frame/frame.h"
#include "core/guides/json_fields.h"
#include "core/kinds.h"
#include "core/text.h"

namespace hscaffold {
namespace {

constexpr std::array<const char*, 4> fitNames = {"cover", "contain", "stretch", "free"};
constexpr std::array<const char*, 4> fillNames = {"edge", "mirror", "blur", "colour"};

template <typename Enum>
Enum oneOf(const std::array<const char*, 4>& names, const std::string& word, const std::string& where) {
  for (std::size_t i = 0; i < names.size(); ++i)
    if (word == names[i]) return static_cast<Enum>(i);
  throw badInput(fmt::format("{}: \"{}\" is not one of {}.", where, word, fmt::join(names, ", ")));
}

nlohmann::json recipeGuideToJson(const RecipeGuide& entry) {
  auto json = guideToJson(entry.guide);
  json.erase("on");
  if (!entry.mapDigest.empty()) json["map-digest"] = entry.mapDigest;
  if (!entry.mapFile.empty()) json["map"] = entry.mapFile;
  return json;
}

RecipeGuide recipeGuideFromJson(nlohmann::json json, const std::string& where) {
  RecipeGuide entry;
  JsonFields fields(json, where);
  entry.mapDigest = fields.text("map-digest", "");
  entry.mapFile = fields.text("map", "");
  json.erase("map-digest");
  json.erase("map");
  entry.guide = guideFromJson(json, where, false);
  entry.guide.on = true;
  return entry;
}

/// @param keepUnknown  carry slots along that the kind does not have in this version, rather than refuse them.
WorkNames workFromJson(const Kind& kind, const nlohmann::json& json, const std::string& where, bool keepUnknown) {
  JsonFields fields(json, where);
  WorkNames work;
  for (const auto& [slot, name] : json.items()) {
    if (keepUnknown || slot == retouchSlot || slot == regionSlot || kind.hasSlot(slot))
      work.put(slot, fields.text(slot));
  }
  fields.refuseOthers();
  return work;
}

}  // namespace

nlohmann::json sizeToJson(Size size) { return {{"width", size.width}, {"height", size.height}}; }

Size frameFromJson(const nlohmann::json& json, const std::string& where) {
  JsonFields fields(json, where);
  const Size size{static_cast<int>(fields.integer("width", smallestSide, largestSide)),
                  static_cast<int>(fields.integer("height", smallestSide, largestSide))};
  fields.refuseOthers();
  return size;
}

nlohmann::json colourToJson(const Rgb& colour) { return {colour.r, colour.g, colour.b}; }

Rgb colourFromJson(const nlohmann::json& json, const std::string& where) {
  const auto numbers = numbersFromJson(json, where, 3);
  return {static_cast<float>(numbers[0]), static_cast<float>(numbers[1]), static_cast<float>(numbers[2])};
}

nlohmann::json placementToJson(const Placement& p) {
  return {{"fit", fitNames[static_cast<std::size_t>(p.fit)]},
          {"x", p.x},
          {"y", p.y},
          {"scale-x", p.scaleX},
          {"scale-y", p.scaleY},
          {"turn", p.turn},
          {"flip-across", p.flipAcross},
          {"flip-down", p.flipDown},
          {"fill", fillNames[static_cast<std::size_t>(p.fill)]},
          {"fill-colour", colourToJson(p.fillColour)}};
}

Placement placementFromJson(const nlohmann::json& json, const std::string& where) {
  JsonFields fields(json, where);
  Placement p;
  p.fit = oneOf<Fit>(fitNames, fields.text("fit", "cover"), where);
  p.x = fields.number("x", -100, 100, 0.5);
  p.y = fields.number("y", -100, 100, 0.5);
  p.scaleX = fields.number("scale-x", 1e-4, 1e4, 1.0);
  p.scaleY = fields.number("scale-y", 1e-4, 1e4, 1.0);
  p.turn = fields.number("turn", -3600, 3600, 0.0);
  p.flipAcross = fields.flag("flip-across", false);
  p.flipDown = fields.flag("flip-down", false);
  p.fill = oneOf<Fill>(fillNames, fields.text("fill", "edge"), where);
  if (fields.has("fill-colour")) {
    p.fillColour = colourFromJson(fields.child("fill-colour"), where + ", fill-colour");
  }
  fields.refuseOthers();
  return p;
}

nlohmann::json guideToJson(const Guide& guide) {
  nlohmann::json json = objectWith(guide.extra);
  json["id"] = guide.id;
  json["kind"] = guide.kind;
  json["name"] = guide.name;
  json["reference"] = guide.reference;
  json["on"] = guide.on;
  json["weight"] = guide.weight;
  json["range"] = rangeToJson(guide.range);
  json["tuning"] = tuningToJson(*kindOf(guide.kind).fields, guide.tuning);
  for (const auto& [slot, name] : guide.work.all()) json["work"][slot] = name;
  if (guide.retouchHidden) json["retouch-hidden"] = true;
  if (!guide.words.empty()) json["words"] = guide.words;
  if (guide.region != Region{})
    json["region"] = {{"inverted", guide.region.inverted}, {"feather", guide.region.feather}};
  return json;
}

Guide guideFromJson(const nlohmann::json& json, const std::string& where, bool keepUnknown) {
  JsonFields fields(json, where);
  Guide guide;
  guide.id = fields.text("id", "");
  guide.kind = fields.text("kind");
  guide.name = fields.text("name", "");
  guide.reference = fields.text("reference", "");
  guide.on = fields.flag("on", true);
  guide.weight = fields.number("weight", 0, largestWeight);
  guide.range = rangeFromJson(fields.child("range"), where + ", range");
  if (fields.has("tuning"))
    guide.tuning = tuningFromJson(*kindOf(guide.kind).fields, fields.child("tuning"), where + ", tuning");
  else
    kindOf(guide.kind);
  if (fields.has("work"))
    guide.work = workFromJson(kindOf(guide.kind), fields.child("work"), where + ", work", keepUnknown);
  // As version 1 had it: one field a slot.
  for (const char* slot : {"retouch", "drawing", "figures", "inks"})
    if (auto name = fields.text(slot, ""); !name.empty()) guide.work.put(slot, std::move(name));
  guide.retouchHidden = fields.flag("retouch-hidden", false);
  guide.words = fields.text("words", "");
  if (fields.has("region")) {
    JsonFields region(fields.child("region"), where + ", region");
    if (auto mask = region.text("mask", ""); !mask.empty()) guide.work.put(regionSlot, std::move(mask));
    guide.region.inverted = region.flag("inverted", false);
    guide.region.feather = region.number("feather", 0, largestFeather, 0.0);
    region.refuseOthers();
  }
  if (keepUnknown)
    guide.extra = fields.othersAsText();
  else
    fields.refuseOthers();
  return guide;
}

bool boundsChange(const Guide& guide, const StartPicture& start) {
  return start.wordsToWords() && guide.on && guide.limited() &&
         (holdsPhrase(start.shows, guide.name) || holdsPhrase(start.wanted, guide.name));
}

void renameReference(Recipe& recipe, std::string from, const std::string& to) {
  if (from == to) return;
  for (RecipeReference& reference : recipe.references)
    if (reference.id == from) reference.id = to;
  for (RecipeGuide& entry : recipe.guides)
    if (entry.guide.reference == from) entry.guide.reference = to;
  StartPicture& start = recipe.brief.start;
  if (start.from == StartPicture::From::reference && start.reference == from) {
    if (to.empty())
      start = {};
    else
      start.reference = to;
  }
}

nlohmann::json recipeToJson(const Recipe& recipe) {
  auto brief = briefToJson(recipe.brief);
  brief.erase("seed-locked");
  nlohmann::json json = {{"recipe", recipeVersion}, {"frame", sizeToJson(recipe.frame)}, {"brief", brief}};
  if (!recipe.engine.empty()) json["engine"] = recipe.engine;
  json["references"] = nlohmann::json::array();
  for (const auto& reference : recipe.references)
    json["references"].push_back(
        {{"id", reference.id}, {"name", reference.name}, {"placement", placementToJson(reference.placement)}});
  json["guides"] = nlohmann::json::array();
  for (const auto& guide : recipe.guides) json["guides"].push_back(recipeGuideToJson(guide));
  return json;
}

Recipe recipeFromJson(const nlohmann::json& json) {
  JsonFields fields(json, "The recipe");
  const auto version = fields.integer("recipe", 1, 1'000'000);
  if (version > recipeVersion)
    throw badInput(
        fmt::format("The recipe is of version {}, but this program knows versions up to {}.", version, recipeVersion));
  Recipe recipe;
  recipe.engine = fields.text("engine", "");
  recipe.frame = frameFromJson(fields.child("frame"), "The recipe, frame");
  recipe.brief = briefFromJson(fields.child("brief"), "The recipe, brief", false);
  if (fields.has("references")) {
    const auto& references = fields.child("references");
    if (!references.is_array()) throw badInput("The recipe: \"references\" is not a list.");
    for (std::size_t i = 0; i < references.size(); ++i) {
      const std::string where = fmt::format("The recipe, reference {}", i + 1);
      JsonFields entry(references[i], where);
      recipe.references.push_back({entry.text("id"), entry.text("name", ""),
                                   placementFromJson(entry.child("placement"), where + ", placement")});
      entry.refuseOthers();
    }
  }
  const auto& guides = fields.child("guides");
  if (!guides.is_array()) throw badInput("The recipe: \"guides\" is not a list.");
  for (std::size_t i = 0; i < guides.size(); ++i)
    recipe.guides.push_back(recipeGuideFromJson(guides[i], fmt::format("The recipe, guide {}", i + 1)));
  fields.refuseOthers();
  return recipe;
}

Recipe recipeFromTexts(const PngTexts& texts) {
  const auto found = texts.find(recipeKeyword);
  if (found == texts.end()) throw badInput("The picture carries no recipe.");
  return recipeFromJson(parseJson(found->second, "The recipe in the picture"));
}

PngTexts textsFor(const Recipe& recipe) {
  return {{recipeKeyword, recipeToJson(recipe).dump()}, {"Software", "Humble Scaffold"}};
}

}  // namespace hscaffold
