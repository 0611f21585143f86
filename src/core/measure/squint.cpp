#include <algorithm>
#include <array>
#include <cmath>

#include "core/image/encoded_light.h"
#include "core/image/filter.h"
#include "core/image/narrow.h"
#include "core/image/resample.h"
#include "core/measure/proof_seen.h"
#include "core/measure/scan.h"

namespace hscaffold {
namespace {

/// Linear correlation where the pattern asks for light or dark, as much as it asks.
double agreement(View<float> wanted, View<float> seen, View<float> asks) {
  double mass = 0, mw = 0, ms = 0;
  for (int y = 0; y < wanted.height(); ++y)
    for (int x = 0; x < wanted.width(); ++x) {
      const auto m = static_cast<double>(asks(x, y));
      mass += m;
      mw += m * static_cast<double>(wanted(x, y));
      ms += m * static_cast<double>(seen(x, y));
    }
  if (mass <= 0) return 0;
  mw /= mass;
  ms /= mass;
  double ww = 0, ss = 0, ws = 0;
  for (int y = 0; y < wanted.height(); ++y)
    for (int x = 0; x < wanted.width(); ++x) {
      const auto m = static_cast<double>(asks(x, y));
      const double w = static_cast<double>(wanted(x, y)) - mw, s = static_cast<double>(seen(x, y)) - ms;
      ww += m * w * w;
      ss += m * s * s;
      ws += m * w * s;
    }
  constexpr double flat = 1e-9;
  return ww > flat * mass && ss > flat * mass ? ws / std::sqrt(ww * ss) : 0;
}

Image<float> turnedOver(View<float> a, bool across, bool down) {
  Image<float> out(a.size());
  for (int y = 0; y < a.height(); ++y) {
    const float* from = a.row(down ? a.height() - 1 - y : y);
    if (across)
      std::reverse_copy(from, from + a.width(), out.row(y));
    else
      std::copy_n(from, a.width(), out.row(y));
  }
  return out;
}

Image<float> asking(View<float> wanted) {
  Image<float> out(wanted.size());
  for (int y = 0; y < out.height(); ++y)
    std::transform(wanted.row(y), wanted.row(y) + out.width(), out.row(y),
                   [](float v) { return std::min(1.0f, std::abs(2 * v - 1)); });
  return out;
}

/// Less what the same pattern turned over has beyond what is due to its likeness with the pattern itself.
double beyondChance(View<float> wanted, View<float> seen, View<float> asks) {
  const double met = agreement(wanted, seen, asks);
  double chance = 0;
  for (const auto& [across, down] : {std::pair{true, false}, {false, true}, {true, true}}) {
    const auto other = turnedOver(wanted, across, down), there = turnedOver(asks, across, down);
    chance = std::max(chance, std::abs(agreement(other, seen, there) - agreement(other, wanted, there) * met));
  }
  chance = std::min(chance, 0.9);
  return std::max(0.0, (met - chance) / (1 - chance));
}

}  // namespace

Squint squintOf(View<std::uint16_t> map, const ProofSeen& proof, StopToken stop) {
  const auto light = encodedLightOf(proof.linear(stop));
  const auto wanted = resampled(widened(map).view(), light.size(), Resampling::area, stop);
  Squint out;
  constexpr std::array lengths{48.0, 96.0};
  for (const double length : lengths) {
    const Size small = scaledTo(light.size(), length);
    const auto shrunk = [&](View<float> a) { return resampled(a, small, Resampling::area); };
    constexpr float eye = 0.7f;
    out.afar += 100 * beyondChance(shrunk(wanted), gaussianBlur(shrunk(light), eye), shrunk(asking(wanted))) /
                static_cast<double>(lengths.size());
  }
  // What only shows near by: without all that is left from afar.
  const float broad = 0.5f * static_cast<float>(std::max(light.width(), light.height()) / lengths.back());
  const auto fine = [&](View<float> a) {
    auto rest = gaussianBlur(a, broad);
    for (int y = 0; y < rest.height(); ++y)
      for (int x = 0; x < rest.width(); ++x) rest(x, y) = a(x, y) - rest(x, y);
    return rest;
  };
  out.near = 100 * beyondChance(fine(wanted), fine(light), asking(wanted));
  return out;
}

}  // namespace hscaffold
