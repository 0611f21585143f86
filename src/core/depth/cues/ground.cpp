#include <algorithm>

#include "core/depth/cues/cue.h"

namespace hscaffold::depth {

Cue groundCue(const Seen& seen) {
  Cue out;
  for (std::size_t i = 0; i < seen.x.size(); ++i) {
    const Piece& piece = seen.pieces[static_cast<std::size_t>(seen.piece[i])];
    out.near.push_back(piece.sky ? 0.0f : groundNear(seen, seen.y[i]));
    // Ground is broad and reaches the sides or the bottom; what is small may stand on it.
    const float broad = std::clamp(2.2f * (piece.right - piece.left) - 0.3f, 0.15f, 1.0f);
    const float held = std::clamp(2 * std::max(piece.onBottom, piece.onSides), 0.2f, 1.0f);
    if (piece.sky)
      out.sure.push_back(1);
    else
      out.sure.push_back((0.25f + 0.75f * seen.horizonSure) * (seen.y[i] > seen.horizon ? broad * held : 0.15f * held));
  }
  return out;
}

}  // namespace hscaffold::depth
