#include "core/study/study.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <nlohmann/json.hpp>

#include "core/frame/frame.h"
#include "core/guides/json_fields.h"
#include "core/kinds.h"
#include "core/limits.h"

namespace hscaffold {
namespace {

template <typename List>
auto* byId(List& list, const std::string& id) {
  const auto found = std::find_if(list.begin(), list.end(), [&](const auto& item) { return item.id == id; });
  return found != list.end() ? &*found : nullptr;
}

const nlohmann::json& listIn(JsonFields& fields, const std::string& key) {
  const auto& list = fields.child(key);
  if (!list.is_array()) throw badInput("The study: \"" + key + "\" is not a list.");
  return list;
}

/// Points in order, within their limits; no shape where there are too few or too many.
void keepShape(std::vector<ShapePoint>& shape) {
  if (shape.size() < 2 || shape.size() > mostShapePoints) {
    shape.clear();
    return;
  }
  double before = 0;
  for (ShapePoint& point : shape) {
    keepWithin(point.at, before, 1, before);
    keepWithin(point.share, 0, 1, 1);
    before = point.at;
  }
  shape.front().at = 0;
  shape.back().at = 1;
}

}  // namespace

const Reference* StudyState::reference(const std::string& id) const { return byId(references, id); }
const Guide* StudyState::guide(const std::string& id) const { return byId(guides, id); }
Reference* StudyState::reference(const std::string& id) { return byId(references, id); }
Guide* StudyState::guide(const std::string& id) { return byId(guides, id); }

void StudyState::lookAtWhatIsThere() {
  if (!looking.reference.empty() && selectedReference() == nullptr)
    looking.reference = references.empty() ? "" : references.front().id;
  if (!looking.guide.empty() && selectedGuide() == nullptr) looking.guide = guides.empty() ? "" : guides.front().id;
}

void keepWithinLimits(StudyState& state) {
  const auto fit = [](std::string& text, std::size_t most) {
    // Nearly all texts are short and plain: only others are looked at character by character.
    const bool plain = text.size() <= most && std::all_of(text.begin(), text.end(), [](char c) { return c >= 0; });
    if (!plain) text = fittedText(text, most);
  };
  fit(state.title, longestTitle);
  keepWithinLimits(state.brief);
  state.frame = {std::clamp(state.frame.width, smallestSide, largestSide),
                 std::clamp(state.frame.height, smallestSide, largestSide)};
  state.sizeStep = std::clamp(state.sizeStep, 1, 256);
  keepWithin(state.comfort, 0.1, largestComfort, comfortableLoad);
  for (Reference& reference : state.references) {
    fit(reference.name, longestName);
    keepWithinLimits(reference.placement);
  }
  for (Guide& guide : state.guides) {
    fit(guide.name, longestName);
    fit(guide.words, longestPrompt);
    keepWithin(guide.weight, 0, largestWeight, 1);
    keepWithin(guide.range.from, 0, 100, 0);
    keepWithin(guide.range.to, guide.range.from, 100, 100);
    keepWithin(guide.range.rampIn, 0, 100, 0);
    keepWithin(guide.range.rampOut, 0, 100, 0);
    keepShape(guide.range.shape);
    keepWithin(guide.region.feather, 0, largestFeather, 0);
    for (const TuningField& field : *kindOf(guide.kind).fields)
      if (const auto found = guide.tuning.find(field.id); found != guide.tuning.end()) {
        keepWithin(found->second, field.minimum, field.maximum, field.defaultValue);
        if (!field.choices.empty()) found->second = std::round(found->second);
      }
  }
}

std::string newId(StudyState& state, const std::string& prefix) { return prefix + std::to_string(state.nextId++); }

nlohmann::json stateToJson(const StudyState& state) {
  nlohmann::json json = objectWith(state.extra);
  json["title"] = state.title;
  json["frame"] = sizeToJson(state.frame);
  json["size-step"] = state.sizeStep;
  json["references"] = nlohmann::json::array();
  for (const auto& reference : state.references) {
    auto entry = objectWith(reference.extra);
    entry["id"] = reference.id;
    entry["name"] = reference.name;
    entry["width"] = reference.size.width;
    entry["height"] = reference.size.height;
    entry["placement"] = placementToJson(reference.placement);
    json["references"].push_back(entry);
  }
  json["guides"] = nlohmann::json::array();
  for (const auto& guide : state.guides) json["guides"].push_back(guideToJson(guide));
  json["brief"] = briefToJson(state.brief);
  json["keep-total"] = state.keepTotal;
  if (!state.held.empty()) json["held-weights"] = state.held;
  if (state.comfort != comfortableLoad) json["comfort"] = state.comfort;
  json["selected-reference"] = state.looking.reference;
  json["selected-guide"] = state.looking.guide;
  json["shown-proof"] = state.looking.proof;
  json["shown-sheet"] = state.looking.sheet;
  if (!state.leftBe.empty()) json["left-be"] = state.leftBe;
  json["discarded"] = state.discarded;
  json["kept"] = state.kept;
  json["next-id"] = state.nextId;
  return json;
}

StudyState stateFromJson(const nlohmann::json& json) {
  JsonFields fields(json, "The study");
  StudyState state;
  state.title = fields.text("title", state.title);
  state.frame = frameFromJson(fields.child("frame"), "The study, frame");
  state.sizeStep = static_cast<int>(fields.integer("size-step", 1, 256, 8));
  const auto& references = listIn(fields, "references");
  for (std::size_t i = 0; i < references.size(); ++i) {
    const auto where = fmt::format("The study, reference {}", i + 1);
    JsonFields entry(references[i], where);
    Reference reference;
    reference.id = entry.text("id");
    reference.name = entry.text("name", "");
    reference.size = {static_cast<int>(entry.integer("width", 1, 1'000'000)),
                      static_cast<int>(entry.integer("height", 1, 1'000'000))};
    reference.placement = placementFromJson(entry.child("placement"), where + ", placement");
    reference.extra = entry.othersAsText();
    state.references.push_back(std::move(reference));
  }
  const auto& guides = listIn(fields, "guides");
  for (std::size_t i = 0; i < guides.size(); ++i)
    state.guides.push_back(guideFromJson(guides[i], fmt::format("The study, guide {}", i + 1), true));
  state.brief = briefFromJson(fields.child("brief"), "The study, brief", true);
  state.keepTotal = fields.flag("keep-total", false);
  state.comfort = fields.number("comfort", 0.1, largestComfort, comfortableLoad);
  const auto ids = [&](const char* key, std::set<std::string>& into) {
    if (!fields.has(key)) return;
    for (const auto& id : listIn(fields, key))
      if (id.is_string()) into.insert(id.get<std::string>());
  };
  ids("held-weights", state.held);
  ids("left-be", state.leftBe);
  state.looking.reference = fields.text("selected-reference", "");
  state.looking.guide = fields.text("selected-guide", "");
  state.looking.proof = fields.integer("shown-proof", 0, std::numeric_limits<std::int64_t>::max(), 0);
  state.looking.sheet = fields.integer("shown-sheet", -1, std::numeric_limits<std::int64_t>::max(), 0);
  const auto numbers = [&](const char* key, std::vector<std::int64_t>& into) {
    if (!fields.has(key)) return;
    for (const auto& number : listIn(fields, key))
      if (number.is_number_integer()) into.push_back(number.get<std::int64_t>());
  };
  numbers("discarded", state.discarded);
  numbers("kept", state.kept);
  state.nextId = fields.integer("next-id", 1, std::numeric_limits<std::int64_t>::max(), 1);
  state.extra = fields.othersAsText();
  return state;
}

bool startIsGone(const StudyState& state) {
  const StartPicture& start = state.brief.start;
  return start.from == StartPicture::From::reference && state.reference(start.reference) == nullptr;
}

Recipe recipeOf(const StudyState& state) {
  Recipe recipe;
  recipe.frame = state.frame;
  recipe.brief = state.brief;
  recipe.brief.seedLocked = true;
  recipe.brief.extra.clear();
  if (startIsGone(state)) recipe.brief.start = {};
  for (const auto& guide : state.guides) {
    const Reference* reference = state.reference(guide.reference);
    if (!guide.on || (reference == nullptr && !standsAlone(guide))) continue;
    RecipeGuide entry{guide, "", ""};
    entry.guide.extra.clear();
    // All tuning is spelled out, so that later defaults do not change old recipes.
    for (const auto& field : *kindOf(guide.kind).fields)
      entry.guide.tuning[field.id] = valueOf(*kindOf(guide.kind).fields, guide.tuning, field.id);
    recipe.guides.push_back(std::move(entry));
    if (reference != nullptr && byId(recipe.references, reference->id) == nullptr)
      recipe.references.push_back({reference->id, reference->name, reference->placement});
  }
  return recipe;
}

std::optional<double> meanHold(const ProofInfo& proof) {
  if (proof.holds.empty()) return {};
  double sum = 0;
  for (const auto& [id, hold] : proof.holds) sum += hold;
  return sum / static_cast<double>(proof.holds.size());
}

std::optional<double> holdOf(const ProofInfo& proof, const std::string& guide) {
  if (guide.empty()) return meanHold(proof);
  const auto found = proof.holds.find(guide);
  return found != proof.holds.end() ? std::optional(found->second) : std::nullopt;
}

std::set<std::string> editsNamedIn(const Guide& guide) {
  std::set<std::string> names;
  for (const auto& [slot, name] : guide.work.all()) names.insert(name);
  return names;
}

std::vector<std::string> adoptRecipe(StudyState& state, const Recipe& recipe) {
  std::vector<std::string> lost;
  state.frame = recipe.frame;
  const bool locked = state.brief.seedLocked;
  const auto extra = state.brief.extra;
  state.brief = recipe.brief;
  state.brief.seedLocked = locked;
  state.brief.extra = extra;
  for (const auto& entry : recipe.references)
    if (Reference* reference = state.reference(entry.id)) reference->placement = entry.placement;
  if (startIsGone(state)) {
    lost.push_back("The start picture could not be brought back: its reference is not in this study.");
    state.brief.start = {};
  }
  state.brief.start.pictureFile.clear();
  for (auto& guide : state.guides) guide.on = false;
  for (const auto& entry : recipe.guides) {
    if (Guide* guide = state.guide(entry.guide.id)) {
      const auto kept = guide->extra;
      *guide = entry.guide;
      guide->extra = kept;
    } else if (state.reference(entry.guide.reference) != nullptr || standsAlone(entry.guide)) {
      Guide guide2 = entry.guide;
      if (guide2.id.empty()) guide2.id = newId(state, "g");
      state.guides.push_back(std::move(guide2));
    } else {
      lost.push_back(fmt::format("The guide \"{}\" could not be brought back: its reference is not in this study.",
                                 entry.guide.name));
    }
  }
  return lost;
}

}  // namespace hscaffold
