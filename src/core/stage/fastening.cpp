#include "core/stage/fastening.h"

#include <algorithm>
#include <array>
#include <cmath>

#include "core/limits.h"

namespace hscaffold::stage {
namespace {

constexpr std::array<const char*, 2> slots = {retouchSlot, regionSlot};

/// Where a joint is, and where its bone points to from there.
struct Spot {
  Vec3 at, towards;
};

std::optional<Spot> spotOf(const Thing& thing, const std::string& joint) {
  if (joint.empty() || !isFigure(thing)) return Spot{thing.place.at, thing.place.at + Vec3(0, 0.5f, 0)};
  const auto& skeleton = skeletonOf(thing);
  const auto point = skeleton.find(joint);
  if (!point) return {};
  const Set set = setOf(thing);
  if (set.actors.empty() || *point >= set.actors.front().points.size()) return {};
  const auto& points = set.actors.front().points;
  for (const pose::Bone& bone : skeleton.bones)  // towards the trunk, or from it where the point is there itself
    if (bone.to == *point && bone.from < points.size()) return Spot{points[*point], points[bone.from]};
  for (const pose::Bone& bone : skeleton.bones)
    if (bone.from == *point && bone.to < points.size()) return Spot{points[*point], points[bone.to]};
  return Spot{points[*point], points[*point] + Vec3(0, 0.5f, 0)};
}

/// What a piece was drawn as, where it is not what was last laid.
Fastening::Piece pieceIn(const Guide& guide, const std::string& slot) {
  const Fastening& to = guide.stage.fastened;
  const std::string& found = guide.work.in(slot);
  const auto kept = to.pieces.find(slot);
  if (kept != to.pieces.end() && kept->second.laid == found) return kept->second;
  return {found, to.placed, found};
}

}  // namespace

std::optional<Affine> seenPlaceOf(const Scene& scene, Size frame, const std::string& thing, const std::string& joint) {
  const Thing* there = scene.thing(thing);
  if (there == nullptr) return {};
  const auto spot = spotOf(*there, joint);
  if (!spot) return {};
  const Camera camera = cameraOf(scene.eye, frame);
  const auto at = camera.seen(spot->at);
  constexpr float nearest = 0.05f;
  if (at.far <= nearest) return {};
  const float metre = camera.millimetres / 36 * static_cast<float>(frame.width) / at.far;
  // Its way up as it is seen; what points at the eye leans as the eye does.
  const auto top = camera.seen(spot->towards);
  float across = top.x - at.x, up = at.y - top.y;
  const float length = (spot->towards - spot->at).norm() * metre;
  constexpr float foreshortened = 0.08f;
  if (top.far <= nearest || std::hypot(across, up) < foreshortened * length) {
    across = camera.look(0, 1);
    up = camera.look(1, 1);
  }
  const float norm = std::hypot(across, up);
  const double sine = norm > 0 ? static_cast<double>(across / norm) : 0,
               cosine = norm > 0 ? static_cast<double>(up / norm) : 1;
  const double scale = static_cast<double>(metre);
  // x to the right of it, y down on it, in metres.
  const Affine out{scale * cosine, -scale * sine,  static_cast<double>(at.x),
                   scale * sine,   scale * cosine, static_cast<double>(at.y)};
  // Far beside the frame, or a speck: no hand work lies there.
  constexpr double speck = 1e-4;
  const bool within = std::abs(out.c) <= limits::placing.most && std::abs(out.f) <= limits::placing.most;
  return within && scale >= speck && scale <= limits::placing.most ? std::optional(out) : std::nullopt;
}

bool fasten(Guide& guide, const Scene& scene, Size frame, const std::string& thing, const std::string& joint) {
  const auto placed = seenPlaceOf(scene, frame, thing, joint);
  if (!placed) return false;
  guide.stage.fastened = {thing, joint, *placed, {}};
  return true;
}

std::vector<FastenedWork> takeFastened(const StudyState& state, const std::vector<std::string>& guides,
                                       WorkStore& store) {
  std::vector<FastenedWork> out;
  for (const std::string& id : guides) {
    const Guide* guide = state.guide(id);
    if (guide == nullptr || guide->stage.fastened.thing.empty()) continue;
    FastenedWork work{id, guide->stage.fastened.thing, guide->stage.fastened.joint, {}, {}};
    for (const char* slot : slots) {
      FastenedWork::Piece piece{slot, guide->work.in(slot), pieceIn(*guide, slot), nullptr, {}};
      try {
        piece.drawn = store.layer(piece.fastened.drawn);
      } catch (const Problem&) {
        // It is said where the guide's map is made.
      }
      work.pieces.push_back(std::move(piece));
    }
    out.push_back(std::move(work));
  }
  return out;
}

void layAlong(FastenedWork& work, const Scene& scene, Size frame) {
  work.now = seenPlaceOf(scene, frame, work.thing, work.joint);
  if (!work.now) return;
  for (FastenedWork::Piece& piece : work.pieces) {
    if (piece.drawn == nullptr) continue;
    Layer drawn = *piece.drawn;
    drawn.placing = piece.fastened.placed;
    piece.laid = following(drawn, frame, *work.now);
  }
}

bool giveFastened(Guide& guide, const GuidePlace& place, const FastenedWork& work, WorkStore& store) {
  Fastening& to = guide.stage.fastened;
  if (to.thing != work.thing || to.joint != work.joint ||
      std::any_of(work.pieces.begin(), work.pieces.end(),
                  [&](const FastenedWork::Piece& piece) { return guide.work.in(piece.slot) != piece.found; }))
    return false;
  if (!work.now) return true;
  for (const FastenedWork::Piece& piece : work.pieces) {
    if (piece.fastened.drawn.empty()) to.pieces.erase(piece.slot);
    if (!piece.laid) continue;
    Layer layer = *piece.laid;
    layer.placing = place.placing;
    const std::string laid = store.keep(std::move(layer));
    guide.work.put(piece.slot, laid);
    to.pieces[piece.slot] = {piece.fastened.drawn, piece.fastened.placed, laid};
  }
  to.placed = *work.now;
  return true;
}

bool isOutOfFrame(const Guide& guide) {
  const auto& pieces = guide.stage.fastened.pieces;
  return std::any_of(pieces.begin(), pieces.end(),
                     [&](const auto& each) { return each.second.laid.empty() && guide.work.in(each.first).empty(); });
}

}  // namespace hscaffold::stage
