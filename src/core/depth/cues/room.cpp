#include <algorithm>
#include <cmath>

#include "core/depth/cues/cue.h"

namespace hscaffold::depth {

Cue roomCue(const Seen& seen) {
  Cue out{std::vector<float>(seen.x.size()), std::vector<float>(seen.x.size())};
  // Each place where lines may meet counts as far as it is likely to bound a room.
  for (const Vanishing& meet : seen.vanishing) {
    const float evidence = meet.chance * roominess(meet);
    for (std::size_t i = 0; i < seen.x.size() && evidence > 0; ++i) {
      const float dx = std::fabs(seen.x[i] - meet.x) / std::max({meet.x, 1 - meet.x, 0.5f}),
                  dy = std::fabs(seen.y[i] - meet.y) / std::max(meet.y, 1 - meet.y);
      const float away = std::clamp(std::max(dx, dy), 0.0f, 1.0f), sure = evidence * (0.4f + 0.6f * away);
      out.near[i] += sure * away;
      out.sure[i] += sure;
    }
  }
  for (std::size_t i = 0; i < seen.x.size(); ++i) {
    if (out.sure[i] > 0) out.near[i] /= out.sure[i];
    out.sure[i] = std::min(1.0f, out.sure[i]) * (1 - seen.sky[i]);
  }
  return out;
}

}  // namespace hscaffold::depth
