#include "files/study_pictures.h"

#include <fmt/chrono.h>
#include <fmt/format.h>

#include <chrono>
#include <ctime>

#include "core/frame/frame.h"
#include "core/image/colour.h"
#include "core/image/resample.h"
#include "core/kinds.h"
#include "files/picture_reader.h"

namespace hscaffold {

StudyJob jobFrom(Recipe recipe, const PictureSource& pictures, EditStore& edits, StopToken stop) {
  StudyJob out;
  struct Placed {
    Image<Rgb> picture;
    Affine placing;
  };
  std::map<std::string, Placed> placed;
  for (auto& entry : recipe.guides) {
    const std::string& id = entry.guide.reference;
    GuidePlace place{recipe.frame, {}};
    if (!standsAlone(entry.guide)) {
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
    entry.mapDigest = digestOf(made.input.map, made.input.colour);
    out.job.inputs.push_back(std::move(made.input));
    out.details.push_back(std::move(made.details));
    out.notes.insert(out.notes.end(), work.missing.begin(), work.missing.end());
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

StudyJob jobFor(const StudyFile& file, Recipe recipe, StopToken stop) {
  EditStore edits([&](const std::string& id) { return file.edit(id); });
  const auto pictures = [&](const RecipeReference& reference) {
    return std::make_shared<const Image<Rgba16>>(
        decodePicture(file.referenceFile(reference.id), reference.name).picture);
  };
  auto start = startOf(
      recipe, pictures, [&](std::int64_t number) { return file.proofPng(number); }, stop);
  auto made = jobFrom(std::move(recipe), pictures, edits, stop);
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

FinishedProof pullProof(Engine& engine, EngineJob job, const EngineSink& sink, StopToken stop) {
  FinishedProof proof;
  const auto start = std::chrono::steady_clock::now();
  proof.picture = engine.generate(job, sink, stop);
  proof.info.milliseconds = std::chrono::duration<double, std::milli>(std::chrono::steady_clock::now() - start).count();
  proof.info.made = fmt::format("{:%Y-%m-%dT%H:%M:%SZ}", fmt::gmtime(std::time(nullptr)));
  job.recipe.engine = engine.info().id;
  for (std::size_t i = 0; i < job.inputs.size(); ++i) {
    const Guide& guide = job.recipe.guides[i].guide;
    if (const auto holding = holdingOf(kindOf(guide.kind), job.inputs[i], proof.picture, stop))
      proof.info.holds[guide.id] = holding->hold;
  }
  proof.info.recipe = std::move(job.recipe);
  const double scale = 192.0 / std::max(proof.picture.width(), proof.picture.height());
  const Size small{std::max(1, static_cast<int>(proof.picture.width() * scale)),
                   std::max(1, static_cast<int>(proof.picture.height() * scale))};
  proof.thumbnail = encodePng(toSrgb8(resampled(toLinear(proof.picture).view(), small, Resampling::area)).view());
  proof.png = encodePng(proof.picture.view(), textsFor(proof.info.recipe));
  return proof;
}

}  // namespace hscaffold
