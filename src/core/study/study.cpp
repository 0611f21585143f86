#include "core/study/study.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <nlohmann/json.hpp>

#include "core/frame/frame.h"
#include "core/guides/json_fields.h"
#include "core/json_text.h"
#include "core/kinds.h"
#include "core/number_text.h"
#include "core/stage/scene.h"

namespace hscaffold {
namespace {

template <typename List>
auto* byId(List& list, const std::string& id) {
  const auto found = std::find_if(list.begin(), list.end(), [&](const auto& item) { return item.id == id; });
  return found != list.end() ? &*found : nullptr;
}

/// Where what a mending reader could not read is carried along.
constexpr const char* leftOutKey = "left-out";

nlohmann::json pullSetToJson(const PullSet& set) {
  nlohmann::json json{{"engine", set.engine}, {"longest", set.longest}, {"steps", set.steps}};
  if (!set.family.empty()) json["family"] = set.family;
  return json;
}

PullSet pullSetFromJson(const nlohmann::json& json, const std::string& where, Mended* mended) {
  JsonFields fields(json, where, mended);
  PullSet set;
  set.engine = fittedText(fields.text("engine", set.engine), longestName);
  set.family = fittedText(fields.text("family", ""), longestName);
  set.longest = static_cast<int>(fields.integer("longest", 0, static_cast<std::int64_t>(limits::side.most), 0));
  set.steps = static_cast<int>(fields.integer("steps", limits::steps, set.steps));
  return set;
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
    keepWithin(point.share, limits::share);
    before = point.at;
  }
  shape.front().at = 0;
  shape.back().at = 1;
}

}  // namespace

const Reference* StudyState::reference(const std::string& id) const { return byId(references, id); }
const Guide* StudyState::guide(const std::string& id) const { return byId(guides, id); }
const Final* StudyState::final(const std::string& id) const { return byId(finals, id); }
Final* StudyState::final(const std::string& id) { return byId(finals, id); }
Reference* StudyState::reference(const std::string& id) { return byId(references, id); }
Guide* StudyState::guide(const std::string& id) { return byId(guides, id); }

void StudyState::lookAtWhatIsThere() {
  if (!looking.reference.empty() && selectedReference() == nullptr)
    looking.reference = references.empty() ? "" : references.front().id;
  if (!looking.guide.empty() && selectedGuide() == nullptr) looking.guide = guides.empty() ? "" : guides.front().id;
  const Final* shown = final(looking.final);
  if (shown == nullptr) looking.final = finals.empty() ? "" : finals.back().id;
  if (shown == nullptr || shown->touchUp(looking.touchUp) == nullptr) looking.touchUp.clear();
}

GuidePlace placeOf(const StudyState& state, const Guide& guide) {
  GuidePlace place{state.frame, {}};
  if (const Reference* reference = state.reference(guide.reference))
    place.placing = frameFromReference(reference->placement, reference->size, state.frame);
  return place;
}

void keepWithinLimits(StudyState& state) {
  const auto fit = [](std::string& text, std::size_t most) {
    // Nearly all texts are short and plain: only others are looked at character by character.
    const bool plain = text.size() <= most && std::all_of(text.begin(), text.end(), [](char c) { return c >= 0; });
    if (!plain) text = fittedText(text, most);
  };
  fit(state.title, longestTitle);
  fit(state.engine, longestName);
  fit(state.family, longestName);
  state.longest = std::clamp(state.longest, 0, static_cast<int>(limits::side.most));
  if (state.otherSet) {
    fit(state.otherSet->engine, longestName);
    fit(state.otherSet->family, longestName);
    state.otherSet->longest = std::clamp(state.otherSet->longest, 0, static_cast<int>(limits::side.most));
    keepWithin(state.otherSet->steps, limits::steps);
  }
  keepWithinLimits(state.brief);
  keepWithin(state.frame.width, limits::side);
  keepWithin(state.frame.height, limits::side);
  keepWithin(state.sizeStep, limits::sizeStep);
  keepWithin(state.comfort, limits::comfort);
  for (Reference& reference : state.references) {
    fit(reference.name, longestName);
    keepWithinLimits(reference.placement);
  }
  for (Final& final : state.finals) keepWithinLimits(final);
  for (Guide& guide : state.guides) {
    fit(guide.name, longestName);
    fit(guide.words, longestPrompt);
    keepWithin(guide.weight, limits::weight);
    keepWithin(guide.range.from, limits::percent);
    keepWithin(guide.range.to, limits::rangeEnd);
    guide.range.to = std::max(guide.range.to, guide.range.from);
    keepWithin(guide.range.rampIn, limits::percent);
    keepWithin(guide.range.rampOut, limits::percent);
    keepShape(guide.range.shape);
    keepWithin(guide.region.feather, limits::feather);
    for (const TuningField& field : *kindOf(guide.kind).fields)
      if (const auto found = guide.tuning.find(field.id); found != guide.tuning.end()) keepWithin(found->second, field);
  }
}

std::string newId(StudyState& state, const std::string& prefix) { return prefix + std::to_string(state.nextId++); }

nlohmann::json stateToJson(const StudyState& state) {
  nlohmann::json json = objectWith(state.extra);
  json["title"] = state.title;
  json["frame"] = sizeToJson(state.frame);
  json["size-step"] = state.sizeStep;
  if (state.engine != StudyState{}.engine) json["engine"] = state.engine;
  if (!state.family.empty()) json["family"] = state.family;
  if (state.longest > 0) json["pulled-at"] = state.longest;
  if (state.rough) json["rough"] = true;
  if (state.otherSet) json["other-set"] = pullSetToJson(*state.otherSet);
  json["references"] = nlohmann::json::array();
  for (const auto& reference : state.references) {
    auto entry = objectWith(reference.extra);
    entry["id"] = reference.id;
    entry["name"] = reference.name;
    if (!reference.content.empty()) entry["content"] = reference.content;
    entry["width"] = reference.size.width;
    entry["height"] = reference.size.height;
    entry["placement"] = placementToJson(reference.placement);
    json["references"].push_back(entry);
  }
  json["guides"] = nlohmann::json::array();
  for (const auto& guide : state.guides) json["guides"].push_back(guideToJson(guide));
  for (const Final& final : state.finals) json["finals"].push_back(finalToJson(final));
  json["brief"] = briefToJson(state.brief);
  if (!state.scene.empty()) json["stage"] = parseJson(state.scene, "The stage");
  json["keep-total"] = state.keepTotal;
  if (!state.held.empty()) json["held-weights"] = state.held;
  if (state.comfort != limits::comfort.usual) json["comfort"] = state.comfort;
  json["selected-reference"] = state.looking.reference;
  json["selected-guide"] = state.looking.guide;
  json["shown-proof"] = state.looking.proof;
  json["shown-sheet"] = state.looking.sheet;
  if (!state.looking.final.empty()) json["shown-final"] = state.looking.final;
  if (!state.looking.touchUp.empty()) json["shown-touch-up"] = state.looking.touchUp;
  for (const auto& [sheet, width] : state.looking.cellWidths) json["cell-widths"].push_back({sheet, width});
  if (!state.leftBe.empty()) json["left-be"] = state.leftBe;
  json["discarded"] = state.discarded;
  json["kept"] = state.kept;
  json["next-id"] = state.nextId;
  return json;
}

StudyState stateFromJson(const nlohmann::json& json, Mended* mended) {
  JsonFields fields(json, "The study", mended);
  if (!fields.has("guides") && !fields.has("brief"))
    throw badInput("The study is damaged: it has neither guides nor a brief. It was not changed.");
  StudyState state;
  nlohmann::json leftOut = nlohmann::json::array();
  const auto each = [&](const char* key, const char* name, const auto& read) {
    std::size_t number = 0;
    for (const auto& entry : fields.list(key))
      if (!readOrLeaveOut(mended, [&, where = fmt::format("The study, {} {}", name, ++number)] { read(entry, where); }))
        leftOut.push_back({{"of", key}, {"entry", entry}});
  };
  const auto refuseTwice = [](const auto& list, const std::string& id, const std::string& where) {
    if (byId(list, id) != nullptr) throw badInput(fmt::format("{}: \"{}\" is there twice.", where, id));
  };
  state.title = fittedText(fields.text("title", state.title), longestTitle);
  readOrLeaveOut(mended, [&] { state.frame = frameFromJson(fields.child("frame"), "The study, frame", mended); });
  state.sizeStep = static_cast<int>(fields.integer("size-step", limits::sizeStep, 8));
  state.engine = fittedText(fields.text("engine", state.engine), longestName);
  state.family = fittedText(fields.text("family", ""), longestName);
  state.longest = static_cast<int>(fields.integer("pulled-at", 0, static_cast<std::int64_t>(limits::side.most), 0));
  state.rough = fields.flag("rough", false);
  if (fields.has("other-set"))
    readOrLeaveOut(
        mended, [&] { state.otherSet = pullSetFromJson(fields.child("other-set"), "The study, other-set", mended); });
  each("references", "reference", [&](const nlohmann::json& one, const std::string& where) {
    JsonFields entry(one, where, mended);
    Reference reference;
    reference.id = entry.text("id");
    refuseTwice(state.references, reference.id, where);
    reference.name = entry.text("name", "");
    reference.content = entry.text("content", "");
    reference.size = {static_cast<int>(entry.integer("width", limits::picture)),
                      static_cast<int>(entry.integer("height", limits::picture))};
    readOrLeaveOut(mended, [&] {
      reference.placement = placementFromJson(entry.child("placement"), where + ", placement", mended);
    });
    reference.extra = entry.othersAsText();
    state.references.push_back(std::move(reference));
  });
  each("guides", "guide", [&](const nlohmann::json& one, const std::string& where) {
    Guide guide = guideFromJson(one, where, true, mended);
    refuseTwice(state.guides, guide.id, where);
    state.guides.push_back(std::move(guide));
  });
  if (fields.has("finals"))
    each("finals", "final", [&](const nlohmann::json& one, const std::string& where) {
      Final final = finalFromJson(one, where, mended);
      refuseTwice(state.finals, final.id, where);
      state.finals.push_back(std::move(final));
    });
  readOrLeaveOut(mended, [&] { state.brief = briefFromJson(fields.child("brief"), "The study, brief", true, mended); });
  state.keepTotal = fields.flag("keep-total", false);
  if (fields.has("stage"))
    readOrLeaveOut(mended, [&] {
      state.scene = stage::sceneToText(stage::sceneFromText(fields.child("stage").dump(), "The stage", mended));
    });
  state.comfort = fields.number("comfort", limits::comfort, limits::comfort.usual);
  const auto ids = [&](const char* key, std::set<std::string>& into) {
    if (!fields.has(key)) return;
    for (const auto& id : fields.list(key))
      if (id.is_string()) into.insert(id.get<std::string>());
  };
  ids("held-weights", state.held);
  ids("left-be", state.leftBe);
  constexpr auto unbounded = std::numeric_limits<std::int64_t>::max() / 2;
  state.looking.reference = fields.text("selected-reference", "");
  state.looking.guide = fields.text("selected-guide", "");
  state.looking.proof = fields.integer("shown-proof", 0, unbounded, 0);
  state.looking.sheet = fields.integer("shown-sheet", -1, unbounded, 0);
  state.looking.final = fields.text("shown-final", "");
  state.looking.touchUp = fields.text("shown-touch-up", "");
  if (fields.has("cell-widths"))
    for (const auto& pair : fields.list("cell-widths"))
      if (pair.is_array() && pair.size() == 2 && pair[0].is_number_integer() && pair[1].is_number_integer())
        state.looking.cellWidths[pair[0].get<std::int64_t>()] =
            static_cast<int>(std::clamp(pair[1].get<std::int64_t>(), std::int64_t{1}, std::int64_t{10'000}));
  const auto numbers = [&](const char* key, std::vector<std::int64_t>& into) {
    if (!fields.has(key)) return;
    for (const auto& number : fields.list(key))
      if (number.is_number_integer()) into.push_back(number.get<std::int64_t>());
  };
  numbers("discarded", state.discarded);
  numbers("kept", state.kept);
  state.nextId = fields.integer("next-id", 1, unbounded, 1);
  // Ids are never given twice, whatever the file says.
  const auto beyond = [&](const std::string& id) {
    if (id.size() < 2 || id.size() > 12) return;
    if (const auto number = numberFrom(std::string_view(id).substr(1)); number && *number >= 1 && *number < 1e11)
      state.nextId = std::max(state.nextId, static_cast<std::int64_t>(*number) + 1);
  };
  for (const Reference& reference : state.references) beyond(reference.id);
  for (const Guide& guide : state.guides) beyond(guide.id);
  for (const Final& final : state.finals) {
    beyond(final.id);
    for (const TouchUp& touchUp : final.touchUps) beyond(touchUp.id);
  }
  auto others = fields.others();
  if (!leftOut.empty()) {
    auto& kept = others[leftOutKey];
    if (!kept.is_array()) kept = nlohmann::json::array();
    kept.insert(kept.end(), leftOut.begin(), leftOut.end());
  }
  state.extra = others.empty() ? std::string() : jsonText(others);
  return state;
}

bool startIsGone(const StudyState& state) {
  const StartPicture& start = state.brief.start;
  if (start.from == StartPicture::From::guide) {
    const Guide* guide = state.guide(start.guide);
    return guide == nullptr || !guide->on || (state.reference(guide->reference) == nullptr && !standsAlone(*guide));
  }
  return start.from == StartPicture::From::reference && state.reference(start.reference) == nullptr;
}

Recipe recipeOf(const StudyState& state) {
  Recipe recipe;
  recipe.family = state.family;
  recipe.frame = state.frame;
  recipe.brief = state.brief;
  recipe.brief.seedLocked = true;
  recipe.brief.extra.clear();
  if (startIsGone(state)) recipe.brief.start = {};
  for (const auto& guide : state.guides) {
    const Reference* reference = state.reference(guide.reference);
    if (!guide.on || (reference == nullptr && !standsAlone(guide))) continue;
    RecipeGuide entry;
    entry.guide = guide;
    entry.guide.extra.clear();
    entry.guide.stage = {};  // what it follows is no part of what makes a proof
    // All tuning is spelled out, so that later defaults do not change old recipes.
    entry.guide.tuning = spelledOut(*kindOf(guide.kind).fields, guide.tuning);
    recipe.guides.push_back(std::move(entry));
    if (reference != nullptr && byId(recipe.references, reference->id) == nullptr)
      recipe.references.push_back({reference->id, reference->name, reference->placement, reference->content});
  }
  // A start picture is known by its content, too, whether guides are made from it or not.
  if (const Reference* start = state.reference(recipe.brief.start.reference);
      start != nullptr && byId(recipe.references, start->id) == nullptr)
    recipe.references.push_back({start->id, start->name, start->placement, start->content});
  return recipe;
}

Recipe asForeign(Recipe recipe, const StudyState& state, std::vector<std::string>& lost) {
  std::set<std::string> taken;
  for (RecipeGuide& entry : recipe.guides) {
    const Guide* here = state.guide(entry.guide.id);
    const bool related = here != nullptr && here->kind == entry.guide.kind && here->name == entry.guide.name &&
                         here->reference == entry.guide.reference;
    // Without an id it is given one of this study.
    if (!related || !taken.insert(entry.guide.id).second) {
      if (recipe.brief.start.from == StartPicture::From::guide && recipe.brief.start.guide == entry.guide.id) {
        lost.push_back("The start picture could not be brought along: it is what a guide of another study shows.");
        recipe.brief.start = {};
      }
      entry.guide.id.clear();
    }
  }
  if (recipe.brief.start.from == StartPicture::From::proof) {
    lost.push_back("The start picture could not be brought along: it is a proof of another study.");
    recipe.brief.start = {};
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

std::set<std::string> workNamedIn(const Guide& guide) {
  std::set<std::string> names;
  for (const auto& [slot, name] : guide.work.all()) names.insert(name);
  for (const auto& [slot, piece] : guide.stage.fastened.pieces)
    if (!piece.drawn.empty()) names.insert(piece.drawn);
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
  if (state.brief.start.from == StartPicture::From::below) {
    lost.push_back("The start picture could not be brought back: it is a part of a final.");
    state.brief.start = {};
  }
  state.brief.start.pictureFile.clear();
  for (auto& guide : state.guides) guide.on = false;
  for (const auto& entry : recipe.guides) {
    if (Guide* guide = state.guide(entry.guide.id)) {
      const auto kept = guide->extra;
      const auto stage = guide->stage;
      *guide = entry.guide;
      guide->extra = kept;
      guide->stage = stage;
    } else if (state.reference(entry.guide.reference) != nullptr || standsAlone(entry.guide)) {
      Guide guide2 = entry.guide;
      if (guide2.id.empty()) guide2.id = newId(state, "g");
      state.guides.push_back(std::move(guide2));
    } else {
      lost.push_back(fmt::format("The guide \"{}\" could not be brought back: its reference is not in this study.",
                                 entry.guide.name));
    }
  }
  // What a guide shows can be a start picture: guides come first.
  if (startIsGone(state)) {
    lost.push_back(state.brief.start.from == StartPicture::From::guide
                       ? "The start picture could not be brought back: the guide that shows it is not in this study."
                       : "The start picture could not be brought back: its reference is not in this study.");
    state.brief.start = {};
  }
  return lost;
}

}  // namespace hscaffold
