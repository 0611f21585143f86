#include <algorithm>

#include "core/depth/cues/cue.h"

namespace hscaffold::depth {

Cue footCue(const Seen& seen) {
  Cue out;
  const Horizon& horizon = seen.horizon;
  for (std::size_t i = 0; i < seen.x.size(); ++i) {
    out.near.push_back(horizon.groundNear(seen.foot[i]));
    const float upright = std::clamp(1.2f * seen.tall[i] / std::max(0.01f, seen.broad[i]) - 0.3f, 0.0f, 1.0f);
    const float small = std::clamp(1.4f - 4 * seen.tall[i] * seen.broad[i], 0.0f, 1.0f);
    // What hangs over the horizon has no foot to be seen.
    const float stands = horizon.above(seen.foot[i] - 0.03f), crosses = stands * (1 - horizon.above(seen.head[i]));
    out.sure.push_back((1 - seen.sky[i]) * stands * small * std::clamp(2 * horizon.sure(), 0.0f, 1.0f) *
                       (0.5f * crosses + 0.5f * upright));
  }
  return out;
}

}  // namespace hscaffold::depth
