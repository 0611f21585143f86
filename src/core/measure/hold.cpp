#include "core/measure/hold.h"

#include <cmath>
#include <utility>

#include "core/digest.h"
#include "core/edge_finding/edges.h"
#include "core/image/distance.h"
#include "core/image/narrow.h"
#include "core/measure/moments.h"
#include "core/recently_used.h"
#include "core/strokes/thinning.h"

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
/// No more of the way between edges, were they evenly spread, is within the tolerance.
constexpr double dense = 0.4;
/// Where chance leaves less than this to be told, all counts less.
constexpr double leastToTell = 0.05;
/// So many standard deviations above the mean are still chance.
constexpr double lucky = 0.8;

using Pixel = LinesAsked::Pixel;

std::vector<Pixel> setPixels(View<std::uint8_t> map) {
  std::vector<Pixel> out;
  for (int y = 0; y < map.height(); ++y)
    for (int x = 0; x < map.width(); ++x)
      if (map(x, y) >= half) out.push_back({x, y, 0, anyWay});
  return out;
}

/// From the middle of a mass spurs run to the dents of its border: they are no lines.
/// @param inward  how far everything is from the border of the mass
void dropSpurs(Image<std::uint8_t>& middle, const Image<float>& inward) {
  constexpr float within = 1;  // a disc that reaches less far out of a greater one adds nothing to the mass
  const auto all = middle.clone();
  for (int y = 0; y < all.height(); ++y)
    for (int x = 0; x < all.width(); ++x) {
      if (all(x, y) == 0) continue;
      const int reach = static_cast<int>(inward(x, y));
      for (int v = std::max(0, y - reach); v <= std::min(all.height() - 1, y + reach); ++v)
        for (int u = std::max(0, x - reach); u <= std::min(all.width() - 1, x + reach); ++u)
          if (const float less = inward(x, y) - inward(u, v);
              less > 1 && std::hypot(static_cast<float>(u - x), static_cast<float>(v - y)) < less + within)
            middle(u, v) = 0;
    }
}

/// The middles of lines. A broad stroke is met where an edge lies at either of its sides.
std::vector<Pixel> middlesOf(View<std::uint8_t> lines, StopToken stop) {
  const auto isSet = [&](int x, int y) { return lines.clamped(x, y) >= half; };
  auto out = setPixels(lines);
  const bool broad = std::any_of(out.begin(), out.end(), [&](const Pixel& p) {
    return isSet(p.x + 1, p.y) && isSet(p.x, p.y + 1) && isSet(p.x + 1, p.y + 1);
  });
  Image<std::uint8_t> mask(lines.size());
  for (const Pixel& p : out) mask(p.x, p.y) = 1;
  if (broad) {
    Image<std::uint8_t> outside(lines.width(), lines.height(), 255);
    for (const Pixel& p : out) outside(p.x, p.y) = 0;
    const auto inward = distanceToSet(outside);
    mask = thinned(mask, stop);
    dropSpurs(mask, inward);
    out.clear();
    for (int y = 0; y < lines.height(); ++y)
      for (int x = 0; x < lines.width(); ++x)
        if (mask(x, y) != 0) out.push_back({x, y, std::max(0.0f, inward(x, y) - 1), anyWay});
  }
  for (int y = 0; y < mask.height(); ++y)
    for (auto& v : mask.line(y)) v = v != 0 ? 255 : 0;
  const auto ways = waysOf(mask);
  for (Pixel& p : out) p.way = ways(p.x, p.y);
  return out;
}

struct Move {
  int dx = 0, dy = 0;
  std::uint8_t way = anyWay;  ///< lines that run it, or nearly, are moved along themselves
};

/// Mean credit of lines moved aside; what leaves the frame does not count.
template <typename Credit>
double meanCredit(const std::vector<Pixel>& lines, Size frame, Move move, Credit credit,
                  std::int64_t* counted = nullptr) {
  double sum = 0;
  std::int64_t count = 0;
  for (const Pixel& p : lines) {
    const int x = p.x + move.dx, y = p.y + move.dy;
    if (x < 0 || y < 0 || x >= frame.width || y >= frame.height) continue;
    if (move.way != anyWay && p.way != anyWay && waysBetween(p.way, move.way) <= 1) continue;
    sum += credit({x, y, p.half, p.way});
    ++count;
  }
  if (counted) *counted = count;
  return count > 0 ? sum / static_cast<double>(count) : 0;
}

/// What the same lines would meet where edges are as dense as here: a little beside their places, across themselves.
/// @return mean and standard deviation over eight such places
template <typename Credit>
std::pair<double, double> metByChance(const std::vector<Pixel>& lines, Size frame, int aside, Credit credit) {
  double mean = 0, squares = 0, all = 0;
  for (const Move& to :
       {Move{1, 0, 0}, {-1, 0, 0}, {0, 1, 4}, {0, -1, 4}, {1, 1, 2}, {-1, -1, 2}, {1, -1, 6}, {-1, 1, 6}}) {
    std::int64_t counted = 0;
    const double there = meanCredit(lines, frame, {to.dx * aside, to.dy * aside, to.way}, credit, &counted);
    const auto count = static_cast<double>(counted);
    mean += count * there;
    squares += count * there * there;
    all += count;
  }
  if (all <= 0) return {0, 0};
  mean /= all;
  return {mean, std::sqrt(std::max(0.0, squares / all - mean * mean))};
}

double toleranceFor(Size size, double share) { return share * std::hypot(size.width, size.height); }

}  // namespace

double boundaryRecall(View<std::uint8_t> map, View<std::uint8_t> found, double tolerance) {
  const auto distance = distanceToSet(found);
  return meanCredit(setPixels(map), map.size(), {},
                    [&](const Pixel& p) { return static_cast<double>(distance(p.x, p.y)) <= tolerance ? 1.0 : 0.0; });
}

double boundaryF(View<std::uint8_t> map, View<std::uint8_t> found, double tolerance) {
  const double recall = boundaryRecall(map, found, tolerance), precision = boundaryRecall(found, map, tolerance);
  return recall + precision > 0 ? 2 * recall * precision / (recall + precision) : 0;
}

double shareForProof(double ofLines) { return std::clamp(1.9 * ofLines, 0.008, 0.14); }

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
  const auto asked = linesAsked(narrowed(map), proof.size(), stop);
  const auto distance = distanceToSet(proofEdges(proof, shareForProof(asked.share), stop));
  const double tolerance = toleranceFor(proof.size(), toleranceShare);
  return meanCredit(asked.middles, asked.size, {},
                    [&](const Pixel& p) { return static_cast<double>(distance(p.x, p.y)) <= tolerance ? 1.0 : 0.0; });
}

LinesAsked linesAsked(View<std::uint8_t> lines, Size seen, StopToken stop) {
  LinesAsked out{{}, seen, 0, 0};
  const auto middles = middlesOf(lines, stop);
  if (middles.empty()) return out;
  // Lines that would run into one another at the scale of proofs stay apart: only their places are brought to it.
  const double across = static_cast<double>(seen.width) / lines.width(),
               down = static_cast<double>(seen.height) / lines.height(), scale = std::sqrt(across * down);
  Image<std::uint8_t> taken(seen);
  for (const Pixel& p : middles) {
    const int x = std::min(seen.width - 1, static_cast<int>((p.x + 0.5) * across)),
              y = std::min(seen.height - 1, static_cast<int>((p.y + 0.5) * down));
    if (std::exchange(taken(x, y), std::uint8_t{1}) != 0) continue;
    out.middles.push_back({x, y, std::max(0.0f, static_cast<float>((p.half + 0.5) * scale - 0.5)), p.way});
  }
  out.length = static_cast<double>(middles.size()) * scale;
  // A line of one pixel is an edge; a broad one has edges at either side, and by the side of what it is drawn after.
  constexpr double edgesOfBroad = 3;
  const double thin = static_cast<double>(middles.size()) / static_cast<double>(lines.size().area());
  out.share = out.length / static_cast<double>(seen.area()) *
              std::clamp(edgesOfBroad * (edgeShare(lines) / thin - 1), 1.0, edgesOfBroad);
  return out;
}

LinesHeld linesHeld(const LinesAsked& lines, const AlongLines& edges, double toleranceShare) {
  const auto& [middles, size, length, share] = lines;
  const double wide = toleranceFor(size, toleranceShare);
  // Where edges are so dense that one is near whatever is asked, only a nearer one tells anything.
  const double tolerance = std::min(wide, dense / std::max(share, 1e-6));
  const auto offOf = [&](const Pixel& p) {
    const float enough = p.half + static_cast<float>(tolerance) + 1;
    return static_cast<double>(edges.distance(p.x, p.y, p.way, enough) - p.half);
  };
  const auto credit = [&](const Pixel& p) {
    const double off = std::max(0.0, offOf(p)) / tolerance;
    return off <= 0.5 ? 1.0 : off <= 1 ? 1 - 2 * (1 - atTolerance) * (off - 0.5) : 0.0;
  };
  const double met = meanCredit(middles, size, {}, credit);
  double broad = 0;
  for (const Pixel& p : middles) broad += static_cast<double>(p.half) / static_cast<double>(middles.size());
  const auto [mean, stray] = metByChance(middles, size, static_cast<int>(std::lround(3.2 * tolerance + broad)), credit);
  // Chance is now kinder and now harder, to few lines (less than one across the frame) more so: only what stands out
  // from that counts.
  const double few = std::max(0.0, 1 - length / std::max(size.width, size.height));
  const double chance = std::min(mean + std::max(few, lucky) * stray, met);
  const double whole = 1 - missedInACopy * missedAt / toleranceShare * wide / tolerance;
  Holding held{100 * std::clamp((met - chance) / std::max(leastToTell, whole - chance), 0.0, 1.0), Map(size), {}};
  for (const Pixel& p : middles) {
    if (offOf(p) <= tolerance) continue;
    const int reach = 1 + static_cast<int>(p.half);
    for (int dy = -reach; dy <= reach; ++dy)
      for (int dx = -reach; dx <= reach; ++dx)
        if (reach == 1 || dx * dx + dy * dy <= reach * reach)
          held.misses(std::clamp(p.x + dx, 0, size.width - 1), std::clamp(p.y + dy, 0, size.height - 1)) = 65535;
  }
  return {std::move(held), std::clamp(whole - chance, 0.0, 1.0)};
}

Holding lineHolding(View<std::uint16_t> map, const ProofSeen& proof, double toleranceShare, StopToken stop) {
  static RecentlyUsed<AskedKey, LinesAsked> kept(mostAskedPixels);
  const auto asked = kept.of(
      {digestOf(map), proof.size()},
      [&] { return std::make_shared<const LinesAsked>(linesAsked(narrowed(map), proof.size(), stop)); },
      static_cast<std::size_t>(map.size().area()));
  const AlongLines edges(proofEdges(proof, shareForProof(asked->share), stop));
  return linesHeld(*asked, edges, toleranceShare).holding;
}

double lineHold(View<std::uint16_t> map, const ProofSeen& proof, double toleranceShare, StopToken stop) {
  return lineHolding(map, proof, toleranceShare, stop).hold;
}

double correlation(View<float> a, View<float> b) {
  Moments of;
  for (int y = 0; y < a.height(); ++y)
    for (int x = 0; x < a.width(); ++x) of.add(static_cast<double>(a(x, y)), static_cast<double>(b(x, y)));
  const auto [xx, xy, yy] = of.spread();
  return xx > 1e-12 && yy > 1e-12 ? xy / std::sqrt(xx * yy) : 0;
}

}  // namespace hscaffold
