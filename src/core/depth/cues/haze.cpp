#include <algorithm>
#include <cmath>

#include "core/depth/cues/cue.h"

namespace hscaffold::depth {

namespace {

/// The darkest channel of each cell's darkest pixels, over a wider neighbourhood: black in clear air wherever there is
/// shade or colour.
std::vector<float> darkChannel(const Seen& seen) {
  std::vector<float> dark(seen.x.size(), 1.0f);
  for (int y = 0; y < seen.size.height; ++y) {
    for (int x = 0; x < seen.size.width; ++x) {
      const CieLab c = seen.colour(x, y);
      // Chroma takes from the darkest channel about so much.
      const float least = std::clamp((c.l - 0.55f * std::hypot(c.a, c.b)) / 100, 0.0f, 1.0f);
      float& cell = dark[static_cast<std::size_t>(seen.patches.cell(x, y))];
      cell = std::min(cell, least);
    }
  }
  // A wider neighbourhood: light things in clear air have something dark beside them.
  for (int round = 0; round < 2; ++round) {
    auto wider = dark;
    for (const Border& border : seen.patches.borders) {
      const auto a = static_cast<std::size_t>(border.a), b = static_cast<std::size_t>(border.b);
      wider[a] = std::min(wider[a], 0.5f * (dark[a] + std::min(dark[a], dark[b])));
      wider[b] = std::min(wider[b], 0.5f * (dark[b] + std::min(dark[a], dark[b])));
    }
    dark = std::move(wider);
  }
  return dark;
}

}  // namespace

double veilOver(const Seen& seen) {
  const std::size_t count = seen.x.size();
  if (count < 8) return 0;
  auto dark = darkChannel(seen);
  std::sort(dark.begin(), dark.end());
  double sum = 0, squares = 0;
  for (const Cell& cell : seen.patches.cells) {
    const auto l = static_cast<double>(cell.colour.l);
    sum += l;
    squares += l * l;
  }
  const double mean = sum / static_cast<double>(count);
  const double spread = std::sqrt(std::max(0.0, squares / static_cast<double>(count) - mean * mean));
  // A blank sheet is no haze: something must be there to be veiled.
  const double something = std::clamp((spread - 1.5) / 2, 0.0, 1.0);
  // Lines on paper are as pale all over, but sharp.
  auto grain = seen.grain;
  std::sort(grain.begin(), grain.end());
  const auto sharpest = static_cast<double>(grain[count * 97 / 100]);
  return something * std::clamp((static_cast<double>(dark[count / 100]) - 0.22) * 6, 0.0, 1.0) *
         std::clamp(2 - spread / 10, 0.0, 1.0) * std::clamp(2 - sharpest / 0.0155, 0.0, 1.0);
}

Cue hazeCue(const Seen& seen) {
  const std::size_t count = seen.x.size();
  Cue out{std::vector<float>(count), std::vector<float>(count)};
  if (count < 8) return out;
  const auto dark = darkChannel(seen);
  auto sorted = dark;
  std::sort(sorted.begin(), sorted.end());
  const float low = sorted[count / 20], high = std::max(low + 0.15f, sorted[count - 1 - count / 20]);
  // Evidence: outside the sky, what is veiled has little grain and lies higher up.
  const auto land = [&](std::size_t i) { return static_cast<double>(1 - seen.sky[i]); };
  double n = 0, md = 0, mg = 0, my = 0;
  for (std::size_t i = 0; i < count; ++i) {
    n += land(i);
    md += land(i) * static_cast<double>(dark[i]);
    mg += land(i) * static_cast<double>(seen.grain[i]);
    my += land(i) * static_cast<double>(seen.y[i]);
  }
  if (n < 8) return out;
  md /= n, mg /= n, my /= n;
  double dd = 1e-9, gg = 1e-9, yy = 1e-9, dg = 0, dy = 0;
  for (std::size_t i = 0; i < count; ++i) {
    const double d = static_cast<double>(dark[i]) - md, g = static_cast<double>(seen.grain[i]) - mg,
                 y = static_cast<double>(seen.y[i]) - my;
    dd += land(i) * d * d, gg += land(i) * g * g, yy += land(i) * y * y, dg += land(i) * d * g, dy += land(i) * d * y;
  }
  const double withGrain = -dg / std::sqrt(dd * gg), withHeight = -dy / std::sqrt(dd * yy);
  const auto evidence =
      (1 - roominess(seen)) * static_cast<float>(std::clamp(1.5 * std::min(withGrain, withHeight) - 0.2, 0.0, 1.0) *
                                                 std::clamp((static_cast<double>(high - low) - 0.15) * 4, 0.0, 1.0));
  for (std::size_t i = 0; i < count; ++i) {
    out.near[i] = 1 - std::clamp((dark[i] - low) / (high - low), 0.0f, 1.0f);
    out.sure[i] = evidence;
  }
  return out;
}

}  // namespace hscaffold::depth
