#include "core/job/prepare.h"

#include <algorithm>
#include <nlohmann/json.hpp>
#include <optional>

#include "core/image/colour.h"
#include "core/image/encoded_light.h"
#include "core/image/parallel.h"
#include "core/image/resample.h"
#include "core/kinds.h"

namespace hscaffold {
namespace {

std::size_t bytesOf(const MadeMap& made) {
  const auto area = [](Size size) { return static_cast<std::size_t>(size.area()); };
  // What shift is measured from is sorted samples, whatever the frame.
  constexpr std::size_t ofShift = std::size_t{4} << 20;
  return sizeof made + area(made.input.map.size()) * sizeof(std::uint16_t) +
         area(made.input.region.size()) * sizeof(std::uint16_t) + area(made.input.colour.size()) * sizeof(Rgb8) +
         (made.details.sureness ? area(made.details.sureness->size()) * sizeof(std::uint16_t) : 0) +
         (made.shift ? ofShift : 0);
}

/// Null if the recipe has none of that id.
const RecipeReference* referenceOf(const Recipe& recipe, const std::string& id) {
  const auto found =
      std::find_if(recipe.references.begin(), recipe.references.end(), [&](const auto& each) { return each.id == id; });
  return found != recipe.references.end() ? &*found : nullptr;
}

/// All that a guide's map depends on.
std::string mapKey(const Guide& guide, const RecipeReference* reference, Size frame) {
  auto json = guideToJson(guide);
  for (const char* other : {"id", "name", "on", "weight", "range", "words", "reference", "stage"}) json.erase(other);
  json["frame"] = sizeToJson(frame);
  if (reference != nullptr) {
    json["source"] = reference->source();
    json["placement"] = placementToJson(reference->placement);
  }
  return digestOf(hscaffold::bytesOf(json.dump()));
}

std::string placedKey(const RecipeReference& reference, Size frame) {
  const nlohmann::json json{{"placed", reference.source()},
                            {"placement", placementToJson(reference.placement)},
                            {"frame", sizeToJson(frame)}};
  return digestOf(hscaffold::bytesOf(json.dump()));
}

/// The references of one recipe as they lie in its frame, each placed once.
class PlacedReferences {
 public:
  struct Placed {
    Image<Rgb> picture;
    Affine placing;
  };
  PlacedReferences(const PictureSource& pictures, Size frame, StopToken stop)
      : pictures_(pictures), frame_(frame), stop_(std::move(stop)) {}

  const Placed& of(const RecipeReference& reference) {
    const auto [found, isNew] = placed_.try_emplace(reference.id);
    if (isNew) {
      const auto picture = pictures_(reference);
      found->second = {place(*picture, reference.placement, frame_, stop_),
                       frameFromReference(reference.placement, picture->size(), frame_)};
    }
    return found->second;
  }

 private:
  const PictureSource& pictures_;
  Size frame_;
  StopToken stop_;
  std::map<std::string, Placed> placed_;
};

std::shared_ptr<const ShiftGround> shiftGround(const RecipeReference& reference, Size frame, PlacedReferences& placed,
                                               MadeMaps& made, StopToken stop) {
  const std::string key = placedKey(reference, frame);
  if (const auto kept = made.find(key)) return kept->shift;
  MadeMap fresh;
  const auto picture = toSrgb8(placed.of(reference).picture);
  fresh.shift = std::make_shared<const ShiftGround>(ProofSeen(picture), stop);
  const auto shift = fresh.shift;
  const std::size_t cost = bytesOf(fresh);
  made.put(key, std::make_shared<const MadeMap>(std::move(fresh)), cost);
  return shift;
}

std::shared_ptr<const MadeMap> mapOf(const Guide& guide, const RecipeReference* reference, Size frame,
                                     const WorkSource& work, PlacedReferences& placed, MadeMaps& made, StopToken stop) {
  const std::string key = mapKey(guide, reference, frame);
  if (auto kept = made.find(key)) return kept;
  GuidePlace place{frame, {}};
  View<Rgb> picture;
  if (reference != nullptr && !standsAlone(guide)) {
    const auto& at = placed.of(*reference);
    place.placing = at.placing;
    picture = at.picture.view();
  }
  ExtractionCache cache;
  const TakenWork taken = work(guide);
  auto map = makeGuideMap(guide, picture, place, taken, cache, stop);
  auto fresh = std::make_shared<MadeMap>();
  fresh->input = std::move(map.input);
  fresh->details = std::move(map.details);
  fresh->missing = taken.missing;
  fresh->digest = digestOf(fresh->input.map, fresh->input.colour);
  made.put(key, fresh, bytesOf(*fresh));
  return fresh;
}

/// What a guide's map shows, in linear light.
Image<Rgb> shownBy(const GuideInput& input) {
  return input.colour.empty() ? greysOf(input.map) : toLinear(input.colour);
}

Image<Rgb> startOf(const Recipe& recipe, const std::vector<GuideInput>& inputs, const JobSources& sources,
                   StopToken stop) {
  const StartPicture& start = recipe.brief.start;
  const Size whole = recipe.mapsSize();
  const Placement placement = recipe.frame == whole
                                  ? start.placement
                                  : atScale(start.placement, static_cast<double>(recipe.frame.width) / whole.width,
                                            static_cast<double>(recipe.frame.height) / whole.height);
  switch (start.from) {
    case StartPicture::From::nothing:
      return {};
    case StartPicture::From::reference: {
      RecipeReference asked{start.reference, "The start picture", placement, {}};
      if (const RecipeReference* of = referenceOf(recipe, start.reference)) asked.content = of->content;
      const auto picture = sources.pictures(asked);
      return place(*picture, placement, recipe.frame, stop);
    }
    case StartPicture::From::proof:
      return place(decodePng(sources.proofs(start.proof)).picture, placement, recipe.frame, stop);
    case StartPicture::From::guide:
      for (std::size_t i = 0; i < recipe.guides.size(); ++i)
        if (recipe.guides[i].guide.id == start.guide)
          return resampled(shownBy(inputs[i]).view(), recipe.frame, Resampling::area, stop);
      throw badInput("The start picture is what a guide shows that is not on in this study.");
    case StartPicture::From::below:
      throw badInput("The start picture is a part of another picture, which this study does not have.");
    case StartPicture::From::colour:
      break;
  }
  Image<Rgb> blank(recipe.frame);
  for (int y = 0; y < blank.height(); ++y) std::fill_n(blank.row(y), blank.width(), start.colour);
  return blank;
}

/// A start picture's mood, sorted into the first layout that there is besides its own.
Image<Rgb> moodFor(const Recipe& recipe, View<Rgb> start, const std::vector<GuideInput>& inputs,
                   PlacedReferences& placed, StopToken stop) {
  mood::Layout layout;
  for (std::size_t i = 0; i < recipe.guides.size(); ++i) {
    const Guide& guide = recipe.guides[i].guide;
    if (layout.near.empty() && kindOf(guide.kind).nearIsLight) layout.near = inputs[i].map.view();
    if (!layout.picture.empty() || guide.reference == recipe.brief.start.reference) continue;
    if (const RecipeReference* of = referenceOf(recipe, guide.reference))
      layout.picture = placed.of(*of).picture.view();
  }
  return mood::moodOf(start, recipe.brief.start.mood, layout, std::move(stop));
}

}  // namespace

WorkSource workTakenOut(const Recipe& recipe, WorkStore& store) {
  auto taken = std::make_shared<std::map<std::map<std::string, std::string>, TakenWork>>();
  for (const RecipeGuide& entry : recipe.guides)
    if (!taken->contains(entry.guide.work.all())) (*taken)[entry.guide.work.all()] = takenWork(entry.guide, store);
  return [taken](const Guide& guide) { return taken->at(guide.work.all()); };
}

Image<Rgb> asHandedOver(View<Rgba16> start) {
  Image<Rgb> out(start.size());
  const auto linear = srgb16Table();
  parallelRows(out.height(), [&](int first, int end) {
    for (int y = first; y < end; ++y)
      std::transform(start.row(y), start.row(y) + out.width(), out.row(y), [&](const Rgba16& c) {
        return Rgb{linear[c.r], linear[c.g], linear[c.b]};
      });
  });
  return out;
}

PreparedJob jobFrom(Recipe recipe, const JobSources& sources, StopToken stop, MadeMaps* made) {
  PreparedJob out;
  std::optional<MadeMaps> own;
  if (made == nullptr) made = &own.emplace(mostMadeBytes);
  const Size frame = recipe.mapsSize();
  PlacedReferences placed(sources.pictures, frame, stop);
  for (auto& entry : recipe.guides) {
    const RecipeReference* reference = referenceOf(recipe, entry.guide.reference);
    if (reference == nullptr && !standsAlone(entry.guide))
      throw badInput("The guide \"" + entry.guide.name + "\" has no reference in this study.");
    if (reference != nullptr && out.reference == nullptr)
      out.reference = shiftGround(*reference, frame, placed, *made, stop);
    const auto map = mapOf(entry.guide, reference, frame, sources.work, placed, *made, stop);
    entry.mapDigest = map->digest;
    out.job.inputs.push_back(map->input.clone());
    out.details.push_back(map->details.clone());
    out.notes.insert(out.notes.end(), map->missing.begin(), map->missing.end());
  }
  if (auto start = startOf(recipe, out.job.inputs, sources, stop); !start.empty()) {
    if (recipe.brief.start.moodOnly && recipe.brief.start.mood != mood::MoodTuning{0})
      start = moodFor(recipe, start.view(), out.job.inputs, placed, stop);
    out.job.start = asHandedOver(toSrgb16(start).view());
  }
  out.job.recipe = std::move(recipe);
  return out;
}

std::map<std::string, MapFacts> factsOf(const PreparedJob& made) {
  std::map<std::string, MapFacts> facts;
  for (std::size_t i = 0; i < made.job.inputs.size(); ++i) {
    const Guide& guide = made.job.recipe.guides[i].guide;
    ExtractionCache cache;
    facts[guide.id] = factsOf(kindOf(guide.kind), made.job.inputs[i], made.details[i], cache);
  }
  return facts;
}

}  // namespace hscaffold
