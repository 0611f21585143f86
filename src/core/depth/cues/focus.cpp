#include <algorithm>
#include <cmath>

#include "core/depth/cues/cue.h"
#include "core/depth/kinship.h"
#include "core/image/filter.h"

namespace hscaffold::depth {

Cue focusCue(const Seen& seen) {
  const std::size_t count = seen.x.size();
  Cue out{std::vector<float>(count), std::vector<float>(count)};
  constexpr float again = 1.0f;  // sigma of the second blurring, pixels
  const auto blurred = gaussianBlur(seen.light.view(), again);
  const auto gradient = [](const Image<float>& p, int x, int y) {
    const auto v = p.view();
    return 0.5f * std::hypot(v.clamped(x + 1, y) - v.clamped(x - 1, y), v.clamped(x, y + 1) - v.clamped(x, y - 1));
  };
  std::vector<float> sum(count), weight(count);
  for (int y = 0; y < seen.size.height; ++y) {
    for (int x = 0; x < seen.size.width; ++x) {
      const float sharp = gradient(seen.light, x, y);
      if (sharp < 0.012f) continue;
      // An edge of blur s falls to s / sqrt(s^2 + again^2) of its gradient.
      const float ratio = std::max(1.0001f, sharp / std::max(1e-5f, gradient(blurred, x, y)));
      const float blur = std::clamp(again / std::sqrt(ratio * ratio - 1), 0.3f, 6.0f);
      const auto i = static_cast<std::size_t>(seen.patches.cell(x, y));
      sum[i] += sharp * std::log(blur);
      weight[i] += sharp;
    }
  }
  // Blur is known at edges; a cell without any takes it from what it belongs to.
  const Kinship kin(seen.patches, seen.ties, 0.02);
  const auto sums = kin.mean(sum), weights = kin.mean(weight);
  std::vector<float> blurs, all(count);
  for (std::size_t i = 0; i < count; ++i) {
    constexpr float share = 3.6f;
    const float w = weight[i] + share * weights[i];
    all[i] = w > 1e-6f ? (sum[i] + share * sums[i]) / w : 0;
    out.sure[i] = std::clamp(2 * w, 0.0f, 1.0f);
    if (weight[i] > 0.2f) blurs.push_back(all[i]);
  }
  if (blurs.size() < 20) {
    std::fill(out.sure.begin(), out.sure.end(), 0.0f);
    return out;
  }
  std::sort(blurs.begin(), blurs.end());
  const float low = blurs[blurs.size() / 10], high = blurs[blurs.size() * 9 / 10];
  // All equally sharp says nothing; a lens that was opened wide parts the two clearly.
  const float evidence = (1 - roominess(seen)) * std::clamp((high - low - 0.8f) * 2, 0.0f, 1.0f);
  for (std::size_t i = 0; i < count; ++i) {
    out.near[i] = 1 - std::clamp((all[i] - low) / std::max(0.1f, high - low), 0.0f, 1.0f);
    out.sure[i] *= evidence;
  }
  return out;
}

}  // namespace hscaffold::depth
