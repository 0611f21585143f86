#include <algorithm>
#include <cmath>

#include "core/depth/cues/cue.h"

namespace hscaffold::depth {

Cue placeCue(const Seen& seen) {
  Cue out;
  for (std::size_t i = 0; i < seen.x.size(); ++i) {
    const float fromMiddle = std::hypot(seen.x[i] - 0.5f, 0.6f * (seen.y[i] - 0.55f));
    out.near.push_back(std::clamp(0.78f * seen.y[i] + 0.32f * (1 - 2 * fromMiddle) - 0.06f, 0.0f, 1.0f));
    out.sure.push_back(1);
  }
  return out;
}

}  // namespace hscaffold::depth
