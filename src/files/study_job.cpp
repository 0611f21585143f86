#include "files/study_job.h"

#include "core/frame/frame.h"
#include "files/picture_reader.h"

namespace hscaffold {

JobSources sourcesIn(const StudyFile& file) {
  const auto store = std::make_shared<WorkStore>([&file](const std::string& id) { return file.work(id); });
  return {.pictures =
              [&file](const RecipeReference& reference) {
                return std::make_shared<const Image<Rgba16>>(
                    decodePicture(file.picture(reference.source()), reference.name).picture);
              },
          .proofs = [&file](std::int64_t number) { return file.proofPng(number); },
          .work = [store](const Guide& guide) { return takenWork(guide, *store); }};
}

PreparedJob jobFor(const StudyFile& file, Recipe recipe, StopToken stop, MadeMaps* made) {
  return jobFrom(std::move(recipe), sourcesIn(file), stop, made);
}

std::string addReference(StudyState& state, const PictureFile& file, Size size, const std::string& name) {
  const bool untouched = state.references.empty() && state.guides.empty() && state.frame == StudyState{}.frame;
  if (untouched) state.frame = frameFor(size, state.frame, state.sizeStep);
  Reference reference;
  reference.id = newId(state, "r");
  reference.name = fittedText(name, longestName);
  reference.content = file.content;
  reference.size = size;
  state.looking.reference = reference.id;
  state.references.push_back(std::move(reference));
  return state.looking.reference;
}

pose::Figures placedWith(pose::Figures figures, const Reference& reference, Size frame) {
  figures.placing = Affine{};
  return pose::following(figures, frame, frameFromReference(reference.placement, reference.size, frame));
}

}  // namespace hscaffold
