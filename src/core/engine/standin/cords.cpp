#include "core/engine/standin/cords.h"

#include <algorithm>
#include <cmath>
#include <optional>
#include <set>

#include "core/groups.h"
#include "core/image/components.h"
#include "core/image/distance.h"
#include "core/strokes/trace.h"

namespace hscaffold::standin {
namespace {

/// Lengths are shares of the longer side.
constexpr double shortest = 0.08, runsBeside = 0.02, crossed = 0.05, untied = 0.05;
constexpr double sag = 0.08, steep = 0.2;  ///< from the straight line, and up or down, of its length
constexpr float thick = 2;                 ///< pixels; lines less than twice as far apart are edges of one
constexpr int tiedWithin = 3;              ///< pixels; what is so near is tied to it
constexpr int gap = 7;                     ///< pixels; an outline may have such gaps and hangs together

using Paths = std::vector<std::vector<Point>>;

/// The drawing with the two edges of what is thin as one line.
Paths pathsOf(View<float> lines) {
  const auto away = distanceToSet(above(lines, 0.5f));
  Image<std::uint16_t> map(lines.size());
  for (int y = 0; y < map.height(); ++y)
    for (int x = 0; x < map.width(); ++x) map(x, y) = away(x, y) <= thick ? 65535 : 0;
  TraceTuning tuning;
  tuning.shortest = 0;
  Paths out;
  for (const Path& path : tracedPaths(map, tuning)) cutAtCorners(path, out);
  return out;
}

/// Which path passes where, -1 none.
Image<std::int32_t> ownersOf(const Paths& paths, Size size) {
  Image<std::int32_t> out(size.width, size.height, -1);
  for (std::size_t i = 0; i < paths.size(); ++i) mark(out, std::span(paths[i]), static_cast<std::int32_t>(i));
  return out;
}

/// Visits the paths that are so near. @return whether `visit` was true of any
template <typename Visit>
bool anyNear(const Image<std::int32_t>& owner, Point at, int reach, const Visit& visit) {
  const int x = static_cast<int>(at.x), y = static_cast<int>(at.y);
  bool any = false;
  for (int ny = std::max(0, y - reach); ny <= std::min(owner.height() - 1, y + reach); ++ny)
    for (int nx = std::max(0, x - reach); nx <= std::min(owner.width() - 1, x + reach); ++nx)
      if (owner(nx, ny) >= 0) any = visit(static_cast<std::size_t>(owner(nx, ny))) || any;
  return any;
}

/// The longest piece of a path that may be a cord.
std::optional<Run> aloneIn(const Image<std::int32_t>& owner, const std::vector<Point>& path, std::size_t which) {
  const double longer = std::max(owner.width(), owner.height());
  const int reach = std::max(tiedWithin + 1, static_cast<int>(runsBeside * longer));
  // What crosses it or ends at it interrupts nothing, what goes beside it does.
  Run best, run;
  for (std::size_t i = 0; i < path.size(); ++i) {
    if (anyNear(owner, path[i], reach, [&](std::size_t other) { return other != which; })) continue;
    if (run.end == 0 || static_cast<double>(i - run.end) > crossed * longer) run.first = i;
    run.end = i + 1;
    if (run.end - run.first > best.end - best.first) best = run;
  }
  if (best.end < best.first + 2) return {};
  const Point way = path[best.end - 1] - path[best.first];
  const double length = lengthOf(way);
  if (length < shortest * longer || std::abs(way.y) < steep * length) return {};
  for (std::size_t i = best.first; i < best.end; ++i)
    if (std::abs(dot(path[i] - path[best.first], {-way.y, way.x})) > sag * length * length) return {};
  return best;
}

}  // namespace

Image<std::uint8_t> cordsIn(View<float> lines) {
  const Size size = lines.size();
  const Paths whole = pathsOf(lines);
  Paths paths;
  std::vector<std::size_t> candidates;
  {
    const auto owner = ownersOf(whole, size);
    for (std::size_t i = 0; i < whole.size(); ++i) {
      const auto& path = whole[i];
      const auto alone = aloneIn(owner, path, i);
      if (!alone) {
        paths.push_back(path);
        continue;
      }
      const auto first = path.begin() + static_cast<std::ptrdiff_t>(alone->first),
                 end = path.begin() + static_cast<std::ptrdiff_t>(alone->end);
      if (first != path.begin()) paths.emplace_back(path.begin(), first);
      candidates.push_back(paths.size());
      paths.emplace_back(first, end);
      if (end != path.end()) paths.emplace_back(end, path.end());
    }
  }
  Image<std::uint8_t> cords(size);
  if (candidates.empty()) return cords;
  const auto owner = ownersOf(paths, size);
  std::set<std::pair<std::size_t, std::size_t>> touching;
  for (std::size_t i = 0; i < paths.size(); ++i)
    for (const Point p : paths[i])
      anyNear(owner, p, gap, [&](std::size_t other) { return other != i && touching.insert({i, other}).second; });
  for (const std::size_t candidate : candidates) {
    Groups groups(paths.size());
    for (const auto& [a, b] : touching)
      if (a != candidate && b != candidate) groups.join(a, b);
    // What it is tied to, or would be if it went on.
    const auto tiedAt = [&](Point end, Point from) {
      std::set<std::size_t> out;
      const Point way = normalised(end - from);
      for (double t = 0; t < untied * std::max(size.width, size.height) && out.empty(); t += 1)
        anyNear(owner, end + way * t, tiedWithin,
                [&](std::size_t other) { return other != candidate && out.insert(groups.of(other)).second; });
      return out;
    };
    const auto& path = paths[candidate];
    const std::size_t back = std::min<std::size_t>(path.size() - 1, 12);
    const auto first = tiedAt(path.front(), path[back]), last = tiedAt(path.back(), path[path.size() - 1 - back]);
    if (!first.empty() && !last.empty() &&
        std::none_of(first.begin(), first.end(), [&](std::size_t group) { return last.contains(group); }))
      mark(cords, std::span(path), std::uint8_t{255});
  }
  // As wide as what was taken for one line.
  const auto away = distanceToSet(cords);
  for (int y = 0; y < size.height; ++y)
    for (int x = 0; x < size.width; ++x) cords(x, y) = away(x, y) <= thick + 1.5f ? 255 : 0;
  return cords;
}

std::vector<Run> alongCords(const Chain& chain, View<std::uint8_t> cords) {
  constexpr std::size_t least = 8;  // what only crosses a cord is none
  const auto& path = chain.path;
  std::vector<Run> runs;
  for (std::size_t i = 0; i < path.size(); ++i) {
    const std::size_t first = i;
    while (i < path.size() && cords.clamped(static_cast<int>(path[i].x), static_cast<int>(path[i].y)) != 0) ++i;
    if (i - first >= std::min(least, path.size())) runs.push_back({first, i});
  }
  return runs;
}

}  // namespace hscaffold::standin
