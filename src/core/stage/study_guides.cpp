#include "core/stage/study_guides.h"

#include <fmt/format.h>

#include <algorithm>
#include <array>

#include "core/digest.h"
#include "core/image/colour.h"
#include "core/image/png.h"
#include "core/kinds.h"
#include "core/stage/scene_maps.h"

namespace hscaffold::stage {

std::span<const StageMap> stageMaps() {
  static constexpr std::array<StageMap, 5> all = {{{"pose", "pose", "Stage pose", 0.9, ""},
                                                   {"depth", "depth", "Stage depth", 0.7, "stage-depth.png"},
                                                   {"lines", "lines", "Stage lines", 0.7, ""},
                                                   {"edges", "edges", "Stage edges", 0.8, ""},
                                                   {"tone", "tone", "Stage tone", 0.5, "stage-picture.png"}}};
  return all;
}

namespace {
/// Maps that are strokes. Edges are the same ones, a pixel wide, as their kind draws them.
bool isOfLines(const std::string& map) { return map == "lines" || map == "edges"; }
}  // namespace

std::string sceneDigest(const StudyState& state) {
  return digestOf(hscaffold::bytesOf(fmt::format("{}x{} {}", state.frame.width, state.frame.height, state.scene)));
}

bool isOwned(const StudyState& state, const Guide& guide) {
  if (guide.stage.map.empty() || guide.stage.piece.empty()) return false;
  if (guide.stage.map == "pose") return guide.work.in(pose::figuresSlot) != guide.stage.piece;
  if (isOfLines(guide.stage.map)) return guide.work.in(drawingSlot) != guide.stage.piece;
  const Reference* reference = state.reference(guide.reference);
  return reference == nullptr || reference->source() != guide.stage.piece;
}

std::vector<std::string> staleGuides(const StudyState& state) {
  std::vector<std::string> out;
  if (state.scene.empty()) return out;
  const std::string now = sceneDigest(state);
  for (const Guide& guide : state.guides)
    if (!guide.stage.map.empty() && !guide.stage.frozen && guide.stage.made != now) out.push_back(guide.id);
  return out;
}

std::map<std::string, MadeMap> madeMaps(const Scene& scene, Size frame, std::span<const std::string> which,
                                        StopToken stop) {
  std::map<std::string, MadeMap> out;
  if (which.empty()) return out;
  const bool lines = std::any_of(which.begin(), which.end(), isOfLines);
  const auto look = lookAt(scene, frame, stop, {.fine = lines});
  for (const std::string& id : which) {
    throwIfStopped(stop);
    MadeMap made;
    if (id == "pose")
      made.figures = std::make_shared<const pose::Figures>(figuresIn(scene, look));
    else if (id == "depth")
      made.picture = encodePng(depthMap(look).view());
    else if (id == "tone")
      made.picture = encodePng(toSrgb8(look.seen.colour.view()).view());
    else if (isOfLines(id))
      made.drawing = std::make_shared<const Drawing>(Drawing{true, frame, {}, strokesOf(linesOf(look, {}, stop))});
    else
      continue;
    out.emplace(id, std::move(made));
  }
  return out;
}

}  // namespace hscaffold::stage
