#include "files/study_pictures.h"

#include <fmt/chrono.h>
#include <fmt/format.h>

#include <chrono>
#include <ctime>

#include "core/image/colour.h"
#include "core/image/resample.h"
#include "core/measure/hold.h"
#include "files/picture_reader.h"

namespace hscaffold {

EngineJob jobFrom(Recipe recipe, const PictureSource& pictures, EditStore& edits, StopToken stop) {
  EngineJob job;
  struct Placed {
    Image<Rgb> picture;
    Affine placing;
  };
  std::map<std::string, Placed> placed;
  for (auto& entry : recipe.guides) {
    const std::string& id = entry.guide.reference;
    GuidePlace place{recipe.frame, {}};
    if (!isOnlyDrawn(entry.guide)) {
      const auto reference =
          std::find_if(recipe.references.begin(), recipe.references.end(), [&](const auto& r) { return r.id == id; });
      if (reference == recipe.references.end())
        throw badInput("The guide \"" + entry.guide.name + "\" has no reference in this study.");
      if (!placed.contains(id)) {
        const auto picture = pictures(*reference);
        placed[id] = {hscaffold::place(*picture, reference->placement, recipe.frame, stop),
                      frameFromReference(reference->placement, picture->size(), recipe.frame)};
      }
      place.placing = placed[id].placing;
    }
    ExtractionCache cache;
    const auto found = placed.find(id);
    const GuideEdits work = editsOf(entry.guide, edits);
    auto made = makeGuideMap(entry.guide, found != placed.end() ? found->second.picture.view() : View<Rgb>(), place,
                             work, cache, stop);
    job.maps.push_back(std::move(made.map));
    job.regions.push_back(std::move(made.region));
    job.figures.push_back(
        work.figures ? std::make_shared<const pose::Figures>(pose::following(*work.figures, place.frame, place.placing))
                     : nullptr);
    entry.mapDigest = digestOf(job.maps.back(), made.colour);
    job.colours.push_back(std::move(made.colour));
  }
  job.recipe = std::move(recipe);
  return job;
}

EngineJob jobFor(const StudyFile& file, Recipe recipe, StopToken stop) {
  EditStore edits([&](const std::string& id) { return file.edit(id); });
  return jobFrom(
      std::move(recipe),
      [&](const RecipeReference& reference) {
        return std::make_shared<const Image<Rgba16>>(
            decodePicture(file.referenceFile(reference.id), reference.name).picture);
      },
      edits, stop);
}

std::string addReference(StudyFile& file, StudyState& state, const std::filesystem::path& picture) {
  Bytes bytes;
  const auto loaded = readPicture(picture, &bytes);
  Reference reference;
  reference.id = newId(state, "r");
  reference.name = picture.filename().string();
  reference.size = loaded.picture.size();
  file.addReferenceFile(reference.id, bytes);
  state.references.push_back(reference);
  state.selectedReference = reference.id;
  return reference.id;
}

FinishedProof pullProof(Engine& engine, EngineJob job, const EngineSink& sink, StopToken stop) {
  FinishedProof proof;
  const auto start = std::chrono::steady_clock::now();
  proof.picture = engine.generate(job, sink, stop);
  proof.info.milliseconds = std::chrono::duration<double, std::milli>(std::chrono::steady_clock::now() - start).count();
  proof.info.made = fmt::format("{:%Y-%m-%dT%H:%M:%SZ}", fmt::gmtime(std::time(nullptr)));
  job.recipe.engine = engine.info().id;
  for (std::size_t i = 0; i < job.maps.size(); ++i)
    if (const auto hold = holdOf(job.recipe.guides[i].guide.kind, job.maps[i], proof.picture, stop))
      proof.info.holds[job.recipe.guides[i].guide.id] = *hold;
  proof.info.recipe = std::move(job.recipe);
  const double scale = 192.0 / std::max(proof.picture.width(), proof.picture.height());
  const Size small{std::max(1, static_cast<int>(proof.picture.width() * scale)),
                   std::max(1, static_cast<int>(proof.picture.height() * scale))};
  proof.thumbnail = encodePng(toSrgb8(resampled(toLinear(proof.picture).view(), small, Resampling::area)).view());
  proof.png = encodePng(proof.picture.view(), textsFor(proof.info.recipe));
  return proof;
}

}  // namespace hscaffold
