// The brief as recipes and studies have it. What is plain is left out, so that briefs without it stay as short as
// before.
#include <fmt/format.h>

#include <array>

#include "core/brief/recipe.h"
#include "core/guides/json_fields.h"

namespace hscaffold {
namespace {

using From = StartPicture::From;
constexpr std::array<const char*, 6> fromNames = {"nothing", "reference", "proof", "colour", "below", "guide"};

std::string promptIn(JsonFields& fields, const std::string& key, const std::optional<std::string>& missing = "") {
  auto text = fields.text(key, missing);
  if (charactersIn(text) <= longestPrompt) return text;
  fields.wrong(key, fmt::format("has at most {} characters", longestPrompt), "Its end was cut off.");
  return fittedText(text, longestPrompt);
}

/// Of at most so many entries; further ones are left out where that is mended.
nlohmann::json listIn(JsonFields& fields, const std::string& key, std::size_t most) {
  auto list = fields.list(key);
  if (list.size() <= most) return list;
  fields.wrong(key, fmt::format("is a list of at most {}", most), "The rest was left out.");
  list.erase(list.begin() + static_cast<std::ptrdiff_t>(most), list.end());
  return list;
}

Emphasis emphasisFromJson(const nlohmann::json& json, const std::string& where, Mended* mended) {
  JsonFields fields(json, where, mended);
  const Emphasis emphasis{static_cast<int>(fields.integer("from", 0, longestPrompt)),
                          static_cast<int>(fields.integer("length", 1, longestPrompt)),
                          fields.number("weight", limits::emphasis)};
  fields.refuseOthers();
  return emphasis;
}

StyleUse styleFromJson(const nlohmann::json& json, const std::string& where, Mended* mended) {
  JsonFields fields(json, where, mended);
  StyleUse use;
  use.id = fields.text("id");
  use.name = fields.text("name", use.id);
  use.words = promptIn(fields, "words", std::nullopt);
  use.strength = fields.number("strength", limits::strength, 1.0);
  if (use.id.empty() || charactersIn(use.id) > longestName || charactersIn(use.name) > longestName)
    throw badInput(fmt::format("{}: a style's id and name have 1 to {} characters.", where, longestName));
  fields.refuseOthers();
  return use;
}

nlohmann::json startToJson(const StartPicture& start) {
  nlohmann::json json = {{"from", fromNames[static_cast<std::size_t>(start.from)]}, {"change", start.change}};
  if (start.from == From::reference) json["reference"] = start.reference;
  if (start.from == From::proof) json["proof"] = start.proof;
  if (start.from == From::colour) json["colour"] = colourToJson(start.colour);
  if (start.placement != Placement{}) json["placement"] = placementToJson(start.placement);
  if (start.from == From::guide) json["guide"] = start.guide;
  if (start.moodOnly) json["mood-only"] = true;
  if (start.mood.blur > 0) json["blur"] = start.mood.blur;
  if (start.mood.sorting != mood::Sorting::asItLies) json["sorted"] = idOf(start.mood.sorting);
  if (!start.shows.empty()) json["shows"] = start.shows;
  if (!start.wanted.empty()) json["wanted"] = start.wanted;
  if (!start.pictureFile.empty()) json["picture"] = start.pictureFile;
  return json;
}

mood::WantedColour wantedFromJson(const nlohmann::json& json, const std::string& where, Mended* mended) {
  JsonFields fields(json, where, mended);
  mood::WantedColour out;
  out.colour = colourFromJson(fields.child("colour"), where);
  out.locked = fields.flag("locked", false);
  fields.refuseOthers();
  return out;
}

StartPicture startFromJson(const nlohmann::json& json, const std::string& where, Mended* mended) {
  JsonFields fields(json, where, mended);
  StartPicture start;
  const auto from = fields.text("from");
  const auto found = std::find(fromNames.begin(), fromNames.end(), from);
  if (found == fromNames.end())
    throw badInput(fmt::format("{}: \"{}\" is not one of {}.", where, from, fmt::join(fromNames, ", ")));
  start.from = static_cast<From>(found - fromNames.begin());
  start.change = fields.number("change", limits::change, start.change);
  start.reference = fields.text("reference", "");
  start.proof = fields.integer("proof", 0, std::int64_t{1} << 53, 0);
  if (fields.has("colour"))
    readOrLeaveOut(mended, [&] { start.colour = colourFromJson(fields.child("colour"), where + ", colour"); });
  if (fields.has("placement"))
    readOrLeaveOut(
        mended, [&] { start.placement = placementFromJson(fields.child("placement"), where + ", placement", mended); });
  start.guide = fields.text("guide", "");
  start.moodOnly = fields.flag("mood-only", false);
  start.mood.blur = fields.number("blur", mood::limits::blur, 0.0);
  const std::string sorted = fields.text("sorted", idOf(mood::Sorting::asItLies));
  if (const auto sorting = mood::sortingNamed(sorted))
    start.mood.sorting = *sorting;
  else
    fields.wrong("sorted", "is not as-it-lies, by-light, by-colour or by-depth", "It lies as it does.");
  start.shows = promptIn(fields, "shows");
  start.wanted = promptIn(fields, "wanted");
  start.pictureFile = fields.text("picture", "");
  if (start.from == From::reference && start.reference.empty())
    throw badInput(where + ": a start picture from a reference names it.");
  if (start.from == From::guide && start.guide.empty())
    throw badInput(where + ": a start picture from a guide names it.");
  fields.refuseOthers();
  return start;
}

}  // namespace

nlohmann::json briefToJson(const Brief& brief) {
  nlohmann::json json = objectWith(brief.extra);
  json["prompt"] = brief.prompt;
  json["avoid"] = brief.avoid;
  json["seed"] = brief.seed;
  json["seed-locked"] = brief.seedLocked;
  json["steps"] = brief.steps;
  json["guidance"] = brief.guidance;
  for (const Emphasis& e : brief.emphasis)
    json["emphasis"].push_back({{"from", e.first}, {"length", e.length}, {"weight", e.weight}});
  for (const StyleUse& use : brief.styles)
    json["styles"].push_back({{"id", use.id}, {"name", use.name}, {"words", use.words}, {"strength", use.strength}});
  if (brief.start != StartPicture{}) json["start"] = startToJson(brief.start);
  for (const mood::WantedColour& each : brief.colours) {
    nlohmann::json colour = {{"colour", colourToJson(each.colour)}};
    if (each.locked) colour["locked"] = true;
    json["colours"].push_back(std::move(colour));
  }
  if (brief.vary > 0 || brief.variation != 0) json["vary"] = {{"by", brief.vary}, {"variation", brief.variation}};
  return json;
}

Brief briefFromJson(const nlohmann::json& json, const std::string& where, bool keepUnknown, Mended* mended) {
  JsonFields fields(json, where, mended);
  Brief brief;
  brief.prompt = promptIn(fields, "prompt", std::nullopt);
  brief.avoid = promptIn(fields, "avoid");
  brief.seed = static_cast<std::uint32_t>(fields.integer("seed", limits::seed));
  brief.seedLocked = fields.flag("seed-locked", true);
  brief.steps = static_cast<int>(fields.integer("steps", limits::steps));
  brief.guidance = fields.number("guidance", limits::guidance);
  if (fields.has("emphasis")) {
    for (const auto& entry : listIn(fields, "emphasis", mostEmphases))
      readOrLeaveOut(mended, [&] { brief.emphasis.push_back(emphasisFromJson(entry, where + ", emphasis", mended)); });
    brief.emphasis = inOrder(brief.emphasis, charactersIn(brief.prompt));
  }
  if (fields.has("styles"))
    for (const auto& entry : listIn(fields, "styles", mostStyles))
      readOrLeaveOut(mended, [&] {
        auto use = styleFromJson(entry, fmt::format("{}, style {}", where, brief.styles.size() + 1), mended);
        for (const StyleUse& other : brief.styles)
          if (other.id == use.id) throw badInput(fmt::format("{}: style \"{}\" is there twice.", where, use.id));
        brief.styles.push_back(std::move(use));
      });
  if (fields.has("start"))
    readOrLeaveOut(mended, [&] { brief.start = startFromJson(fields.child("start"), where + ", start", mended); });
  if (fields.has("colours"))
    for (const auto& entry : listIn(fields, "colours", mood::mostColours))
      readOrLeaveOut(mended, [&] { brief.colours.push_back(wantedFromJson(entry, where + ", colours", mended)); });
  if (fields.has("vary"))
    readOrLeaveOut(mended, [&] {
      JsonFields vary(fields.child("vary"), where + ", vary", mended);
      brief.vary = vary.number("by", limits::vary);
      brief.variation = static_cast<std::uint32_t>(vary.integer("variation", limits::seed, 0));
      vary.refuseOthers();
    });
  if (keepUnknown)
    brief.extra = fields.othersAsText();
  else
    fields.refuseOthers();
  return brief;
}

}  // namespace hscaffold
