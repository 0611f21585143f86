#include "core/measure/hold.h"

#include <cmath>

#include "core/edges/edges.h"
#include "core/image/colour.h"
#include "core/image/distance.h"
#include "core/image/filter.h"
#include "core/image/narrow.h"
#include "core/image/resample.h"
#include "core/lines/thinning.h"
#include "core/measure/moments.h"

namespace hscaffold {
namespace {

constexpr std::uint8_t half = 128;
/// Edges that are weaker than this share of the middle one among those looked at do not count.
constexpr double faint = 0.3;
/// What a line counts whose edge lies just within the tolerance.
constexpr double atTolerance = 0.4;
/// What a perfect copy misses of its lines with a tolerance of this share of the diagonal: edges break off elsewhere
/// than lines do. The wider the tolerance, the less that matters.
constexpr double missedInACopy = 0.02, missedAt = 0.0075;
/// Where chance leaves less than this to be told, all counts less.
constexpr double leastToTell = 0.05;
/// So many standard deviations above the mean are still chance.
constexpr double lucky = 0.8;

struct Pixel {
  int x = 0, y = 0;
  float half = 0;             ///< of the line's breadth there, less half a pixel
  std::uint8_t way = anyWay;  ///< that the line runs
};

std::vector<Pixel> setPixels(View<std::uint8_t> map) {
  std::vector<Pixel> out;
  for (int y = 0; y < map.height(); ++y)
    for (int x = 0; x < map.width(); ++x)
      if (map(x, y) >= half) out.push_back({x, y, 0, anyWay});
  return out;
}

/// The middles of lines. A broad stroke is met where an edge lies at either of its sides.
std::vector<Pixel> middlesOf(View<std::uint8_t> lines, StopToken stop) {
  const auto isSet = [&](int x, int y) { return lines.clamped(x, y) >= half; };
  auto thin = setPixels(lines);
  const bool broad = std::any_of(thin.begin(), thin.end(), [&](const Pixel& p) {
    return isSet(p.x + 1, p.y) && isSet(p.x, p.y + 1) && isSet(p.x + 1, p.y + 1);
  });
  if (!broad) return thin;
  Image<std::uint8_t> mask(lines.size()), outside(lines.width(), lines.height(), 255);
  for (const Pixel& p : thin) {
    mask(p.x, p.y) = 1;
    outside(p.x, p.y) = 0;
  }
  const auto middle = thinned(mask, stop);
  const auto inward = distanceToSet(outside);
  std::vector<Pixel> out;
  for (int y = 0; y < lines.height(); ++y)
    for (int x = 0; x < lines.width(); ++x)
      if (middle(x, y) != 0) out.push_back({x, y, std::max(0.0f, inward(x, y) - 1), anyWay});
  return out;
}

/// Mean credit of lines moved by (dx, dy); what leaves the frame does not count.
template <typename Credit>
double meanCredit(const std::vector<Pixel>& lines, Size frame, int dx, int dy, Credit credit) {
  double sum = 0;
  std::int64_t count = 0;
  for (const Pixel& p : lines) {
    const int x = p.x + dx, y = p.y + dy;
    if (x < 0 || y < 0 || x >= frame.width || y >= frame.height) continue;
    sum += credit({x, y, p.half, p.way});
    ++count;
  }
  return count > 0 ? sum / static_cast<double>(count) : 0;
}

double toleranceFor(Size size, double share) { return share * std::hypot(size.width, size.height); }

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

/// Takes a share of the ramp from top to bottom off that fits best.
void takeRampOff(Image<float>& a, double share) {
  double slope = 0, squares = 0;
  const double middle = 0.5 * (a.height() - 1);
  for (int y = 0; y < a.height(); ++y)
    for (const float v : a.line(y)) {
      slope += static_cast<double>(v) * (y - middle);
      squares += (y - middle) * (y - middle);
    }
  slope *= squares > 0 ? share / squares : 0;
  for (int y = 0; y < a.height(); ++y)
    for (float& v : a.line(y)) v -= static_cast<float>(slope * (y - middle));
}

}  // namespace

double boundaryRecall(View<std::uint8_t> map, View<std::uint8_t> found, double tolerance) {
  const auto distance = distanceToSet(found);
  return meanCredit(setPixels(map), map.size(), 0, 0,
                    [&](const Pixel& p) { return static_cast<double>(distance(p.x, p.y)) <= tolerance ? 1.0 : 0.0; });
}

double boundaryF(View<std::uint8_t> map, View<std::uint8_t> found, double tolerance) {
  const double recall = boundaryRecall(map, found, tolerance), precision = boundaryRecall(found, map, tolerance);
  return recall + precision > 0 ? 2 * recall * precision / (recall + precision) : 0;
}

double shareForProof(double ofLines) { return std::clamp(1.9 * ofLines, 0.008, 0.08); }

Image<std::uint8_t> proofEdges(const ProofSeen& proof, double share, StopToken stop) {
  const auto& field = proof.edges(stop);
  // The threshold at which about the wanted share of pixels is left.
  const auto wanted = static_cast<std::size_t>(share * static_cast<double>(proof.size().area()));
  std::vector<float> strengths;
  for (const auto& strip : field.strips)
    for (const auto& point : strip.points) strengths.push_back(point.strength);
  EdgeTuning tuning;
  tuning.thresholds = EdgeThresholds::magnitude;
  tuning.shortest = 6;
  tuning.low = 0;
  const auto strongest = [&](std::size_t count) {
    std::nth_element(strengths.begin(), strengths.begin() + static_cast<std::ptrdiff_t>(count), strengths.end(),
                     std::greater<>());
    return static_cast<double>(strengths[count]);
  };
  if (strengths.size() > wanted) tuning.low = strongest(wanted);
  if (!strengths.empty()) tuning.low = std::max(tuning.low, faint * strongest(std::min(wanted, strengths.size()) / 2));
  // What goes on from a strong edge is looked at even where it is weaker.
  tuning.high = tuning.low * 1.1;
  tuning.low *= 0.7;
  return drawEdges(field, tuning, stop);
}

double lineRecall(View<std::uint16_t> map, const ProofSeen& proof, double toleranceShare, StopToken stop) {
  const auto lines = narrowed(map);
  return boundaryRecall(lines, proofEdges(proof, shareForProof(edgeShare(lines)), stop),
                        toleranceFor(proof.size(), toleranceShare));
}

LinesHeld linesHeld(View<std::uint8_t> lines, const AlongLines& edges, double toleranceShare, StopToken stop) {
  auto middles = middlesOf(lines, stop);
  Image<std::uint8_t> thin(lines.size());
  for (const Pixel& p : middles) thin(p.x, p.y) = 255;
  const auto ways = waysOf(thin);
  for (Pixel& p : middles) p.way = ways(p.x, p.y);
  const double tolerance = toleranceFor(lines.size(), toleranceShare);
  const auto offOf = [&](const Pixel& p) {
    const float enough = p.half + static_cast<float>(tolerance) + 1;
    return static_cast<double>(edges.distance(p.x, p.y, p.way, enough) - p.half);
  };
  const auto credit = [&](const Pixel& p) {
    const double off = std::max(0.0, offOf(p)) / tolerance;
    return off <= 0.5 ? 1.0 : off <= 1 ? 1 - 2 * (1 - atTolerance) * (off - 0.5) : 0.0;
  };
  const double met = meanCredit(middles, lines.size(), 0, 0, credit);
  // What the same lines would meet by chance where edges are as dense as here: a little beside their places.
  double broad = 0;
  for (const Pixel& p : middles) broad += static_cast<double>(p.half) / static_cast<double>(middles.size());
  const int aside = static_cast<int>(std::lround(3.2 * tolerance + broad));
  double mean = 0, squares = 0;
  for (const auto& [dx, dy] : {std::pair{1, 0}, {-1, 0}, {0, 1}, {0, -1}, {1, 1}, {-1, -1}, {1, -1}, {-1, 1}}) {
    const double there = meanCredit(middles, lines.size(), dx * aside, dy * aside, credit);
    mean += there / 8;
    squares += there * there / 8;
  }
  // Chance is now kinder and now harder, to few lines (less than one across the frame) more so: only what stands out
  // from that counts.
  const double few = std::max(0.0, 1 - static_cast<double>(middles.size()) / std::max(lines.width(), lines.height()));
  const double stray = std::sqrt(std::max(0.0, squares - mean * mean));
  const double chance = std::min(mean + std::max(few, lucky) * stray, met);
  const double whole = 1 - missedInACopy * missedAt / toleranceShare;
  Holding held{
      100 * std::clamp((met - chance) / std::max(leastToTell, whole - chance), 0.0, 1.0), Map(lines.size()), {}};
  for (const Pixel& p : middles) {
    if (offOf(p) <= tolerance) continue;
    const int reach = 1 + static_cast<int>(p.half);
    for (int dy = -reach; dy <= reach; ++dy)
      for (int dx = -reach; dx <= reach; ++dx)
        if (reach == 1 || dx * dx + dy * dy <= reach * reach)
          held.misses(std::clamp(p.x + dx, 0, lines.width() - 1), std::clamp(p.y + dy, 0, lines.height() - 1)) = 65535;
  }
  return {std::move(held), std::clamp(whole - chance, 0.0, 1.0)};
}

Holding lineHolding(View<std::uint16_t> map, const ProofSeen& proof, double toleranceShare, StopToken stop) {
  const auto lines = narrowed(map);
  const AlongLines edges(proofEdges(proof, shareForProof(edgeShare(lines)), stop));
  return linesHeld(lines, edges, toleranceShare, stop).holding;
}

double lineHold(View<std::uint16_t> map, const ProofSeen& proof, double toleranceShare, StopToken stop) {
  return lineHolding(map, proof, toleranceShare, stop).hold;
}

double toneHold(View<std::uint16_t> map, const ProofSeen& proof, StopToken stop) {
  const Size small{std::max(8, proof.size().width / 12), std::max(8, proof.size().height / 12)};
  auto light = luminanceOf(proof.fromAfar(stop));
  for (int y = 0; y < light.height(); ++y)
    for (float& v : light.line(y)) v = linearToSrgb(v);
  auto wanted = resampled(widened(map).view(), small, Resampling::area, stop);
  auto seen = resampled(light.view(), small, Resampling::area, stop);
  // Most pictures are light above and dark below: what says more than that is compared without it.
  constexpr double plain = 0.2;  // of the map's variance: with less than this beside the ramp, the ramp is its tone
  auto beside = wanted.clone();
  takeRampOff(beside, 1);
  const double all = varianceOf(wanted), part = all > 0 ? std::min(1.0, varianceOf(beside) / all / plain) : 0;
  takeRampOff(wanted, part);
  takeRampOff(seen, part);
  const double straight = correlation(wanted, seen);
  const auto turned = mirroredAcross(wanted);
  // What the mirror image has as well is chance, as far as the map is not its own mirror image.
  const double chance = std::max(0.0, correlation(turned, seen)) * (1 - std::max(0.0, correlation(turned, wanted)));
  return 100 * std::max(0.0, (straight - chance) / (1 - chance));
}

double correlation(View<float> a, View<float> b) {
  Moments of;
  for (int y = 0; y < a.height(); ++y)
    for (int x = 0; x < a.width(); ++x) of.add(static_cast<double>(a(x, y)), static_cast<double>(b(x, y)));
  const auto [xx, xy, yy] = of.spread();
  return xx > 1e-12 && yy > 1e-12 ? xy / std::sqrt(xx * yy) : 0;
}

}  // namespace hscaffold
