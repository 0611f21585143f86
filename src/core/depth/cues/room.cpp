#include <algorithm>
#include <cmath>

#include "core/depth/cues/cue.h"

namespace hscaffold::depth {

Cue roomCue(const Seen& seen) {
  Cue out{std::vector<float>(seen.x.size()), std::vector<float>(seen.x.size())};
  if (!seen.vanishing) return out;
  const Vanishing& meet = *seen.vanishing;
  const float evidence = roominess(seen);
  for (std::size_t i = 0; i < seen.x.size(); ++i) {
    const float dx = std::fabs(seen.x[i] - meet.x) / std::max({meet.x, 1 - meet.x, 0.5f}),
                dy = std::fabs(seen.y[i] - meet.y) / std::max(meet.y, 1 - meet.y);
    const float away = std::max(dx, dy);
    out.near[i] = std::clamp(away, 0.0f, 1.0f);
    out.sure[i] = seen.pieces[static_cast<std::size_t>(seen.piece[i])].sky ? 0.0f : evidence * (0.4f + 0.6f * away);
  }
  return out;
}

}  // namespace hscaffold::depth
