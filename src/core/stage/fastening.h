/// Hand work that goes along with a thing of the stage, however the eye or the thing moves.
#pragma once

#include <memory>
#include <optional>
#include <string>
#include <vector>

#include "core/retouch/work_store.h"
#include "core/stage/scene.h"
#include "core/study/study.h"

namespace hscaffold::stage {

/// Frame from thing: where it is seen, how large a metre is there, and which way is up on it (at a joint: along its
/// bone). Hand work lies in that plane like a sheet that faces the eye. Nothing where the thing is not on the stage, or
/// lies behind the eye.
std::optional<Affine> seenPlaceOf(const Scene& scene, Size frame, const std::string& thing, const std::string& joint);

/// Fastens a guide's retouch and region as they lie now. @return whether the thing is seen; otherwise nothing happens
bool fasten(Guide& guide, const Scene& scene, Size frame, const std::string& thing, const std::string& joint = {});

/// The fastened hand work of one guide on its way to where its thing is seen.
struct FastenedWork {
  struct Piece {
    std::string slot;
    std::string found;                   ///< what the guide had in that slot when this was taken out
    Fastening::Piece fastened;           ///< as it was drawn
    std::shared_ptr<const Layer> drawn;  ///< null if it could not be read
    std::optional<Layer> laid;           ///< see `layAlong`
  };
  std::string guide, thing, joint;
  std::vector<Piece> pieces;
  std::optional<Affine> now;  ///< see `seenPlaceOf`; nothing: it stays where it was seen last
};
/// That of those among some guides, by their ids, that are fastened.
std::vector<FastenedWork> takeFastened(const StudyState& state, const std::vector<std::string>& guides,
                                       WorkStore& store);
/// Lays it where its thing is seen; always from how it was drawn, so that nothing is lost by moving often. On any
/// thread.
void layAlong(FastenedWork& work, const Scene& scene, Size frame);
/// Gives it to its guide. @return false if somebody worked on that meanwhile: it is left as it is then
bool giveFastened(Guide& guide, const GuidePlace& place, const FastenedWork& work, WorkStore& store);

/// Whether hand work of a guide went along beyond the frame, where nothing of it is left to see.
bool isOutOfFrame(const Guide& guide);

}  // namespace hscaffold::stage
