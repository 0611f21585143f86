#include "core/measure/agreement.h"

#include <algorithm>
#include <cmath>

#include "core/image/distance.h"
#include "core/image/narrow.h"
#include "core/image/resample.h"
#include "core/measure/hold.h"

namespace hscaffold {
namespace {

constexpr int borderLength = 192, valueLength = 48;
/// Blocks in which borders are compared, in pixels of the sketch.
constexpr int block = 24;
/// A block with fewer border pixels of either asks for nothing.
constexpr int leastInBlock = 9;
/// Borders within this distance are the same, and those moved by so many times that are others.
constexpr double same = 2.2, asideBy = 3.2;
/// Blocks that agree less than this, chance taken off, contradict; so many pixels of blocks must, of all that are
/// shared.
constexpr double agreed = 0.25, muchAgainst = 0.4;
constexpr int leastBlocks = 3;
/// Half tones that run against one another at least so much contradict.
constexpr double against = -0.25;

/// A thin line stays a line, however small the picture gets.
Image<std::uint8_t> shrunk(View<std::uint16_t> map, Size small) {
  Image<std::uint8_t> out(small);
  for (int y = 0; y < map.height(); ++y)
    for (int x = 0; x < map.width(); ++x)
      if (map(x, y) >= 32768)
        out(static_cast<int>(static_cast<std::int64_t>(x) * small.width / map.width()),
            static_cast<int>(static_cast<std::int64_t>(y) * small.height / map.height())) = 255;
  return out;
}

Image<float> reducedTo(View<std::uint16_t> map, Size small, StopToken stop) {
  return resampled(widened(map).view(), small, Resampling::area, stop);
}

/// What of one map's borders in a block lies near the other's, chance taken off.
struct Near {
  int count = 0;
  double met = 0, chance = 0;
  [[nodiscard]] double share() const {
    const double by = std::min(0.9, chance / std::max(1, count));
    return (met / std::max(1, count) - by) / (1 - by);
  }
  void operator+=(const Near& other) {
    count += other.count;
    met += other.met;
    chance += other.chance;
  }
};

std::vector<Near> nearIn(View<std::uint8_t> of, View<float> toOther, double reach, int columns, int rows) {
  std::vector<Near> out(static_cast<std::size_t>(columns * rows));
  const int away = static_cast<int>(std::lround(asideBy * reach));
  const auto isNear = [&](int x, int y) { return static_cast<double>(toOther.clamped(x, y)) <= reach ? 1.0 : 0.0; };
  for (int y = 0; y < of.height(); ++y)
    for (int x = 0; x < of.width(); ++x) {
      if (of(x, y) == 0) continue;
      Near& here = out[static_cast<std::size_t>(y / block * columns + x / block)];
      ++here.count;
      here.met += isNear(x, y);
      here.chance += (isNear(x + away, y) + isNear(x - away, y) + isNear(x, y + away) + isNear(x, y - away)) / 4;
    }
  return out;
}

/// The largest place in a small map of misses, in pixels of the frame.
MissedPlace mostIn(const Map& misses, Size frame) {
  const auto places = missedPlaces(misses, 1);
  MissedPlace place =
      places.empty() ? MissedPlace{misses.width() / 2.0, misses.height() / 2.0, 1, 1, "middle"} : places.front();
  const double scale = static_cast<double>(frame.width) / misses.width();
  place.x *= scale;
  place.y *= scale;
  place.extent *= scale;
  return place;
}

std::optional<Contradiction> ofBorders(const MapSketch& a, const MapSketch& b) {
  if (a.borders.empty() || b.borders.empty() || a.borders.size() != b.borders.size()) return {};
  const Size size = a.borders.size();
  const int columns = (size.width + block - 1) / block, rows = (size.height + block - 1) / block;
  const double reach = std::max({same, a.stray, b.stray});
  const auto inB = nearIn(a.borders, distanceToSet(b.borders), reach, columns, rows),
             inA = nearIn(b.borders, distanceToSet(a.borders), reach, columns, rows);
  double shared = 0, contradicting = 0;
  int blocks = 0, all = 0;
  Near wholeA, wholeB;
  Map misses(size);
  for (int row = 0; row < rows; ++row)
    for (int column = 0; column < columns; ++column) {
      const auto at = static_cast<std::size_t>(row * columns + column);
      if (inB[at].count < leastInBlock || inA[at].count < leastInBlock) continue;
      const double mass = std::min(inB[at].count, inA[at].count);
      shared += mass;
      ++all;
      wholeA += inB[at];
      wholeB += inA[at];
      if (std::max(inB[at].share(), inA[at].share()) >= agreed) continue;
      contradicting += mass;
      ++blocks;
      for (int y = row * block; y < std::min(size.height, (row + 1) * block); ++y)
        for (int x = column * block; x < std::min(size.width, (column + 1) * block); ++x)
          if (a.borders(x, y) != 0 || b.borders(x, y) != 0) misses(x, y) = 65535;
    }
  // Single blocks may meet by chance where lines are few: then all of them together must tell.
  const bool together = all >= leastBlocks && std::max(wholeA.share(), wholeB.share()) < agreed;
  if (blocks == 0 || (!together && (blocks < leastBlocks || contradicting < muchAgainst * shared))) return {};
  return Contradiction{contradicting / shared, mostIn(misses, a.frame), true};
}

std::optional<Contradiction> ofValues(const MapSketch& a, const MapSketch& b) {
  if (a.kind != b.kind || a.values.empty() || b.values.empty() || a.values.size() != b.values.size()) return {};
  const Size size = a.values.size();
  // Where only one of them acts there is nothing to disagree about.
  double weights = 0, meanA = 0, meanB = 0;
  const auto weightAt = [&](int x, int y) { return static_cast<double>(a.acts(x, y) * b.acts(x, y)); };
  for (int y = 0; y < size.height; ++y)
    for (int x = 0; x < size.width; ++x) {
      const double w = weightAt(x, y);
      weights += w;
      meanA += w * static_cast<double>(a.values(x, y));
      meanB += w * static_cast<double>(b.values(x, y));
    }
  if (weights < 0.05 * static_cast<double>(size.area())) return {};
  meanA /= weights;
  meanB /= weights;
  double aa = 0, bb = 0, ab = 0, minus = 0, all = 0;
  for (int y = 0; y < size.height; ++y)
    for (int x = 0; x < size.width; ++x) {
      const double w = weightAt(x, y), u = static_cast<double>(a.values(x, y)) - meanA,
                   v = static_cast<double>(b.values(x, y)) - meanB;
      aa += w * u * u;
      bb += w * v * v;
      ab += w * u * v;
      all += w * std::abs(u * v);
      if (u * v < 0) minus -= w * u * v;
    }
  // Two flat maps say nothing.
  constexpr double flat = 0.0004;
  if (aa < flat * weights || bb < flat * weights || ab / std::sqrt(aa * bb) > against) return {};
  Map misses(size);
  const double middle = minus / weights;
  for (int y = 0; y < size.height; ++y)
    for (int x = 0; x < size.width; ++x)
      if (-weightAt(x, y) * (static_cast<double>(a.values(x, y)) - meanA) *
              (static_cast<double>(b.values(x, y)) - meanB) >
          middle)
        misses(x, y) = 65535;
  return Contradiction{minus / std::max(1e-12, all), mostIn(misses, a.frame), false};
}

}  // namespace

MapSketch sketchOf(const Kind& kind, const GuideInput& input, StopToken stop) {
  MapSketch out;
  out.kind = kind.id;
  out.frame = input.map.size();
  if (input.map.empty()) return out;
  const Size forBorders = within(input.map.size(), borderLength);
  if (kind.nature == MapNature::lines)
    out.borders = shrunk(input.map, forBorders);
  else if (kind.borders) {
    const Borders borders = kind.borders(input);
    out.borders = shrunk(borders.lines, forBorders);
    out.stray = borders.stray * forBorders.width / std::max(1, input.map.width());
  }
  throwIfStopped(stop);
  if (kind.nature != MapNature::halfTones) return out;
  const Size small = within(input.map.size(), valueLength);
  out.values = reducedTo(input.map, small, stop);
  out.acts =
      input.region.empty() ? Image<float>(small.width, small.height, 1.0f) : reducedTo(input.region, small, stop);
  return out;
}

std::optional<Contradiction> contradictionBetween(const MapSketch& a, const MapSketch& b) {
  if (const auto borders = ofBorders(a, b)) return borders;
  return ofValues(a, b);
}

const std::optional<Contradiction>& MapPairs::between(const std::shared_ptr<const MapSketch>& a,
                                                      const std::shared_ptr<const MapSketch>& b) {
  std::erase_if(known_, [](const auto& each) { return each.second.a.expired() || each.second.b.expired(); });
  const auto [found, isNew] = known_.try_emplace({a.get(), b.get()});
  if (isNew) found->second = {a, b, contradictionBetween(*a, *b)};
  return found->second.found;
}

}  // namespace hscaffold
