#include "app/proofs/job_sources.h"

#include "app/document/study_document.h"
#include "app/maps/map_room.h"
#include "app/proofs/proof_shelf.h"

namespace hscaffold::app {

JobSources jobSources(const Recipe& recipe, StudyDocument& document, const MapRoom& maps, const ProofShelf& proofs) {
  JobSources sources;
  sources.pictures = [pictures = maps.pictures()](const RecipeReference& reference) {
    const auto found = pictures.find(reference.source());
    if (found == pictures.end()) throw badInput(reference.name + " is still being read. Pull again in a moment.");
    return found->second;
  };
  // The store belongs to this thread: what pulls need of it is read now, and goes with them.
  sources.work = workTakenOut(recipe, document.work());
  Bytes startProof;
  try {
    if (recipe.brief.start.from == StartPicture::From::proof) startProof = proofs.png(recipe.brief.start.proof);
  } catch (const std::exception& error) {
    throw failed(std::string("The start picture could not be read: ") + error.what());
  }
  sources.proofs = [startProof = std::move(startProof)](std::int64_t) { return startProof; };
  return sources;
}

}  // namespace hscaffold::app
