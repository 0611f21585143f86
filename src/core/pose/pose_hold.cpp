#include "core/pose/pose_hold.h"

#include <algorithm>
#include <array>
#include <cmath>
#include <numbers>
#include <optional>

#include "core/image/colour.h"
#include "core/pose/find/network_finder.h"
#include "core/pose/solids.h"

namespace hscaffold::pose {
namespace {

/// Places along a limb at which it is compared with what lies beside it.
constexpr int stations = 11;
/// How far beside a limb its surroundings are looked for, in its radii: sleeves may be wider than arms.
constexpr std::array<double, 2> beside = {1.8, 2.7};
/// Colours that differ by more than this, in CIELAB, differ for certain.
constexpr double certain = 35;
/// The share of other placements that a limb of a perfect copy beats; by chance it is a half.
constexpr double inACopy = 0.9;
/// Below this share a limb counts as lost.
constexpr double lostBelow = 0.66;
/// By how many standard deviations a body must stand out from itself put elsewhere: from nothing to all.
constexpr double bodyFrom = 0.4, bodyWhole = 1.6;
/// How well the finder meets the joints of a perfect copy, and those of somebody else in the same place.
constexpr double metInACopy = 0.8, metByChance = 0.1;
/// Smaller figures are looked at closely, others from afar.
constexpr double closeBelow = 90;

/// Colours of the proof, from afar or close to.
struct Colours {
  Image<CieLab> lab;
  double scale = 1;  ///< from the proof's pixels

  [[nodiscard]] const CieLab* at(Point p) const {
    const int x = static_cast<int>(std::floor(p.x * scale)), y = static_cast<int>(std::floor(p.y * scale));
    return x >= 0 && y >= 0 && x < lab.width() && y < lab.height() ? &lab(x, y) : nullptr;
  }
};

Colours coloursOf(const Image<Rgb>& linear, Size proof) {
  Colours out{Image<CieLab>(linear.size()), static_cast<double>(linear.width()) / proof.width};
  for (int y = 0; y < linear.height(); ++y)
    std::transform(linear.row(y), linear.row(y) + linear.width(), out.lab.row(y), linearToCieLab);
  return out;
}

double differenceOf(const CieLab& a, const CieLab& b) {
  return std::min(certain, static_cast<double>(std::hypot(a.l - b.l, a.a - b.a, a.b - b.b)));
}

/// How much a strip stands out from both sides, CIELAB units; empty where too little of what is beside it can be seen.
/// @param body  the solids of the same body: they are no surroundings.
std::optional<double> standsOut(const PlacedSolid& strip, const std::vector<PlacedSolid>& body, Point bodyAt,
                                const Colours& colours) {
  const Point along = normalised(strip.b - strip.a), across{-along.y, along.x};
  double sum = 0;
  int counted = 0;
  for (int s = 0; s < stations; ++s) {
    const double t = 0.12 + 0.76 * s / (stations - 1);
    const Point middle = strip.a + (strip.b - strip.a) * t;
    const double radius = std::max(1.0 / colours.scale, strip.radiusA + t * (strip.radiusB - strip.radiusA));
    std::array<const CieLab*, 3> inside{};
    for (std::size_t i = 0; i < inside.size(); ++i)
      inside[i] = colours.at(middle + across * (0.55 * radius * (static_cast<double>(i) - 1)));
    if (std::any_of(inside.begin(), inside.end(), [](const CieLab* c) { return c == nullptr; })) continue;
    const CieLab own{(inside[0]->l + inside[1]->l + inside[2]->l) / 3, (inside[0]->a + inside[1]->a + inside[2]->a) / 3,
                     (inside[0]->b + inside[1]->b + inside[2]->b) / 3};
    double least = certain + 1;
    for (const double side : {-1.0, 1.0}) {
      double most = -1;
      for (const double off : beside) {
        const Point there = middle + across * (side * off * radius);
        const bool isBody = std::any_of(body.begin(), body.end(), [&](const PlacedSolid& other) {
          return other.solid != strip.solid && distanceTo(other, there - bodyAt) < 0.25 * radius;
        });
        const CieLab* colour = isBody ? nullptr : colours.at(there);
        if (colour != nullptr) most = std::max(most, differenceOf(own, *colour));
      }
      if (most >= 0) least = std::min(least, most);
    }
    if (least > certain) continue;
    sum += least;
    ++counted;
  }
  if (counted < stations / 2) return {};
  return sum / counted;
}

PlacedSolid turned(PlacedSolid limb, double degrees) {
  const double turn = degrees * std::numbers::pi / 180;
  limb.b = limb.a + rotatedBy(limb.b - limb.a, std::cos(turn), std::sin(turn));
  return limb;
}

PlacedSolid shifted(PlacedSolid limb, Point by) {
  limb.a = limb.a + by;
  limb.b = limb.b + by;
  return limb;
}

/// Share of other placements of a limb in which it stands out less, [0, 1].
std::optional<double> shareBeaten(const PlacedSolid& limb, const std::vector<PlacedSolid>& body,
                                  const Colours& colours) {
  const auto here = standsOut(limb, body, {}, colours);
  if (!here) return {};
  const double broad = limb.radiusA + limb.radiusB;
  const Point along = normalised(limb.b - limb.a), across{-along.y, along.x};
  double beaten = 0, all = 0;
  const auto against = [&](const PlacedSolid& other) {
    const auto there = standsOut(other, body, {}, colours);
    if (!there) return;
    // Nearly the same is a draw.
    beaten += std::clamp(0.5 + (*here - *there) / 3, 0.0, 1.0);
    all += 1;
  };
  for (const double degrees : {25, 40, 60, 85, 115, 150}) {
    against(turned(limb, degrees));
    against(turned(limb, -degrees));
  }
  for (const double off : {1.5, 2.5, 4.0}) {
    against(shifted(limb, across * (off * broad)));
    against(shifted(limb, across * (-off * broad)));
  }
  if (all < 5) return {};
  return beaten / all;
}

/// How far a body stands out more here than elsewhere, [0, 1].
double isThere(const std::vector<PlacedSolid>& limbs, const std::vector<PlacedSolid>& body, double size,
               const Colours& colours) {
  const auto meanAt = [&](Point by) -> std::optional<double> {
    double sum = 0, weights = 0;
    for (const PlacedSolid& limb : limbs)
      if (const auto out = standsOut(shifted(limb, by), body, by, colours)) {
        const double weight = std::sqrt(distanceBetween(limb.a, limb.b));
        sum += weight * *out;
        weights += weight;
      }
    if (weights <= 0) return {};
    return sum / weights;
  };
  const auto here = meanAt({});
  if (!here) return 0;
  double count = 0, sum = 0, squares = 0;
  for (const double dx : {-1.1, -0.75, -0.45, -0.22, 0.22, 0.45, 0.75, 1.1})
    for (const double dy : {-0.15, 0.0, 0.15})
      if (const auto there = meanAt({dx * size, dy * size})) {
        count += 1;
        sum += *there;
        squares += *there * *there;
      }
  // A body that fills the frame can be nowhere else: its limbs must tell.
  if (count < 4) return 1;
  const double mean = sum / count, spread = std::sqrt(std::max(0.0, squares / count - mean * mean));
  return std::clamp(((*here - mean) / (spread + 1) - bodyFrom) / (bodyWhole - bodyFrom), 0.0, 1.0);
}

/// What the finder saw of a figure where it should be.
struct Seen {
  double sure = 0;  ///< that somebody is there, [0, 1]
  Figure figure;    ///< in the proof's pixels
};

std::optional<Seen> seenBy(const Figure& figure, double size, const Image<Rgb>& picture, double scale,
                           const StopToken& stop) {
  constexpr double smallest = 24;  ///< pixels of what is looked at
  constexpr double from = 0.42, whole = 0.58;
  const auto box = boundsOf(figure);
  const auto sought = soughtAs(figure.skeleton);
  if (!box || !sought || size * scale < smallest) return {};
  auto found =
      figureIn(picture, {box->left * scale, box->top * scale, box->right * scale, box->bottom * scale}, *sought, stop);
  if (!found) return {};
  for (KeyPoint& p : found->points) p.at = p.at * (1 / scale);
  return Seen{std::clamp((confidenceOf(*found) - from) / (whole - from), 0.0, 1.0), std::move(*found)};
}

/// How near a joint that was found lies to where one should be, [0, 1].
double nearness(const KeyPoint& found, const KeyPoint& wanted, double size) {
  constexpr double stray = 0.055;  // of the size: what a miss by so much counts, e to the minus half
  if (!found.there()) return 0;
  const double off = distanceBetween(found.at, wanted.at) / (stray * size);
  return std::exp(-off * off / 2);
}

bool isSureOf(const Seen& seen, const Figure& wanted, std::size_t p) {
  constexpr double sureEnough = 0.4;
  return wanted.points[p].there() && seen.figure.points[p].there() && seen.figure.points[p].confidence >= sureEnough;
}

/// What was found, its sides exchanged where the whole body is met better so: the finder takes one for the other more
/// often than proofs do.
Seen withSidesAs(const Figure& wanted, Seen seen, double size) {
  double straight = 0, crossed = 0;
  for (std::size_t p = 0; p < wanted.points.size(); ++p) {
    if (!isSureOf(seen, wanted, p)) continue;
    straight += nearness(seen.figure.points[p], wanted.points[p], size);
    crossed += nearness(seen.figure.points[wanted.kind().points[p].mirror], wanted.points[p], size);
  }
  if (crossed > straight) seen.figure = withSidesSwapped(seen.figure);
  return seen;
}

/// How near the ends of a limb lie to where they should be, [0, 1]; none where the finder is not sure of them.
std::optional<double> metBy(const Seen& seen, const PlacedSolid& limb, const Figure& wanted, double size) {
  double sum = 0;
  int ends = 0;
  for (const auto* points : {&limb.solid->from, &limb.solid->to})
    for (const std::size_t p : *points)
      if (isSureOf(seen, wanted, p)) {
        sum += nearness(seen.figure.points[p], wanted.points[p], size);
        ++ends;
      }
  if (ends < 2) return {};
  return sum / ends;
}

void mark(Map& misses, const PlacedSolid& limb) {
  const double reach = std::max(limb.radiusA, limb.radiusB);
  const int left = std::max(0, static_cast<int>(std::min(limb.a.x, limb.b.x) - reach)),
            right = std::min(misses.width() - 1, static_cast<int>(std::max(limb.a.x, limb.b.x) + reach)),
            top = std::max(0, static_cast<int>(std::min(limb.a.y, limb.b.y) - reach)),
            bottom = std::min(misses.height() - 1, static_cast<int>(std::max(limb.a.y, limb.b.y) + reach));
  for (int y = top; y <= bottom; ++y)
    for (int x = left; x <= right; ++x)
      if (distanceTo(limb, {x + 0.5, y + 0.5}) < 0) misses(x, y) = 65535;
}

}  // namespace

Holding poseHolding(const Figures& asked, const ProofSeen& proof, StopToken stop) {
  const Figures figures = following(asked, proof.size(), {});
  constexpr std::size_t namesShown = 3;
  Holding out;
  out.misses = Map(proof.size());
  std::optional<Colours> afar, close;
  const auto on = std::count_if(figures.figures.begin(), figures.figures.end(), [](const auto& f) { return f->on; });
  double sum = 0, weights = 0, lost = 0, byFinder = 0;
  for (const auto& figure : figures.figures) {
    if (!figure->on) continue;
    throwIfStopped(stop);
    const double size = sizeOf(*figure);
    const auto body = solidsOf(*figure);
    std::vector<PlacedSolid> limbs;
    for (const PlacedSolid& solid : body)
      if (!solid.solid->name.empty() && !solid.hidden &&
          distanceBetween(solid.a, solid.b) > 0.8 * (solid.radiusA + solid.radiusB))
        limbs.push_back(solid);
    const bool isFar = size * proof.fromAfar(stop).width() / proof.size().width >= closeBelow;
    auto& colours = isFar ? afar : close;
    if (!colours) colours = coloursOf(isFar ? proof.fromAfar(stop) : proof.linear(stop), proof.size());
    auto seen = seenBy(*figure, size, isFar ? proof.fromAfar(stop) : proof.linear(stop), colours->scale, stop);
    if (seen) seen = withSidesAs(*figure, std::move(*seen), size);
    const double there = std::max(isThere(limbs, body, size, *colours), seen ? seen->sure : 0.0);
    for (const PlacedSolid& limb : limbs) {
      throwIfStopped(stop);
      auto share = shareBeaten(limb, body, *colours);
      bool found = false;
      // Where the finder is sure, its word counts as far as it is, half of that against what stands out.
      if (const auto met = seen && seen->sure > 0 ? metBy(*seen, limb, *figure, size) : std::nullopt) {
        const double its = 0.5 + (inACopy - 0.5) * std::min(1.0, (*met - metByChance) / (metInACopy - metByChance));
        share = share ? std::lerp(*share, its, (its > *share ? 1.0 : 0.5) * seen->sure) : its;
        found = true;
      }
      if (!share) continue;
      const double weight = std::sqrt(distanceBetween(limb.a, limb.b) * std::sqrt(size));
      sum += weight * there * (*share - 0.5) / (inACopy - 0.5);
      weights += weight;
      byFinder += found ? weight : 0;
      if (there > 0.3 && *share >= lostBelow) continue;
      mark(out.misses, limb);
      const Point middle = (limb.a + limb.b) * 0.5;
      const std::string whose = on > 1 && !figure->name.empty() ? " of " + figure->name : "";
      out.lost.push_back({middle.x, middle.y, 1.6 * distanceBetween(limb.a, limb.b), weight, limb.solid->name + whose});
      lost += weight;
    }
  }
  if (weights > 0) out.hold = 100 * std::clamp(sum / weights, 0.0, 1.0);
  out.means = byFinder <= 0.1 * weights  ? "colours along the limbs"
              : byFinder < 0.9 * weights ? "figures that were found, and colours along the limbs"
                                         : "figures that were found";
  for (MissedPlace& place : out.lost) place.share /= lost;
  std::stable_sort(out.lost.begin(), out.lost.end(),
                   [](const MissedPlace& a, const MissedPlace& b) { return a.share > b.share; });
  if (out.lost.size() > namesShown) out.lost.resize(namesShown);
  return out;
}

}  // namespace hscaffold::pose
