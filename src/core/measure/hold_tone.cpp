#include <algorithm>
#include <cmath>

#include "core/image/encoded_light.h"
#include "core/image/filter.h"
#include "core/image/narrow.h"
#include "core/image/resample.h"
#include "core/measure/hold.h"
#include "core/measure/moments.h"

namespace hscaffold {
namespace {

/// Of the width: what is broader than this (standard deviation) is the fall of light, not a mass.
constexpr double broadTone = 0.14;
/// Tone has few masses: luck counts for more.
constexpr double luckyTone = 1.2;
constexpr int pushes = 8;

double varianceOf(View<float> a) {
  Moments of;
  for (int y = 0; y < a.height(); ++y)
    for (const float v : a.line(y)) of.add(static_cast<double>(v), 0);
  return of.spread().xx / of.mass;
}

Image<float> mirroredAcross(View<float> a) {
  Image<float> out(a.size());
  for (int y = 0; y < a.height(); ++y) std::reverse_copy(a.row(y), a.row(y) + a.width(), out.row(y));
  return out;
}

/// Every row pushed along, round the frame.
Image<float> pushedAcross(View<float> a, int by) {
  Image<float> out(a.size());
  for (int y = 0; y < a.height(); ++y) std::rotate_copy(a.row(y), a.row(y) + by, a.row(y) + a.width(), out.row(y));
  return out;
}

/// Less a share of the even ramp, down the frame and across it, that fits best.
Image<float> withoutRamp(View<float> a, double share) {
  const double mx = 0.5 * (a.width() - 1), my = 0.5 * (a.height() - 1);
  double across = 0, down = 0, acrossSquares = 0, downSquares = 0;
  for (int y = 0; y < a.height(); ++y)
    for (int x = 0; x < a.width(); ++x) {
      const auto v = static_cast<double>(a(x, y));
      across += v * (x - mx);
      down += v * (y - my);
      acrossSquares += (x - mx) * (x - mx);
      downSquares += (y - my) * (y - my);
    }
  across *= share / acrossSquares;
  down *= share / downSquares;
  Image<float> out(a.size());
  for (int y = 0; y < a.height(); ++y)
    for (int x = 0; x < a.width(); ++x) out(x, y) = a(x, y) - static_cast<float>(across * (x - mx) + down * (y - my));
  return out;
}

/// Less a share of how light falls over the frame: the ramp, and what is broader than masses.
Image<float> withoutBroad(View<float> a, double share) {
  auto out = withoutRamp(a, share);
  const auto broad = gaussianBlur(out, static_cast<float>(broadTone * a.width()));
  for (int y = 0; y < a.height(); ++y)
    for (int x = 0; x < a.width(); ++x) out(x, y) -= static_cast<float>(share) * broad(x, y);
  return out;
}

/// What other pictures would have of a tone as well is chance: measured by its mirror image and by both pushed along
/// the frame, each as far as it is not the tone itself.
double chanceOfTone(View<float> wanted, View<float> seen) {
  const auto turned = mirroredAcross(wanted);
  const auto met = [&](View<float> other) {
    return correlation(other, seen) * (1 - std::max(0.0, correlation(other, wanted)));
  };
  double squares = 0;
  for (int push = 0; push < pushes; ++push) {
    const int by = wanted.width() * push / pushes;
    squares += std::pow(met(pushedAcross(turned, by)), 2);
    if (push > 0) squares += std::pow(met(pushedAcross(wanted, by)), 2);
  }
  return std::max(met(turned), luckyTone * std::sqrt(squares / (2 * pushes - 1)));
}

}  // namespace

double toneHold(View<std::uint16_t> map, const ProofSeen& proof, StopToken stop) {
  const Size small{std::max(8, proof.size().width / 12), std::max(8, proof.size().height / 12)};
  const auto light = encodedLightOf(proof.fromAfar(stop));
  auto wanted = resampled(widened(map).view(), small, Resampling::area, stop);
  auto seen = resampled(light.view(), small, Resampling::area, stop);
  // Strokes and grain are not tone.
  constexpr float grain = 0.7f;
  wanted = gaussianBlur(wanted, grain);
  seen = gaussianBlur(seen, grain);
  // Most pictures are light above and dark below, or fall off to a side: what says more than that is compared without
  // it, and what says nothing else as it is.
  constexpr double plain = 0.1;
  const double all = varianceOf(wanted), masses = varianceOf(withoutBroad(wanted, 1));
  const double share = all > 0 ? std::min(1.0, masses / all / plain) : 0;
  wanted = withoutBroad(wanted, share);
  seen = withoutBroad(seen, share);
  const double chance = chanceOfTone(wanted, seen);
  return 100 * std::max(0.0, (correlation(wanted, seen) - chance) / (1 - chance));
}

}  // namespace hscaffold
