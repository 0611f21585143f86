#include "core/depth/cues/cue.h"

#include <array>
#include <cmath>

namespace hscaffold::depth {

std::span<const NamedCue> cues() {
  static const std::array all = {NamedCue{"place", placeCue, 0.35f}, NamedCue{"ground", groundCue, 3.5f},
                                 NamedCue{"foot", footCue, 2.0f},    NamedCue{"room", roomCue, 3.8f},
                                 NamedCue{"haze", hazeCue, 1.0f},    NamedCue{"focus", focusCue, 0.5f},
                                 NamedCue{"front", frontCue, 0.9f},  NamedCue{networkCueId, networkCue, 1.5f}};
  return all;
}

Guess joined(std::span<const Cue> cues, std::span<const float> weights) {
  Guess out;
  const std::size_t count = cues.empty() ? 0 : cues[0].near.size();
  out.near.resize(count);
  out.weight.resize(count);
  out.spread.resize(count);
  for (std::size_t i = 0; i < count; ++i) {
    float sum = 0, square = 0, weight = 1e-6f;
    for (std::size_t c = 0; c < cues.size(); ++c) {
      const float w = weights[c] * cues[c].sure[i], v = cues[c].near[i];
      weight += w;
      sum += w * v;
      square += w * v * v;
    }
    const float mean = sum / weight;
    out.near[i] = mean;
    out.weight[i] = weight;
    out.spread[i] = std::sqrt(std::max(0.0f, square / weight - mean * mean));
  }
  return out;
}

}  // namespace hscaffold::depth
