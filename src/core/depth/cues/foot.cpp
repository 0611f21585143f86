#include <algorithm>

#include "core/depth/cues/cue.h"

namespace hscaffold::depth {

Cue footCue(const Seen& seen) {
  Cue out;
  std::vector<float> near(seen.pieces.size()), sure(seen.pieces.size());
  for (std::size_t p = 0; p < seen.pieces.size(); ++p) {
    const Piece& piece = seen.pieces[p];
    // The foot: nearly the lowest of its cells, so that a shadow or a stray patch does not decide.
    std::vector<float> rows;
    for (const int i : piece.cells) rows.push_back(seen.y[static_cast<std::size_t>(i)]);
    std::sort(rows.begin(), rows.end());
    const float foot = rows[(rows.size() - 1) * 19 / 20];
    near[p] = groundNear(seen, foot);
    const float tall = piece.bottom - piece.top, wide = std::max(0.01f, piece.right - piece.left);
    const float upright = std::clamp(1.2f * tall / wide - 0.3f, 0.0f, 1.0f);
    const float small = std::clamp(1.4f - 4 * piece.area, 0.0f, 1.0f);
    const bool crosses = piece.top < seen.horizon && foot > seen.horizon + 0.03f;
    // What hangs over the horizon has no foot to be seen.
    const bool stands = foot > seen.horizon + 0.02f;
    sure[p] = piece.sky || !stands ? 0.0f
                                   : small * std::clamp(2 * seen.horizonSure, 0.0f, 1.0f) *
                                         (crosses ? 0.5f + 0.5f * upright : 0.5f * upright);
  }
  for (const int p : seen.piece) {
    out.near.push_back(near[static_cast<std::size_t>(p)]);
    out.sure.push_back(sure[static_cast<std::size_t>(p)]);
  }
  return out;
}

}  // namespace hscaffold::depth
