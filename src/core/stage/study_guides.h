/// Guides of a study that come from its stage and follow it.
#pragma once

#include <map>
#include <memory>
#include <span>
#include <string>
#include <vector>

#include "core/pose/figure.h"
#include "core/stage/scene.h"
#include "core/strokes/drawing.h"
#include "core/study/study.h"

namespace hscaffold::stage {

/// What can follow a stage: its id in `StageLink::map`, the guide's kind, and its name, weight and picture at first.
struct StageMap {
  const char* id;
  const char* kind;
  const char* name;
  double weight;
  const char* file;  ///< name of its reference; empty for what is hand work
};
std::span<const StageMap> stageMaps();

/// All that maps of a study's scene depend on.
std::string sceneDigest(const StudyState& state);
/// Guides that follow a map and have not what it is now, by id.
std::vector<std::string> staleGuides(const StudyState& state);
/// Whether somebody has worked on what the stage gave to the guide: it is theirs then.
bool isOwned(const StudyState& state, const Guide& guide);

/// One map as guides take it.
struct MadeMap {
  Bytes picture;  ///< a PNG of the frame's size: depth of 16 bits, the shaded picture for tone
  std::shared_ptr<const pose::Figures> figures;
  std::shared_ptr<const Drawing> drawing;
};
/// @param which  ids of `stageMaps`. @throws Cancelled
std::map<std::string, MadeMap> madeMaps(const Scene& scene, Size frame, std::span<const std::string> which,
                                        StopToken stop = {});

}  // namespace hscaffold::stage
