#include "core/engine/standin/line_fields.h"

#include <algorithm>
#include <cmath>

#include "core/engine/standin/cords.h"
#include "core/engine/standin/mass_names.h"
#include "core/engine/standin/noise.h"
#include "core/engine/standin/partition.h"
#include "core/image/distance.h"
#include "core/image/filter.h"
#include "core/image/parallel.h"
#include "core/strokes/curve_fit.h"

namespace hscaffold::standin {
namespace {

/// Lines and what they bound move aside together, by a slow drift of the seed's own. Each thread goes its own way.
class Drift {
 public:
  /// @param far     pixels
  /// @param wave    pixels
  /// @param waver   pixels: how far lines tremble besides, in waves a third as long
  Drift(std::uint64_t seed, float far, float wave, float waver)
      : far_(far), wave_(wave), waver_(waver), across_(seed, 71), down_(seed, 72) {}
  [[nodiscard]] Point at(double x, double y) {
    if (far_ <= 0) return {};
    const float u = static_cast<float>(x) / wave_, v = static_cast<float>(y) / wave_;
    const auto along = [&](Axis& axis) {
      const float slow = far_ * axis.slow.at(u, v);
      return static_cast<double>(waver_ > 0 ? slow + waver_ * axis.quick.at(3 * u, 3 * v) : slow);
    };
    return {along(across_), along(down_)};
  }

 private:
  struct Axis {
    NoiseWalk slow, quick;
    Axis(std::uint64_t seed, std::uint64_t axis) : slow(mixed(seed, axis)), quick(mixed(seed, axis + 2)) {}
  };
  float far_, wave_, waver_;
  Axis across_, down_;
};

/// The strokes that are obeyed, with the load of each.
struct Obeyed {
  std::vector<std::pair<const Chain*, double>> chains;
  std::vector<std::pair<const Chain*, double>> others;  ///< that are not
  bool all = true;
  double meanLoad = 0;  ///< by length
};

Obeyed obeyedOf(const std::vector<Chain>& chains, const LoadCurve& loads) {
  Obeyed out;
  double length = 0;
  for (const Chain& chain : chains) {
    const double load = loads.atOrAfter(chain.settles);
    if (chain.rank > reachOf(load) || load <= 0) {
      out.all = false;
      out.others.emplace_back(&chain, load);
      continue;
    }
    out.all = out.all && load >= 0.985;
    out.chains.emplace_back(&chain, load);
    out.meanLoad += std::min(load, 1.0) * chain.length;
    length += chain.length;
  }
  out.meanLoad = length > 0 ? out.meanLoad / length : 0;
  return out;
}

Image<std::uint8_t> maskOf(const std::vector<std::pair<const Chain*, double>>& chains, Size size) {
  Image<std::uint8_t> mask(size);
  for (const auto& [chain, load] : chains) mark(mask, *chain, std::uint8_t{255});
  return mask;
}

/// The way an obeyed stroke takes when it is drawn: loosely at low load, just as it is at full.
std::vector<Point> wayOf(const Chain& chain, double load, Drift& drift) {
  Path path;
  for (const Point p : chain.path) path.push_back({p, 1});
  const int reach = static_cast<int>(std::lround(5 * (1 - std::min(load, 1.0))));
  if (reach > 0 && path.size() > 4) path = smoothed(path, reach, chain.closed);
  std::vector<Point> way;
  for (const StrokePlace& place : path) way.push_back(place.at + drift.at(place.at.x, place.at.y));
  return way;
}

/// Lines of the map that belong to obeyed strokes, as broad as they are there, where the drift takes them.
Image<float> drawnLines(const Image<float>& lines, View<float> toObeyed, View<float> toOthers, const Drift& drift) {
  constexpr float broadest = 8;  ///< half the width of the broadest lines
  Image<float> out(lines.size());
  parallelRows(lines.height(), [&](int first, int end) {
    Drift own = drift;
    for (int y = first; y < end; ++y)
      for (int x = 0; x < lines.width(); ++x) {
        const Point aside = own.at(x, y);
        const int mx = static_cast<int>(std::lround(x - aside.x)), my = static_cast<int>(std::lround(y - aside.y));
        if (mx < 0 || my < 0 || mx >= lines.width() || my >= lines.height()) continue;
        const float near = toObeyed(mx, my);
        if (near <= broadest && near <= toOthers(mx, my)) out(x, y) = lines(mx, my);
      }
  });
  return out;
}

/// A stroke that bounds nothing is the edge of a form that is lost on its other side: shade lies along it, away from
/// the light, and light (less than 0) on the other side. Cords are no edges.
/// @param tapers  short strokes stand out less, and ends fade far; else all are alike.
Image<float> formShade(const Obeyed& obeyed, const std::vector<std::vector<Point>>& ways, const Composition& place,
                       View<std::uint8_t> cords, bool tapers) {
  const Size size = place.fields.size();
  Image<float> out(size);
  constexpr std::size_t step = 3;
  constexpr double lit = 0.8;  // of what is dark on the other side
  for (std::size_t w = 0; w < ways.size(); ++w) {
    const auto& way = ways[w];
    if (way.size() < 2 * step + 1) continue;
    // Less, and less far, along short strokes; less far among others.
    const Chain& chain = *obeyed.chains[w].first;
    const double longer = std::max(size.width, size.height),
                 plain = tapers ? std::min(1.0, chain.length / (0.25 * longer)) : 1;
    const double reach = std::max(3.0, longer * 0.036 * (0.3 + 0.7 * plain) * (0.2 + 0.8 * chain.isolation));
    const std::size_t fading = tapers ? std::clamp(way.size() / 4, std::size_t{4}, std::size_t{24}) : std::size_t{10};
    double towardsLight = 0;
    const auto normalAt = [&](std::size_t i) {
      const Point along = normalised(way[std::min(i + step, way.size() - 1)] - way[i - std::min(i, step)]);
      return Point{-along.y, along.x};
    };
    for (std::size_t i = 0; i < way.size(); i += step)
      towardsLight += dot(normalAt(i), {static_cast<double>(place.lightX), static_cast<double>(place.lightY)});
    const double side = towardsLight > 0 ? -1 : 1;
    const auto runs = alongCords(chain, cords);
    auto run = runs.begin();
    for (std::size_t i = 0; i < way.size(); ++i) {
      if (run != runs.end() && i >= run->first) {
        i = run->end;
        if (++run; i >= way.size()) break;
      }
      const Point normal = normalAt(i);
      // Ends of strokes fade away.
      const double end = static_cast<double>(std::min({i + 1, way.size() - i, fading})) / static_cast<double>(fading);
      for (const double over : {1.0, -lit})
        for (double t = 0.5; t < reach; t += 0.7) {
          const Point p = way[i] + normal * ((over > 0 ? side : -side) * t);
          const int x = static_cast<int>(p.x), y = static_cast<int>(p.y);
          if (p.x < 0 || p.y < 0 || x >= size.width || y >= size.height) break;
          const auto fade = static_cast<float>(1 - t / reach);
          const float here = static_cast<float>(over * (0.7 + 0.3 * plain) * end) * fade * fade;
          if (std::abs(here) > std::abs(out(x, y))) out(x, y) = here;
        }
    }
  }
  return gaussianBlur(out.view(), 0.8f);
}

/// What a map of lines is, whatever is asked of it.
struct ReadLines {
  Image<float> lines;
  std::vector<Chain> chains;
  Image<std::uint8_t> dense, cords;
  Partition cells, masses;
};

ReadLines readLines(View<std::uint16_t> map, Size size) {
  ReadLines out;
  out.lines = shrunkLines(map, size);
  out.chains = chainsOf(out.lines, map);
  out.cells = partitionBy(out.lines);
  out.dense = denseStrokes(out.chains, size);
  out.cords = cordsIn(out.lines);
  out.masses = massPartition(out.chains, out.dense, out.cords);
  return out;
}

/// Small closed pieces inside masses: they stand off a little in value and colour.
struct Cells {
  const Partition& partition;
  std::vector<float> tone, accent;  ///< 0 where a cell is not obeyed
};

Cells cellsOf(const Partition& partition, View<float> toObeyed, const LoadCurve& loads, std::uint64_t seed) {
  Cells out{partition, {}, {}};
  const auto& label = out.partition.label;
  const auto count = static_cast<std::size_t>(out.partition.count);
  std::vector<double> area(count), x(count), y(count), border(count), on(count);
  for (int row = 0; row < label.height(); ++row)
    for (int column = 0; column < label.width(); ++column) {
      const auto here = static_cast<std::size_t>(label(column, row));
      area[here] += 1;
      x[here] += column;
      y[here] += row;
      const auto meets = [&](int nx, int ny) {
        if (nx >= label.width() || ny >= label.height()) return;
        const auto other = static_cast<std::size_t>(label(nx, ny));
        if (other == here) return;
        const double near = toObeyed(column, row) <= 2.1f ? 1 : 0;
        for (const std::size_t cell : {here, other}) {
          border[cell] += 1;
          on[cell] += near;
        }
      };
      meets(column + 1, row);
      meets(column, row + 1);
    }
  out.tone.resize(count);
  out.accent.resize(count);
  const double pixels = static_cast<double>(label.size().area());
  for (std::size_t c = 0; c < count; ++c) {
    const double share = area[c] / pixels;
    if (share > 0.012 || area[c] < 6 || border[c] < 1 || on[c] < 0.7 * border[c]) continue;
    const double size = std::clamp(std::log(share / 0.00005) / std::log(0.012 / 0.00005), 0.0, 1.0);
    if (loads.at(settlingTime(1 - 0.5 * size)) < 0.12) continue;
    const auto cell = [&](double v) { return static_cast<std::uint64_t>(v / area[c] / 6 + 0.5); };
    const std::uint64_t hash = mixed(seed, cell(x[c]) * 256 + cell(y[c]), 5);
    const float own = signedUnit(hash);
    out.tone[c] = 0.45f * own + (own > 0 ? 0.3f : -0.3f);
    out.accent[c] = unit(mixed(hash, 3)) < 0.1f ? 0.5f : 0.15f * signedUnit(mixed(hash, 2));
  }
  return out;
}

/// Where what is taken ends without a line, it fades; elsewhere its border is as soft as `soft` pixels.
void fadeOpenBorders(Image<float>& where, View<float> toObeyed, float fades, float soft) {
  const Size size = where.size();
  Image<std::uint8_t> open(size);
  for (int y = 0; y + 1 < size.height; ++y)
    for (int x = 0; x + 1 < size.width; ++x)
      if ((where(x, y) != where(x + 1, y) || where(x, y) != where(x, y + 1)) && toObeyed(x, y) > 4) open(x, y) = 255;
  const auto toOpen = distanceToSet(open);
  const auto faded = gaussianBlur(where.view(), fades);
  where = gaussianBlur(where.view(), soft);
  for (int y = 0; y < size.height; ++y)
    for (int x = 0; x < size.width; ++x)
      where(x, y) = blend(where(x, y), faded(x, y), smoothStep(1.6f * fades, 0.4f * fades, toOpen(x, y)));
}

}  // namespace

Image<float> shrunkLines(View<std::uint16_t> map, Size size) {
  Image<float> out(size);
  parallelRows(size.height, [&](int first, int end) {
    for (int y = first; y < end; ++y) {
      const int y0 = static_cast<int>(std::int64_t{y} * map.height() / size.height);
      const int y1 = std::max(y0 + 1, static_cast<int>(std::int64_t{y + 1} * map.height() / size.height));
      for (int x = 0; x < size.width; ++x) {
        const int x0 = static_cast<int>(std::int64_t{x} * map.width() / size.width);
        const int x1 = std::max(x0 + 1, static_cast<int>(std::int64_t{x + 1} * map.width() / size.width));
        std::uint16_t most = 0;
        for (int my = y0; my < y1; ++my)
          for (int mx = x0; mx < x1; ++mx) most = std::max(most, map(mx, my));
        out(x, y) = static_cast<float>(most) / 65535.0f;
      }
    }
  });
  return out;
}

Wanted wantedByLines(const Asked& asked, const LineNature& nature) {
  const Composition& place = asked.place;
  const Size size = place.fields.size();
  const auto longer = static_cast<float>(std::max(size.width, size.height));
  Wanted out;
  if (asked.loads.most() <= 0) return out;
  const auto read =
      asked.readings.of<ReadLines>(asked.input.map, size, [&] { return readLines(asked.input.map, size); });
  const auto& [lines, chains, dense, cords, cellPartition, bounded] = *read;
  const auto obeyed = obeyedOf(chains, asked.loads);
  if (obeyed.chains.empty()) return out;
  const auto toObeyed = distanceToSet(maskOf(obeyed.chains, size));
  auto masses = massesOf(bounded, dense, place);
  nameMasses(masses, place, asked.palette, asked.seed, nature.stray <= 0);
  const auto taken = takenMasses(masses, toObeyed, asked.loads);
  const auto cells = cellsOf(cellPartition, toObeyed, asked.loads, asked.seed);
  // Where a line lies exactly is settled late: a guide that has let go by then is followed loosely.
  const double late = std::min(1.0, asked.loads.at(settlingTime(0.95)) / std::min(1.0, asked.loads.most()));
  const double held = obeyed.meanLoad * (0.2 + 0.8 * late);
  const auto slack = static_cast<float>(1 - held);
  double kept = 0;
  for (const double rank : {0.2, 0.35, 0.5, 0.75, 0.95})
    kept += std::min(1.0, asked.loads.at(settlingTime(rank)) / asked.loads.most()) / 5;
  const auto letGo = static_cast<float>(1 - kept);
  Drift drift(asked.seed, ((0.006f + 0.020f * letGo) * slack + nature.stray) * longer,
              (nature.stray > 0 ? 0.22f : 0.14f) * longer, 0.020f * letGo * slack * longer);
  const float burn = burnOf(asked.loads.most()), lineBurn = lineBurnOf(asked.loads.most());

  Decided decided;
  decided.fields = Fields::ofSize(size);
  decided.where = Image<float>(size);
  const auto soft = gaussianBlur(masses.distance.view(), 2.5f);
  parallelRows(size.height, [&](int first, int end) {
    Drift own = drift;
    for (int y = first; y < end; ++y)
      for (int x = 0; x < size.width; ++x) {
        // Where this place is in the map.
        const Point aside = own.at(x, y);
        const int mx = std::clamp(static_cast<int>(std::lround(x - aside.x)), 0, size.width - 1),
                  my = std::clamp(static_cast<int>(std::lround(y - aside.y)), 0, size.height - 1);
        const int named = taken[static_cast<std::size_t>(masses.label(mx, my))];
        for (std::size_t i = 0; i < Fields::count; ++i) decided.fields.all[i](x, y) = place.fields.all[i](x, y);
        if (named < 0) continue;
        decided.where(x, y) = 1;
        const Mass& mass = masses.all[static_cast<std::size_t>(named)];
        const float share = static_cast<float>(mass.area / static_cast<double>(size.area()));
        // Rounded like a cushion towards its outline, lit from the picture's light.
        const float gx = soft(std::min(mx + 1, size.width - 1), my) - soft(std::max(mx - 1, 0), my);
        const float gy = soft(mx, std::min(my + 1, size.height - 1)) - soft(mx, std::max(my - 1, 0));
        const float rim = std::exp(-masses.distance(mx, my) / std::max(3.0f, 0.35f * mass.peak));
        const float body = std::min(1.0f, 30.0f / std::max(1.0f, mass.peak));
        const float cushion = -0.38f * body * rim * (gx * place.lightX + gy * place.lightY);
        const auto cell = static_cast<std::size_t>(cells.partition.label(mx, my));
        for (std::size_t i = 0; i < Fields::count; ++i) decided.fields.all[i](x, y) = mass.wanted[i];
        // What the prompt would draw on the same part goes on inside; more of it on large masses.
        float same = 0;
        for (std::size_t p = 0; p < partCount; ++p) same += mass.wanted[4 + p] * place.fields.part(p)(x, y);
        const float texture =
            mass.opening ? 1 : std::min(1.0f, 0.25f + 0.75f * same) * (0.4f + 0.5f * smoothStep(0.05f, 0.4f, share));
        for (const std::size_t i : {std::size_t{0}, std::size_t{2}})
          decided.fields.all[i](x, y) +=
              texture * (place.fields.all[i](x, y) - static_cast<float>(mass.sums[i] / mass.area));
        float tone = decided.fields.tone()(x, y) + cushion + cells.tone[cell];
        // Beyond plain weight values are overdrawn, and what is between the lines goes flat.
        if (burn > 1) tone = burn * blend(tone, mass.wanted[0] + cells.tone[cell], std::min(1.0f, 2 * (burn - 1)));
        decided.fields.tone()(x, y) = tone;
        decided.fields.accent()(x, y) += cells.accent[cell];
      }
  });
  fadeOpenBorders(decided.where, toObeyed, 0.03f * longer, std::max(0.6f, nature.open * longer));
  if (nature.open > 0)
    for (auto& field : decided.fields.all) field = gaussianBlur(field.view(), nature.open * longer);
  std::vector<std::vector<Point>> ways;
  for (const auto& [chain, load] : obeyed.chains) ways.push_back(wayOf(*chain, std::min(load, held), drift));
  if (!obeyed.others.empty()) decided.undrawn = Image<float>(size);
  for (const auto& [chain, _] : obeyed.others) mark(decided.undrawn, *chain, 1.0f);
  const bool exact = obeyed.all && held >= 0.985 && nature.stray <= 0;
  decided.lines = gaussianBlur(
      exact ? lines.view() : drawnLines(lines, toObeyed, distanceToSet(maskOf(obeyed.others, size)), drift).view(),
      0.55f + (burn > 1 ? 0.35f * (burn - 1) : 0));
  // Shade is a large matter: a guide that enters late draws lines and leaves it.
  const auto early = static_cast<float>(asked.loads.at(settlingTime(0.2)) / asked.loads.most());
  // What bounds nothing yet stands out by its form alone.
  const float shading = (1.6f + 1.6f * slack) * nature.outline * burn * (0.25f + 0.75f * std::min(1.0f, early));
  decided.shade = formShade(obeyed, ways, place, cords, nature.stray <= 0);
  for (int y = 0; y < size.height; ++y)
    for (float& v : decided.shade.line(y)) v *= shading;
  // The looser, the bolder: what is obeyed is a line, not the trace of one.
  for (int y = 0; y < size.height; ++y)
    for (float& v : decided.lines.line(y)) v = nature.outline * std::min(1.0f, (1.35f + slack) * v) * lineBurn;
  out.decided = std::move(decided);
  return out;
}

}  // namespace hscaffold::standin
