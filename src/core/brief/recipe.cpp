#include "core/brief/recipe.h"

#include <fmt/format.h>

#include <array>

#include "core/frame/frame.h"
#include "core/guides/affine_json.h"
#include "core/guides/fastening_keys.h"
#include "core/guides/json_fields.h"
#include "core/kinds.h"
#include "core/text.h"

namespace hscaffold {
namespace {

constexpr std::array<const char*, 4> fitNames = {"cover", "contain", "stretch", "free"};
constexpr std::array<const char*, 4> fillNames = {"edge", "mirror", "blur", "colour"};

template <typename Enum>
Enum oneOf(const std::array<const char*, 4>& names, JsonFields& fields, const std::string& key) {
  const std::string word = fields.text(key, names.front());
  for (std::size_t i = 0; i < names.size(); ++i)
    if (word == names[i]) return static_cast<Enum>(i);
  fields.wrong(key, fmt::format("is \"{}\", which is not one of {}", word, fmt::join(names, ", ")),
               fmt::format("It was set to {}.", names.front()));
  return static_cast<Enum>(0);
}

nlohmann::json recipeGuideToJson(const RecipeGuide& entry) {
  auto json = guideToJson(entry.guide);
  json.erase("on");
  if (!entry.called.empty()) json["called"] = entry.called;
  if (!entry.mapDigest.empty()) json["map-digest"] = entry.mapDigest;
  if (!entry.mapFile.empty()) json["map"] = entry.mapFile;
  if (!entry.valuesFile.empty()) json["map-values"] = entry.valuesFile;
  if (!entry.regionFile.empty()) json["region-map"] = entry.regionFile;
  for (const auto& [slot, file] : entry.workFiles) json["work-files"][slot] = file;
  return json;
}

/// @param keepUnknown  carry slots along that the kind does not have in this version, rather than refuse them.
WorkNames workFromJson(const Kind& kind, const nlohmann::json& json, const std::string& where, bool keepUnknown,
                       Mended* mended) {
  JsonFields fields(json, where, mended);
  WorkNames work;
  for (const auto& [slot, name] : json.items()) {
    if (keepUnknown || slot == retouchSlot || slot == regionSlot || kind.hasSlot(slot))
      work.put(slot, fields.text(slot));
  }
  fields.refuseOthers();
  return work;
}

RecipePart partFromJson(const nlohmann::json& json, const std::string& where, Mended* mended) {
  JsonFields fields(json, where, mended);
  RecipePart part;
  part.whole = frameFromJson(fields.child("whole"), where + ", whole", mended);
  const auto box = numbersFromJson(fields.child("box"), where + ", box", 4);
  const auto at = [&](std::size_t i) { return static_cast<int>(std::clamp(box[i], 0.0, limits::side.most)); };
  part.box = {at(0), at(1), at(2), at(3)};
  if (part.box.empty() || part.box != cut(part.box, part.whole)) throw badInput(where + ": does not lie in its whole.");
  fields.refuseOthers();
  return part;
}

}  // namespace

nlohmann::json sizeToJson(Size size) { return {{"width", size.width}, {"height", size.height}}; }

Size frameFromJson(const nlohmann::json& json, const std::string& where, Mended* mended) {
  JsonFields fields(json, where, mended);
  const Size size{static_cast<int>(fields.integer("width", limits::side)),
                  static_cast<int>(fields.integer("height", limits::side))};
  fields.refuseOthers();
  return size;
}

nlohmann::json colourToJson(const Rgb& colour) { return {colour.r, colour.g, colour.b}; }

Rgb colourFromJson(const nlohmann::json& json, const std::string& where) {
  const auto numbers = numbersFromJson(json, where, 3);
  Rgb colour{static_cast<float>(numbers[0]), static_cast<float>(numbers[1]), static_cast<float>(numbers[2])};
  for (float* channel : {&colour.r, &colour.g, &colour.b}) keepWithin(*channel, limits::channel);
  return colour;
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

Placement placementFromJson(const nlohmann::json& json, const std::string& where, Mended* mended) {
  JsonFields fields(json, where, mended);
  Placement p;
  p.fit = oneOf<Fit>(fitNames, fields, "fit");
  p.x = fields.number("x", limits::centre, limits::centre.usual);
  p.y = fields.number("y", limits::centre, limits::centre.usual);
  p.scaleX = fields.number("scale-x", limits::scale, limits::scale.usual);
  p.scaleY = fields.number("scale-y", limits::scale, limits::scale.usual);
  p.turn = fields.number("turn", limits::turn, limits::turn.usual);
  p.flipAcross = fields.flag("flip-across", false);
  p.flipDown = fields.flag("flip-down", false);
  p.fill = oneOf<Fill>(fillNames, fields, "fill");
  if (fields.has("fill-colour"))
    readOrLeaveOut(mended,
                   [&] { p.fillColour = colourFromJson(fields.child("fill-colour"), where + ", fill-colour"); });
  fields.refuseOthers();
  return p;
}

namespace {

nlohmann::json stageLinkToJson(const StageLink& link) {
  nlohmann::json json = {{"map", link.map}, {"frozen", link.frozen}, {"made", link.made}, {"piece", link.piece}};
  const Fastening& to = link.fastened;
  if (to.thing.empty()) return json;
  json["fastened"] = {{"thing", to.thing}, {"placed", affineToJson(to.placed)}};
  if (!to.joint.empty()) json["fastened"]["joint"] = to.joint;
  for (const auto& [slot, piece] : to.pieces)
    json["fastened"]["pieces"][slot] = {
        {"drawn", piece.drawn}, {"placed", affineToJson(piece.placed)}, {"laid", piece.laid}};
  return json;
}

Affine placedFromJson(JsonFields& fields, const std::string& where) {
  const auto placed = affineFromJson(fields.child("placed"), where + ", placed");
  if (!placed) throw badInput(where + " does not say where its thing was seen.");
  return *placed;
}

Fastening fasteningFromJson(const nlohmann::json& json, const std::string& where, Mended* mended) {
  JsonFields fields(json, where, mended);
  Fastening out;
  out.thing = fittedText(fields.text("thing"), longestName);
  out.joint = fittedText(fields.text("joint", ""), longestName);
  out.placed = placedFromJson(fields, where);
  if (fields.has("pieces")) {
    JsonFields pieces(fields.child("pieces"), where + ", pieces", mended);
    const auto read = [&](const std::string& key) {
      if (!pieces.has(key)) return;
      const std::string of = where + ", " + key;
      JsonFields piece(pieces.child(key), of, mended);
      out.pieces[key] = {fittedText(piece.text("drawn"), longestName), placedFromJson(piece, of),
                         fittedText(piece.text("laid"), longestName)};
      piece.refuseOthers();
    };
    for (const std::string slot : {retouchSlot, regionSlot}) {
      read(slot);
      for (int number = 1; number <= mostOlderPieces; ++number) read(olderPieceKey(slot, number));
    }
    pieces.refuseOthers();
  }
  fields.refuseOthers();
  return out;
}

StageLink stageLinkFromJson(const nlohmann::json& json, const std::string& where, Mended* mended) {
  JsonFields link(json, where, mended);
  StageLink made;
  made.map = fittedText(link.text("map", ""), longestName);
  made.frozen = link.flag("frozen", false);
  made.made = fittedText(link.text("made", ""), longestName);
  made.piece = fittedText(link.text("piece", ""), longestName);
  if (link.has("fastened"))
    readOrLeaveOut(mended,
                   [&] { made.fastened = fasteningFromJson(link.child("fastened"), where + ", fastened", mended); });
  link.refuseOthers();
  return made;
}

}  // namespace

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
  if (!guide.stage.map.empty()) json["stage"] = stageLinkToJson(guide.stage);
  if (guide.region != Region{})
    json["region"] = {{"inverted", guide.region.inverted}, {"feather", guide.region.feather}};
  return json;
}

Guide guideFromJson(const nlohmann::json& json, const std::string& where, bool keepUnknown, Mended* mended) {
  JsonFields fields(json, where, mended);
  Guide guide;
  guide.id = fields.text("id", "");
  guide.kind = fields.text("kind");
  guide.name = fields.text("name", "");
  guide.reference = fields.text("reference", "");
  guide.on = fields.flag("on", true);
  guide.weight = fields.number("weight", limits::weight);
  const Kind& kind = kindOf(guide.kind);
  readOrLeaveOut(mended, [&] { guide.range = rangeFromJson(fields.child("range"), where + ", range", mended); });
  if (fields.has("tuning"))
    readOrLeaveOut(mended, [&] {
      guide.tuning = tuningFromJson(*kind.fields, fields.child("tuning"), where + ", tuning", mended);
    });
  if (fields.has("work"))
    readOrLeaveOut(
        mended, [&] { guide.work = workFromJson(kind, fields.child("work"), where + ", work", keepUnknown, mended); });
  // As version 1 had it: one field a slot.
  for (const char* slot : {"retouch", "drawing", "figures", "inks"})
    if (auto name = fields.text(slot, ""); !name.empty()) guide.work.put(slot, std::move(name));
  guide.retouchHidden = fields.flag("retouch-hidden", false);
  guide.words = fields.text("words", "");
  if (fields.has("stage"))
    readOrLeaveOut(mended, [&] { guide.stage = stageLinkFromJson(fields.child("stage"), where + ", stage", mended); });
  if (fields.has("region"))
    readOrLeaveOut(mended, [&] {
      JsonFields region(fields.child("region"), where + ", region", mended);
      if (auto mask = region.text("mask", ""); !mask.empty()) guide.work.put(regionSlot, std::move(mask));
      guide.region.inverted = region.flag("inverted", false);
      guide.region.feather = region.number("feather", limits::feather, 0.0);
      region.refuseOthers();
    });
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
  if (recipe.mapsFrame.area() > 0) json["maps-frame"] = sizeToJson(recipe.mapsFrame);
  if (recipe.part)
    json["part"] = {
        {"whole", sizeToJson(recipe.part->whole)},
        {"box", {recipe.part->box.left, recipe.part->box.top, recipe.part->box.right, recipe.part->box.bottom}}};
  if (!recipe.engine.empty()) json["engine"] = recipe.engine;
  if (!recipe.family.empty()) json["family"] = recipe.family;
  json["references"] = nlohmann::json::array();
  for (const auto& reference : recipe.references) {
    nlohmann::json entry{
        {"id", reference.id}, {"name", reference.name}, {"placement", placementToJson(reference.placement)}};
    if (!reference.content.empty()) entry["content"] = reference.content;
    json["references"].push_back(std::move(entry));
  }
  json["guides"] = nlohmann::json::array();
  for (const auto& guide : recipe.guides) json["guides"].push_back(recipeGuideToJson(guide));
  return json;
}

Placement atScale(Placement placement, double across, double down) {
  // Rounded, so that there and back is the same again; never beyond what readers take.
  placement.scaleX = roundedWithin(placement.scaleX * across, limits::scale);
  placement.scaleY = roundedWithin(placement.scaleY * down, limits::scale);
  return placement;
}

Recipe atSize(Recipe recipe, Size size) {
  const Size whole = recipe.mapsSize();
  const bool smaller = size.area() < whole.area();
  recipe.frame = size;
  recipe.mapsFrame = smaller ? whole : Size{};
  if (smaller || size == whole) return recipe;
  const double across = static_cast<double>(size.width) / whole.width,
               down = static_cast<double>(size.height) / whole.height;
  for (RecipeReference& reference : recipe.references) reference.placement = atScale(reference.placement, across, down);
  recipe.brief.start.placement = atScale(recipe.brief.start.placement, across, down);
  for (RecipeGuide& entry : recipe.guides) {
    entry.guide.region.feather = roundedWithin(entry.guide.region.feather * std::sqrt(across * down), limits::feather);
    const TuningFields& fields = *kindOf(entry.guide.kind).fields;
    for (const TuningField& field : fields)
      if (const double value = valueOf(fields, entry.guide.tuning, field.id);
          field.unit == "px" && field.isNumber() && value > field.minimum)
        entry.guide.tuning[field.id] =
            roundedWithin(value * std::sqrt(across * down), {field.minimum, field.maximum, field.defaultValue});
    entry.mapDigest.clear();
  }
  return recipe;
}

void forgetFiles(Recipe& recipe) {
  for (RecipeGuide& entry : recipe.guides) {
    entry.mapFile.clear();
    entry.valuesFile.clear();
    entry.regionFile.clear();
    entry.workFiles.clear();
  }
  recipe.brief.start.pictureFile.clear();
}

RecipeGuide recipeGuideFromJson(nlohmann::json json, const std::string& where, Mended* mended) {
  RecipeGuide entry;
  JsonFields fields(json, where, mended);
  entry.called = fittedText(fields.text("called", ""), longestName);
  entry.mapDigest = fields.text("map-digest", "");
  entry.mapFile = fields.text("map", "");
  entry.valuesFile = fields.text("map-values", "");
  entry.regionFile = fields.text("region-map", "");
  if (fields.has("work-files")) {
    JsonFields files(fields.child("work-files"), where + ", work-files", mended);
    for (const auto& [slot, file] : fields.child("work-files").items()) entry.workFiles[slot] = files.text(slot);
  }
  for (const char* own : {"called", "map-digest", "map", "map-values", "region-map", "work-files"}) json.erase(own);
  entry.guide = guideFromJson(json, where, false, mended);
  entry.guide.on = true;
  return entry;
}

Recipe recipeFromJson(const nlohmann::json& json, Mended* mended) {
  JsonFields fields(json, "The recipe", mended);
  const auto version =
      fields.integer("recipe", 1, 1'000'000, mended != nullptr ? std::optional<std::int64_t>(1) : std::nullopt);
  if (version > recipeVersion)
    throw badInput(
        fmt::format("The recipe is of version {}, but this program knows versions up to {}.", version, recipeVersion));
  Recipe recipe;
  recipe.engine = fields.text("engine", "");
  recipe.family = fittedText(fields.text("family", ""), longestName);
  recipe.frame = frameFromJson(fields.child("frame"), "The recipe, frame", mended);
  if (fields.has("maps-frame"))
    recipe.mapsFrame = frameFromJson(fields.child("maps-frame"), "The recipe, maps-frame", mended);
  if (fields.has("part"))
    readOrLeaveOut(mended, [&] { recipe.part = partFromJson(fields.child("part"), "The recipe, part", mended); });
  recipe.brief = briefFromJson(fields.child("brief"), "The recipe, brief", false, mended);
  if (fields.has("references")) {
    std::size_t number = 0;
    for (const auto& one : fields.list("references"))
      readOrLeaveOut(mended, [&, where = fmt::format("The recipe, reference {}", ++number)] {
        JsonFields entry(one, where, mended);
        RecipeReference reference{entry.text("id"), entry.text("name", ""), {}, entry.text("content", "")};
        reference.placement = placementFromJson(entry.child("placement"), where + ", placement", mended);
        entry.refuseOthers();
        recipe.references.push_back(std::move(reference));
      });
  }
  std::size_t number = 0;
  for (const auto& guide : fields.list("guides"))
    readOrLeaveOut(mended, [&, where = fmt::format("The recipe, guide {}", ++number)] {
      recipe.guides.push_back(recipeGuideFromJson(guide, where, mended));
    });
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
