#include "core/stage/fastening.h"

#include <algorithm>
#include <array>
#include <cmath>

#include "core/guides/fastening_keys.h"
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

/// The layers of a slot by name, newest first; the newest is there even if nothing is drawn.
FastenedWork::Piece pieceIn(const Guide& guide, const std::string& slot) {
  const Fastening& to = guide.stage.fastened;
  FastenedWork::Piece out{slot, guide.work.in(slot), {}, false, {}};
  const auto kept = to.pieces.find(slot);
  const bool there = kept != to.pieces.end();
  out.fresh = !there || kept->second.laid != out.found;
  if (out.fresh) out.drawn.push_back({out.found, to.placed, nullptr});
  if (there && !kept->second.drawn.empty()) out.drawn.push_back({kept->second.drawn, kept->second.placed, nullptr});
  for (int number = 1; number <= mostOlderPieces; ++number)
    if (const auto older = to.pieces.find(olderPieceKey(slot, number)); older != to.pieces.end())
      out.drawn.push_back({older->second.drawn, older->second.placed, nullptr});
  return out;
}

/// What of a layer lies beyond the frame of one that was drawn over it.
Layer beyond(const FastenedWork::Drawn& older, const FastenedWork::Drawn& newer) {
  const Affine there = newer.placed.after(older.placed.inverted());
  const Size frame = newer.layer->frame;
  Image<std::uint16_t> within(older.layer->frame);
  for (int y = 0; y < within.height(); ++y)
    for (int x = 0; x < within.width(); ++x) {
      const double nx = there.mapX(x + 0.5, y + 0.5), ny = there.mapY(x + 0.5, y + 0.5);
      within(x, y) = nx >= 0 && ny >= 0 && nx < frame.width && ny < frame.height ? 65535 : 0;
    }
  return released(*older.layer, within.view());
}

/// Puts what lies below where nothing is above.
void putUnder(Layer& above, const Layer& below) {
  for (const auto& [place, tile] : below.tiles) {
    auto& there = above.tiles[place];
    auto both = there != nullptr ? std::make_shared<Tile>(*there) : std::make_shared<Tile>();
    for (std::size_t i = 0; i < both->touches.size(); ++i)
      if (both->touches[i].cover == 0) both->touches[i] = tile->touches[i];
    there = std::move(both);
  }
}

}  // namespace

std::optional<Affine> seenPlaceOf(const Scene& scene, Size frame, const std::string& thing, const std::string& joint) {
  const Thing* there = scene.thing(thing);
  if (there == nullptr) return {};
  const auto spot = spotOf(*there, joint);
  if (!spot) return {};
  const Camera camera = cameraOf(scene.eye, frame);
  const auto at = camera.seen(spot->at);
  if (!at.ahead()) return {};
  const float metre = camera.millimetres / 36 * static_cast<float>(frame.width) / at.far;
  // Its way up as it is seen; what points at the eye leans as the eye does.
  const auto top = camera.seen(spot->towards);
  float across = top.x - at.x, up = at.y - top.y;
  const float length = (spot->towards - spot->at).norm() * metre;
  constexpr float foreshortened = 0.08f;
  if (!top.ahead() || std::hypot(across, up) < foreshortened * length) {
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
      FastenedWork::Piece piece = pieceIn(*guide, slot);
      for (FastenedWork::Drawn& each : piece.drawn) {
        try {
          each.layer =
              each.name.empty() ? std::make_shared<const Layer>(Layer{state.frame, {}, {}}) : store.layer(each.name);
        } catch (const Problem&) {
          // It is said where the guide's map is made.
        }
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
    auto& drawn = piece.drawn;
    if (drawn.empty() || drawn.front().layer == nullptr) continue;
    // Within the frame whoever draws sees all there is: only what lay beyond it is still as it was.
    for (std::size_t i = 1; piece.fresh && i < drawn.size(); ++i)
      if (drawn[i].layer != nullptr) {
        drawn[i].layer = std::make_shared<const Layer>(beyond(drawn[i], drawn.front()));
        drawn[i].name.clear();
      }
    std::erase_if(drawn, [&](const FastenedWork::Drawn& each) {
      return &each != drawn.data() && (each.layer == nullptr || each.layer->empty());
    });
    drawn.resize(std::min<std::size_t>(drawn.size(), mostOlderPieces + 1));
    for (const FastenedWork::Drawn& each : drawn) {
      Layer then = *each.layer;
      then.placing = each.placed;
      Layer laid = following(then, frame, *work.now);
      if (piece.laid)
        putUnder(*piece.laid, laid);
      else
        piece.laid = std::move(laid);
    }
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
    if (!piece.laid) continue;
    for (int number = 1; number <= mostOlderPieces; ++number) to.pieces.erase(olderPieceKey(piece.slot, number));
    to.pieces.erase(piece.slot);
    if (piece.drawn.size() == 1 && piece.drawn.front().name.empty()) continue;  // nothing is drawn
    Layer layer = *piece.laid;
    layer.placing = place.placing;
    const std::string laid = store.keep(std::move(layer));
    guide.work.put(piece.slot, laid);
    to.pieces[piece.slot] = {piece.drawn.front().name, piece.drawn.front().placed, laid};
    for (std::size_t i = 1; i < piece.drawn.size(); ++i) {
      const FastenedWork::Drawn& older = piece.drawn[i];
      to.pieces[olderPieceKey(piece.slot, static_cast<int>(i))] = {
          older.name.empty() ? store.keep(*older.layer) : older.name, older.placed, {}};
    }
  }
  to.placed = *work.now;
  return true;
}

bool isOutOfFrame(const Guide& guide) {
  return std::any_of(slots.begin(), slots.end(), [&](const char* slot) {
    const auto& pieces = guide.stage.fastened.pieces;
    const auto piece = pieces.find(slot);
    return piece != pieces.end() && piece->second.laid.empty() && guide.work.in(slot).empty();
  });
}

}  // namespace hscaffold::stage
