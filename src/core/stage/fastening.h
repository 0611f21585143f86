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
  /// A layer, and where its thing was seen when it was drawn.
  struct Drawn {
    std::string name;  ///< in the store; empty: not kept yet, or nothing was drawn
    Affine placed;
    std::shared_ptr<const Layer> layer;  ///< null if it could not be read
  };
  struct Piece {
    std::string slot;
    std::string found;          ///< what the guide had in that slot when this was taken out
    std::vector<Drawn> drawn;   ///< newest first; of older ones what lay beyond the frame when they were drawn over
    bool fresh = false;         ///< the newest was drawn since they were laid last
    std::optional<Layer> laid;  ///< see `layAlong`
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
