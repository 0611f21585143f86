#include "core/depth/depth_hold.h"

#include <algorithm>
#include <cmath>
#include <optional>

#include "core/depth/depth.h"
#include "core/depth/things.h"
#include "core/digest.h"
#include "core/image/distance.h"
#include "core/image/narrow.h"
#include "core/image/parallel.h"
#include "core/image/resample.h"
#include "core/measure/hold.h"
#include "core/recently_used.h"

namespace hscaffold::depth {
namespace {

/// A leap of so much of the whole range within a few pixels.
constexpr int leap = 65535 * 5 / 100;

/// The longer side of the picture that the order is read from.
constexpr double longestRead = 192;

/// What a soft outline counts against a leap: it is less sure that there is a border just there.
constexpr double softCounts = 0.4;

/// What pairs of places count that lie far above each other.
constexpr double farWeight = 0.02;

/// Outlines of things where they are too soft to be leaps.
/// @param near  the map as numbers.  @param steps  its leaps.
Image<std::uint8_t> softOutlines(const Image<float>& near, View<std::uint8_t> steps) {
  constexpr double apart = 0.012;  // of the longer side: what lies nearer to a leap is that leap
  Image<std::uint8_t> out(near.size());
  const auto things = thingsIn(near);
  if (things.all.empty()) return out;
  const auto outlines = outlinesOf(things, near);
  const auto toLeap = distanceToSet(steps);
  const auto away = static_cast<float>(apart * std::max(near.width(), near.height()));
  for (int y = 0; y < near.height(); ++y)
    for (int x = 0; x < near.width(); ++x)
      if (outlines(x, y) != 0 && toLeap(x, y) > away) out(x, y) = 255;
  return out;
}

double lengthOf(View<std::uint8_t> lines) {
  double out = 0;
  for (int y = 0; y < lines.height(); ++y)
    for (const auto v : lines.line(y)) out += v != 0 ? 1 : 0;
  return out;
}

/// Share of pairs, on a fixed grid of places, in which both have the same order. `turned`: the reading left to right.
double sameOrder(View<std::uint16_t> map, View<float> read, bool turned) {
  constexpr int columns = 17, rows = 13;
  struct Place {
    float wanted, seen;
  };
  std::vector<Place> places;
  for (int j = 0; j < rows; ++j)
    for (int i = 0; i < columns; ++i) {
      const double u = (i + 0.5) / columns, v = (j + 0.5) / rows;
      const auto at = [&](auto view, double across) {
        return view(std::min(view.width() - 1, static_cast<int>(across * view.width())),
                    std::min(view.height() - 1, static_cast<int>(v * view.height())));
      };
      places.push_back({static_cast<float>(at(map, u)) / 65535.0f, at(read, turned ? 1 - u : u)});
    }
  double right = 0, all = 0;
  for (std::size_t a = 0; a < places.size(); ++a)
    for (std::size_t b = a + 1; b < places.size(); ++b) {
      // Beside each other: that what is lower is nearer, most pictures share.
      const bool beside = b / columns - a / columns <= 1;
      const float apart = places[a].wanted - places[b].wanted;
      if (std::fabs(apart) < 0.08f) continue;
      const auto weight = static_cast<double>(std::min(0.4f, std::fabs(apart))) * (beside ? 1 : farWeight);
      all += weight;
      right += weight * ((places[a].seen > places[b].seen) == (apart > 0) ? 1 : 0);
    }
  return all > 0 ? right / all : 0.5;
}

/// What a map asks for, whatever proof it is held against.
struct MapAsked {
  LinesAsked leaps, outlines;
  double length = 0, leapLength = 0;  ///< soft outlines count less
  double mirror = 0;  ///< share of pairs that its mirror image has in the same order
};

/// @param seen  size at which proofs are looked at.
MapAsked mapAsked(View<std::uint16_t> map, Size seen, StopToken stop) {
  const auto near = widened(map);
  const auto steps = narrowed(stepsOf(map)), soft = softOutlines(near, steps);
  MapAsked out{linesAsked(steps, seen, stop), linesAsked(soft, seen, stop), 0, lengthOf(steps),
               sameOrder(map, near, true)};
  out.length = out.leapLength + softCounts * lengthOf(soft);
  return out;
}

}  // namespace

Map stepsOf(View<std::uint16_t> map) {
  Map out(map.size());
  const int reach = std::max(1, std::max(map.width(), map.height()) / 400);
  Image<int> strength(map.size());
  parallelRows(map.height(), [&](int first, int end) {
    for (int y = first; y < end; ++y)
      for (int x = 0; x < map.width(); ++x) {
        // Second difference: what a slope does not have.
        const int across = std::abs(map.clamped(x + reach, y) - map.clamped(x - reach, y)),
                  down = std::abs(map.clamped(x, y + reach) - map.clamped(x, y - reach));
        const int wideAcross = std::abs(map.clamped(x + 3 * reach, y) - map.clamped(x - 3 * reach, y)),
                  wideDown = std::abs(map.clamped(x, y + 3 * reach) - map.clamped(x, y - 3 * reach));
        // A slope goes on: it is three times as high over three times the way.
        const int a = 2 * across > wideAcross ? across : 0, d = 2 * down > wideDown ? down : 0;
        strength(x, y) = std::max(a, d);
      }
  });
  for (int y = 0; y < map.height(); ++y)
    for (int x = 0; x < map.width(); ++x) {
      const int here = strength(x, y);
      if (here < leap) continue;
      // The ridge, across the steeper way.
      const bool upright = std::abs(map.clamped(x + reach, y) - map.clamped(x - reach, y)) >=
                           std::abs(map.clamped(x, y + reach) - map.clamped(x, y - reach));
      int before = 0, after = 0;
      for (int d = 1; d <= reach + 1; ++d) {
        before = std::max(before, upright ? strength.view().clamped(x - d, y) : strength.view().clamped(x, y - d));
        after = std::max(after, upright ? strength.view().clamped(x + d, y) : strength.view().clamped(x, y + d));
      }
      // On a flat ridge the first of its pixels.
      if (here > before && here >= after) out(x, y) = 65535;
    }
  return out;
}

Holding depthHolding(View<std::uint16_t> map, const ProofSeen& proof, StopToken stop) {
  static RecentlyUsed<AskedKey, MapAsked> kept(mostAskedPixels);
  const auto asked = kept.of(
      {digestOf(map), proof.size()},
      [&] { return std::make_shared<const MapAsked>(mapAsked(map, proof.size(), stop)); },
      static_cast<std::size_t>(map.size().area()));
  const double length = asked->length;
  Holding out;
  out.misses = Map(proof.size());
  // As much as one line across the frame makes steps worth all of their share; a few still tell something.
  const double share =
      length < 16 ? 0.0 : std::max(0.16, 0.8 * std::min(1.0, length / std::max(map.width(), map.height())));
  // Where depth leaps there is a border, but it need not be among the strongest in the picture; where it falls off
  // softly, the border is somewhere near.
  constexpr double looked = 0.09, atLeaps = 0.0075, atOutlines = 0.018;
  // Each counts by its length, and less where edges are so dense that chance meets nearly all of it.
  constexpr double plenty = 0.2;
  double weights = 0, sum = 0;
  std::optional<AlongLines> edges;
  const auto measure = [&](const LinesAsked& lines, double count, double tolerance) {
    if (count < 16) return;
    if (!edges) edges.emplace(proofEdges(proof, looked, stop));
    const auto held = linesHeld(lines, *edges, tolerance);
    const double weight = count * std::min(1.0, held.tells / plenty);
    sum += weight * held.holding.hold;
    weights += weight;
    // What is lost for sure is shown; soft outlines only where there is nothing surer.
    if (&lines == &asked->outlines && asked->leapLength >= 16) return;
    for (int y = 0; y < out.misses.height(); ++y)
      std::transform(out.misses.row(y), out.misses.row(y) + out.misses.width(), held.holding.misses.row(y),
                     out.misses.row(y), [](std::uint16_t p, std::uint16_t q) { return std::max(p, q); });
  };
  measure(asked->leaps, asked->leapLength, atLeaps);
  measure(asked->outlines, length - asked->leapLength, atOutlines);
  if (weights > 0) out.hold = sum / weights;
  // Pairs lie far from one another: a small picture tells their order as well as a large one.
  const auto& picture = proof.fromAfar(stop);
  const auto small = resampled(picture.view(), scaledTo(picture.size(), longestRead), Resampling::area, stop);
  const auto reading = readingOf(small.view(), stop, false);
  const auto read = overPixels(reading.seen, guessed(reading, Scene::automatic, nullptr, stop).near);
  throwIfStopped(stop);
  // Most pictures have the order of a map that says little but that what is lower is nearer: what counts is how far it
  // is read better than in the mirror. A picture drawn after the very map is read rightly on about nine of ten pairs,
  // or better than the mirror by two thirds of what there is to gain.
  const double right = sameOrder(map, read, false), chance = std::clamp(sameOrder(map, read, true), 0.5, 0.99);
  const double gain = right - chance - std::min(0.01, 0.15 * (1 - chance));
  const double order = std::clamp(gain / std::clamp(0.90 - chance, std::min(0.06, 0.65 * (1 - chance)), 0.4), 0.0, 1.0);
  // Order counts by what it can tell, against the leaps: little where the map itself is much like its mirror image.
  const double tells = (1 - share) * std::clamp((1 - asked->mirror) / 0.08, 0.15, 1.0);
  out.hold = (share * out.hold + tells * 100 * order) / (share + tells);
  return out;
}

}  // namespace hscaffold::depth
