#include "core/measure/hold.h"

#include <cmath>

#include "core/edges/edges.h"
#include "core/image/colour.h"
#include "core/image/distance.h"
#include "core/image/filter.h"
#include "core/image/narrow.h"
#include "core/image/resample.h"

namespace hscaffold {
namespace {

constexpr std::uint8_t half = 128;

/// The map moved by (dx, dy); what leaves the frame is gone.
Image<std::uint8_t> moved(View<std::uint8_t> map, int dx, int dy) {
  Image<std::uint8_t> out(map.size());
  for (int y = std::max(0, dy); y < std::min(map.height(), map.height() + dy); ++y)
    for (int x = std::max(0, dx); x < std::min(map.width(), map.width() + dx); ++x) out(x, y) = map(x - dx, y - dy);
  return out;
}

double recallFrom(View<std::uint8_t> map, const Image<float>& distance, double tolerance) {
  std::int64_t set = 0, met = 0;
  for (int y = 0; y < map.height(); ++y)
    for (int x = 0; x < map.width(); ++x)
      if (map(x, y) >= half) {
        ++set;
        met += static_cast<double>(distance(x, y)) <= tolerance ? 1 : 0;
      }
  return set > 0 ? static_cast<double>(met) / static_cast<double>(set) : 0;
}

double toleranceFor(Size size, double share) { return share * std::hypot(size.width, size.height); }

}  // namespace

double boundaryRecall(View<std::uint8_t> map, View<std::uint8_t> found, double tolerance) {
  return recallFrom(map, distanceToSet(found), tolerance);
}

double boundaryF(View<std::uint8_t> map, View<std::uint8_t> found, double tolerance) {
  const double recall = boundaryRecall(map, found, tolerance), precision = boundaryRecall(found, map, tolerance);
  return recall + precision > 0 ? 2 * recall * precision / (recall + precision) : 0;
}

double shareForProof(View<std::uint8_t> map) { return std::clamp(1.9 * edgeShare(map), 0.008, 0.08); }

Image<std::uint8_t> proofEdges(View<Rgb8> proof, double share, StopToken stop) {
  const auto field = edgeField(toLinear(proof).view(), EdgeGradient::colour, 1.8, stop);
  // The threshold at which about the wanted share of pixels is left.
  const auto wanted = static_cast<std::size_t>(share * static_cast<double>(proof.size().area()));
  std::vector<float> strengths;
  for (const auto& strip : field.strips)
    for (const auto& point : strip.points) strengths.push_back(point.strength);
  EdgeTuning tuning;
  tuning.thresholds = EdgeThresholds::magnitude;
  tuning.shortest = 6;
  tuning.low = 0;
  if (strengths.size() > wanted) {
    std::nth_element(strengths.begin(), strengths.begin() + static_cast<std::ptrdiff_t>(wanted), strengths.end(),
                     std::greater<>());
    tuning.low = static_cast<double>(strengths[wanted]);
  }
  tuning.high = tuning.low * 1.3;
  return drawEdges(field, tuning, stop);
}

double lineRecall(View<std::uint16_t> map, View<Rgb8> proof, double toleranceShare, StopToken stop) {
  const auto lines = narrowed(map);
  return boundaryRecall(lines, proofEdges(proof, shareForProof(lines), stop),
                        toleranceFor(proof.size(), toleranceShare));
}

Holding lineHolding(View<std::uint16_t> map, View<Rgb8> proof, double toleranceShare, StopToken stop, double share) {
  const auto lines = narrowed(map);
  const auto distance = distanceToSet(proofEdges(proof, share > 0 ? share : shareForProof(lines), stop));
  const double tolerance = toleranceFor(proof.size(), toleranceShare);
  const double recall = recallFrom(lines, distance, tolerance);
  // What the same lines would meet by chance where edges are as dense as here: a little beside their places.
  const int aside = static_cast<int>(std::lround(3.2 * tolerance));
  double chance = 0;
  for (const auto& [dx, dy] : {std::pair{1, 0}, {-1, 0}, {0, 1}, {0, -1}, {1, 1}, {-1, -1}, {1, -1}, {-1, 1}})
    chance += recallFrom(moved(lines, dx * aside, dy * aside), distance, tolerance) / 8;
  chance = std::min({chance, recall, 0.95});
  Holding out{100 * std::clamp((recall - chance) / (1 - chance), 0.0, 1.0), Map(map.size())};
  for (int y = 0; y < map.height(); ++y)
    for (int x = 0; x < map.width(); ++x)
      if (lines(x, y) >= half && static_cast<double>(distance(x, y)) > tolerance)
        for (int dy = -1; dy <= 1; ++dy)
          for (int dx = -1; dx <= 1; ++dx)
            out.misses(std::clamp(x + dx, 0, map.width() - 1), std::clamp(y + dy, 0, map.height() - 1)) = 65535;
  return out;
}

double lineHold(View<std::uint16_t> map, View<Rgb8> proof, double toleranceShare, StopToken stop) {
  return lineHolding(map, proof, toleranceShare, stop).hold;
}

double toneHold(View<std::uint16_t> map, View<Rgb8> proof, StopToken stop) {
  const Size small{std::max(8, proof.width() / 12), std::max(8, proof.height() / 12)};
  Image<float> wanted(map.size());
  for (int y = 0; y < map.height(); ++y)
    std::transform(map.row(y), map.row(y) + map.width(), wanted.row(y),
                   [](std::uint16_t v) { return static_cast<float>(v) / 65535.0f; });
  auto light = luminanceOf(toLinear(proof));
  for (int y = 0; y < light.height(); ++y)
    for (float& v : light.line(y)) v = linearToSrgb(v);
  return 100 * std::max(0.0, correlation(resampled(wanted.view(), small, Resampling::area, stop),
                                         resampled(light.view(), small, Resampling::area, stop)));
}

double correlation(View<float> a, View<float> b) {
  double n = 0, sa = 0, sb = 0, saa = 0, sbb = 0, sab = 0;
  for (int y = 0; y < a.height(); ++y)
    for (int x = 0; x < a.width(); ++x) {
      const auto u = static_cast<double>(a(x, y)), v = static_cast<double>(b(x, y));
      n += 1;
      sa += u;
      sb += v;
      saa += u * u;
      sbb += v * v;
      sab += u * v;
    }
  const double va = saa - sa * sa / n, vb = sbb - sb * sb / n;
  return va > 1e-12 && vb > 1e-12 ? (sab - sa * sb / n) / std::sqrt(va * vb) : 0;
}

}  // namespace hscaffold
