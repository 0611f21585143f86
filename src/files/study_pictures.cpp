#include "files/study_pictures.h"

#include <fmt/format.h>

#include <array>
#include <chrono>
#include <ctime>
#include <deque>
#include <mutex>
#include <nlohmann/json.hpp>

#include "core/frame/frame.h"
#include "core/image/colour.h"
#include "core/image/parallel.h"
#include "core/image/resample.h"
#include "core/kinds.h"
#include "core/measure/shift.h"
#include "files/picture_reader.h"

namespace hscaffold {

/// One map, or what shift is measured from (then only `shift`).
struct MadeMaps::Kept {
  GuideInput input;
  Extraction details;
  std::vector<std::string> missing;
  std::string digest;
  std::shared_ptr<const ShiftGround> shift;
};
struct MadeMaps::All {
  std::mutex mutex;
  std::map<std::string, std::shared_ptr<const Kept>> kept;
  std::deque<std::string> order;  ///< oldest first
};

namespace {

constexpr std::size_t mostKeptMaps = 48;

/// All that a guide's map depends on.
std::string mapKey(const Guide& guide, const RecipeReference* reference, Size frame) {
  auto json = guideToJson(guide);
  for (const char* other : {"name", "on", "weight", "range", "words"}) json.erase(other);
  json["frame"] = sizeToJson(frame);
  if (reference != nullptr) json["placement"] = placementToJson(reference->placement);
  return json.dump();
}

std::string placedKey(const RecipeReference& reference, Size frame) {
  return nlohmann::json{
      {"placed", reference.id}, {"placement", placementToJson(reference.placement)}, {"frame", sizeToJson(frame)}}
      .dump();
}

}  // namespace

MadeMaps::MadeMaps() : all_(std::make_unique<All>()) {}
MadeMaps::~MadeMaps() = default;

std::shared_ptr<const MadeMaps::Kept> MadeMaps::find(const std::string& key) {
  const std::lock_guard lock(all_->mutex);
  const auto found = all_->kept.find(key);
  return found != all_->kept.end() ? found->second : nullptr;
}

void MadeMaps::put(const std::string& key, std::shared_ptr<const Kept> kept) {
  const std::lock_guard lock(all_->mutex);
  if (!all_->kept.insert_or_assign(key, std::move(kept)).second) return;
  all_->order.push_back(key);
  if (all_->order.size() <= mostKeptMaps) return;
  all_->kept.erase(all_->order.front());
  all_->order.pop_front();
}

StudyJob jobFrom(Recipe recipe, const PictureSource& pictures, EditStore& edits, StopToken stop, MadeMaps* made) {
  StudyJob out;
  MadeMaps own;
  if (made == nullptr) made = &own;
  struct Placed {
    Image<Rgb> picture;
    Affine placing;
  };
  std::map<std::string, Placed> placed;
  const auto placedAs = [&](const RecipeReference& reference) -> const Placed& {
    const auto [found, isNew] = placed.try_emplace(reference.id);
    if (isNew) {
      const auto picture = pictures(reference);
      found->second = {hscaffold::place(*picture, reference.placement, recipe.frame, stop),
                       frameFromReference(reference.placement, picture->size(), recipe.frame)};
    }
    return found->second;
  };
  for (auto& entry : recipe.guides) {
    const auto reference = std::find_if(recipe.references.begin(), recipe.references.end(),
                                        [&](const auto& r) { return r.id == entry.guide.reference; });
    const bool referred = reference != recipe.references.end();
    if (!referred && !standsAlone(entry.guide))
      throw badInput("The guide \"" + entry.guide.name + "\" has no reference in this study.");
    if (referred && out.reference == nullptr) {
      const std::string key = placedKey(*reference, recipe.frame);
      auto kept = made->find(key);
      if (kept == nullptr) {
        MadeMaps::Kept fresh;
        const auto picture = toSrgb8(placedAs(*reference).picture);
        fresh.shift = std::make_shared<const ShiftGround>(ProofSeen(picture), stop);
        kept = std::make_shared<const MadeMaps::Kept>(std::move(fresh));
        made->put(key, kept);
      }
      out.reference = kept->shift;
    }
    const bool needsPicture = referred && !standsAlone(entry.guide);
    const std::string key = mapKey(entry.guide, referred ? &*reference : nullptr, recipe.frame);
    auto kept = made->find(key);
    if (kept == nullptr) {
      GuidePlace place{recipe.frame, {}};
      View<Rgb> picture;
      if (needsPicture) {
        const Placed& at = placedAs(*reference);
        place.placing = at.placing;
        picture = at.picture.view();
      }
      ExtractionCache cache;
      const GuideEdits work = editsOf(entry.guide, edits);
      auto map = makeGuideMap(entry.guide, picture, place, work, cache, stop);
      MadeMaps::Kept fresh{std::move(map.input), std::move(map.details), work.missing, {}, {}};
      fresh.digest = digestOf(fresh.input.map, fresh.input.colour);
      kept = std::make_shared<const MadeMaps::Kept>(std::move(fresh));
      made->put(key, kept);
    }
    entry.mapDigest = kept->digest;
    out.job.inputs.push_back(kept->input.clone());
    out.details.push_back(kept->details.clone());
    out.notes.insert(out.notes.end(), kept->missing.begin(), kept->missing.end());
  }
  out.job.recipe = std::move(recipe);
  return out;
}

Image<Rgb> startOf(const Recipe& recipe, const PictureSource& pictures, const ProofSource& proofs, StopToken stop) {
  const StartPicture& start = recipe.brief.start;
  switch (start.from) {
    case StartPicture::From::nothing:
      return {};
    case StartPicture::From::reference:
      return place(*pictures({start.reference, "The start picture", start.placement}), start.placement, recipe.frame,
                   stop);
    case StartPicture::From::proof:
      return place(decodePng(proofs(start.proof)).picture, start.placement, recipe.frame, stop);
    case StartPicture::From::colour:
      break;
  }
  Image<Rgb> blank(recipe.frame);
  for (int y = 0; y < blank.height(); ++y) std::fill_n(blank.row(y), blank.width(), start.colour);
  return blank;
}

StudyJob jobFor(const StudyFile& file, Recipe recipe, StopToken stop, MadeMaps* maps) {
  EditStore edits([&](const std::string& id) { return file.edit(id); });
  const auto pictures = [&](const RecipeReference& reference) {
    return std::make_shared<const Image<Rgba16>>(
        decodePicture(file.referenceFile(reference.id), reference.name).picture);
  };
  auto start = startOf(
      recipe, pictures, [&](std::int64_t number) { return file.proofPng(number); }, stop);
  auto made = jobFrom(std::move(recipe), pictures, edits, stop, maps);
  made.job.start = std::move(start);
  return made;
}

std::map<std::string, MapFacts> factsOf(const StudyJob& made) {
  std::map<std::string, MapFacts> facts;
  for (std::size_t i = 0; i < made.job.inputs.size(); ++i) {
    const Guide& guide = made.job.recipe.guides[i].guide;
    ExtractionCache cache;
    facts[guide.id] = factsOf(kindOf(guide.kind), made.job.inputs[i], made.details[i], cache);
  }
  return facts;
}

std::string addReference(StudyFile& file, StudyState& state, std::span<const std::byte> bytes, Size size,
                         const std::string& name) {
  const bool untouched = state.references.empty() && state.guides.empty() && state.frame == StudyState{}.frame;
  if (untouched)
    if (const auto offers = sizesByMegapixels(ratioOf(size), megapixels(state.frame), state.sizeStep); !offers.empty())
      state.frame = offers.front().size;
  Reference reference;
  reference.id = newId(state, "r");
  reference.name = fittedText(name, longestName);
  reference.size = size;
  file.addReferenceFile(reference.id, bytes);
  state.looking.reference = reference.id;
  state.references.push_back(std::move(reference));
  return state.looking.reference;
}

pose::Figures placedWith(pose::Figures figures, const Reference& reference, Size frame) {
  figures.placing = Affine{};
  return pose::following(figures, frame, frameFromReference(reference.placement, reference.size, frame));
}

std::string timeNow() {
  const std::time_t now = std::time(nullptr);
  std::tm parts{};
  gmtime_r(&now, &parts);
  std::array<char, 32> text{};
  return {text.data(), std::strftime(text.data(), text.size(), "%Y-%m-%dT%H:%M:%SZ", &parts)};
}

ProofMeasures measuresOf(const EngineJob& job, const ShiftGround* reference, const ProofSeen& proof, StopToken stop) {
  // All at once, on both cores.
  const std::size_t guides = job.inputs.size();
  std::vector<std::optional<Holding>> holdings(guides);
  ProofMeasures measures;
  parallelItems(guides + 1, [&](std::size_t i) {
    if (i < guides)
      holdings[i] = holdingOf(kindOf(job.recipe.guides[i].guide.kind), job.inputs[i], proof, stop);
    else if (reference != nullptr)
      measures.shift = shiftBetween(*reference, proof, stop).total;
  });
  for (std::size_t i = 0; i < guides; ++i) {
    if (!holdings[i]) continue;
    const std::string& id = job.recipe.guides[i].guide.id;
    measures.holds[id] = holdings[i]->hold;
    if (!holdings[i]->means.empty()) measures.means[id] = holdings[i]->means;
  }
  return measures;
}

FinishedProof pullProof(Engine& engine, EngineJob job, const ShiftGround* reference, const EngineSink& sink,
                        StopToken stop) {
  FinishedProof proof;
  const auto start = std::chrono::steady_clock::now();
  proof.picture = engine.generate(job, sink, stop);
  proof.info.milliseconds = std::chrono::duration<double, std::milli>(std::chrono::steady_clock::now() - start).count();
  proof.info.made = timeNow();
  job.recipe.engine = engine.info().id;
  auto measures = measuresOf(job, reference, proof.picture, stop);
  proof.info.holds = std::move(measures.holds);
  proof.info.shift = measures.shift;
  proof.info.recipe = std::move(job.recipe);
  const double scale = 256.0 / std::max(proof.picture.width(), proof.picture.height());
  const Size small{std::max(1, static_cast<int>(proof.picture.width() * scale)),
                   std::max(1, static_cast<int>(proof.picture.height() * scale))};
  proof.thumbnail = encodePng(toSrgb8(resampled(toLinear(proof.picture).view(), small, Resampling::area)).view());
  proof.png = encodePng(proof.picture.view(), textsFor(proof.info.recipe));
  return proof;
}

}  // namespace hscaffold
