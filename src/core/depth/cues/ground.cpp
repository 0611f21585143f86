#include <algorithm>

#include "core/depth/cues/cue.h"

namespace hscaffold::depth {

Cue groundCue(const Seen& seen) {
  Cue out;
  const Horizon& horizon = seen.horizon;
  for (std::size_t i = 0; i < seen.x.size(); ++i) {
    const float sky = seen.sky[i];
    out.near.push_back((1 - sky) * horizon.groundNear(seen.y[i]));
    // Ground is broad and reaches the sides or the bottom; what is small may stand on it.
    const float broad = std::clamp(2.2f * seen.broad[i] - 0.3f, 0.15f, 1.0f), held = std::max(0.2f, seen.borne[i]),
                below = horizon.above(seen.y[i]);
    const float land = (0.25f + 0.75f * horizon.sure()) * held * (below * broad + (1 - below) * 0.15f);
    out.sure.push_back(std::clamp(sky + (1 - sky) * land, 0.0f, 1.0f));
  }
  return out;
}

}  // namespace hscaffold::depth
