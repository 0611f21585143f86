#include "core/strokes/trace.h"

#include <algorithm>
#include <map>
#include <numeric>

#include "core/image/components.h"
#include "core/image/parallel.h"
#include "core/strokes/thinning.h"

namespace hscaffold {
namespace {

constexpr std::uint16_t lineFrom = 26214;  ///< 0.4 of full
constexpr std::int64_t largestPinhole = 3;
constexpr double straightThrough = -0.8;  ///< cosine between the directions in which two pieces leave a junction

double lengthOf(const Path& path) {
  double sum = 0;
  for (std::size_t i = 1; i < path.size(); ++i) sum += distanceBetween(path[i - 1].at, path[i].at);
  return sum;
}

/// Near its tip a line seems to narrow, since its end is as near as its sides: the width from where the sides are
/// nearest again goes on to the tip.
void widenTip(Path& path) {
  double along = 0;
  std::size_t i = 0;
  while (i + 1 < path.size() && along < path[i].width / 2 + 0.5) {
    along += distanceBetween(path[i].at, path[i + 1].at);
    ++i;
  }
  for (std::size_t k = 0; k < i; ++k) path[k].width = std::max(path[k].width, path[i].width);
}

/// One end of an edge at a node.
struct EdgeEnd {
  std::size_t edge = 0;
  bool atStart = true;
  friend bool operator==(const EdgeEnd&, const EdgeEnd&) = default;
};

class Joiner {
 public:
  Joiner(StrokeGraph graph, const TraceTuning& tuning)
      : graph_(std::move(graph)), tuning_(tuning), ends_(graph_.nodes.size()), alive_(graph_.edges.size(), true) {
    for (std::size_t e = 0; e < graph_.edges.size(); ++e) {
      if (graph_.edges[e].path.size() < 2) continue;
      ends_[graph_.edges[e].from].push_back({e, true});
      ends_[graph_.edges[e].to].push_back({e, false});
    }
  }

  std::vector<Path> paths() {
    dropSpurs();
    pairUp();
    std::vector<Path> out;
    std::vector<bool> used(graph_.edges.size(), false);
    for (std::size_t e = 0; e < graph_.edges.size(); ++e) {
      if (!alive_[e] || used[e]) continue;
      // Back to where the chain begins, or once round.
      EdgeEnd start{e, true};
      for (std::size_t guard = 0; guard < graph_.edges.size(); ++guard) {
        const auto* before = partnerOf(start);
        if (before == nullptr || (before->edge == e && guard > 0)) break;
        start = {before->edge, !before->atStart};
        if (start.edge == e) break;
      }
      out.push_back(chainFrom(start, used));
    }
    return out;
  }

 private:
  void dropSpurs() {
    std::vector<std::size_t> order(graph_.edges.size());
    std::iota(order.begin(), order.end(), std::size_t{0});
    std::vector<double> length(order.size());
    for (std::size_t e = 0; e < order.size(); ++e) length[e] = lengthOf(graph_.edges[e].path);
    std::stable_sort(order.begin(), order.end(), [&](auto a, auto b) { return length[a] < length[b]; });
    for (const std::size_t e : order) {
      const auto& edge = graph_.edges[e];
      if (edge.path.size() < 2 || edge.from == edge.to) continue;
      const bool freeStart = ends_[edge.from].size() == 1, freeEnd = ends_[edge.to].size() == 1;
      if (freeStart == freeEnd) continue;
      const std::size_t junction = freeStart ? edge.to : edge.from;
      const double width = widthAt(junction, e);
      if (ends_[junction].size() < 3 || length[e] - width / 2 > std::max(2.0, tuning_.spur * width)) continue;
      alive_[e] = false;
      std::erase_if(ends_[junction], [&](const EdgeEnd& end) { return end.edge == e; });
    }
  }

  /// Of the line that goes on through a junction, seen a little way along its pieces but `without` one.
  [[nodiscard]] double widthAt(std::size_t node, std::size_t without) const {
    double widest = 0;
    for (const EdgeEnd& end : ends_[node]) {
      if (end.edge == without) continue;
      const Path& path = graph_.edges[end.edge].path;
      const std::size_t away = std::min<std::size_t>(5, path.size() - 1);
      widest = std::max(widest, path[end.atStart ? away : path.size() - 1 - away].width);
    }
    return widest;
  }

  [[nodiscard]] Point leaving(const EdgeEnd& end) const {
    const Path& path = graph_.edges[end.edge].path;
    const std::size_t reach = std::min<std::size_t>(8, path.size() - 1);
    return normalised(end.atStart ? path[reach].at - path.front().at
                                  : path[path.size() - 1 - reach].at - path.back().at);
  }

  void pairUp() {
    for (const auto& ends : ends_) {
      struct Pair {
        double cosine;
        EdgeEnd a, b;
      };
      std::vector<Pair> pairs;
      for (std::size_t i = 0; i < ends.size(); ++i)
        for (std::size_t j = i + 1; j < ends.size(); ++j)
          if (const double c = dot(leaving(ends[i]), leaving(ends[j])); ends.size() == 2 || c < straightThrough)
            pairs.push_back({c, ends[i], ends[j]});
      std::stable_sort(pairs.begin(), pairs.end(), [](const Pair& a, const Pair& b) { return a.cosine < b.cosine; });
      for (const Pair& pair : pairs) {
        if (partnerOf(pair.a) != nullptr || partnerOf(pair.b) != nullptr) continue;
        partners_[key(pair.a)] = pair.b;
        partners_[key(pair.b)] = pair.a;
      }
    }
  }

  [[nodiscard]] static std::size_t key(const EdgeEnd& end) { return 2 * end.edge + (end.atStart ? 0 : 1); }
  [[nodiscard]] const EdgeEnd* partnerOf(const EdgeEnd& end) const {
    const auto found = partners_.find(key(end));
    return found != partners_.end() ? &found->second : nullptr;
  }

  Path chainFrom(EdgeEnd start, std::vector<bool>& used) const {
    Path path;
    for (;;) {
      used[start.edge] = true;
      Path piece = graph_.edges[start.edge].path;
      if (!start.atStart) std::reverse(piece.begin(), piece.end());
      path.insert(path.end(), piece.begin() + (path.empty() ? 0 : 1), piece.end());
      const auto* next = partnerOf({start.edge, !start.atStart});
      if (next == nullptr || used[next->edge]) return path;
      start = *next;
    }
  }

  StrokeGraph graph_;
  const TraceTuning& tuning_;
  std::vector<std::vector<EdgeEnd>> ends_;  ///< by node
  std::vector<bool> alive_;
  std::map<std::size_t, EdgeEnd> partners_;
};

}  // namespace

Image<std::uint8_t> lineMask(View<std::uint16_t> map) {
  Image<std::uint8_t> mask(map.size()), paper(map.size());
  for (int y = 0; y < map.height(); ++y)
    for (int x = 0; x < map.width(); ++x) {
      mask(x, y) = map(x, y) >= lineFrom ? 1 : 0;
      paper(x, y) = mask(x, y) != 0 ? 0 : 1;
    }
  const auto holes = componentsOf(paper, Connected::four);
  for (const Component& hole : holes.all) {
    if (hole.area > largestPinhole) continue;
    for (int y = hole.top; y <= hole.bottom; ++y)
      for (int x = hole.left; x <= hole.right; ++x)
        if (const auto label = holes.label(x, y); label >= 0 && &holes.all[static_cast<std::size_t>(label)] == &hole)
          mask(x, y) = 1;
  }
  return mask;
}

std::vector<Path> tracedPaths(View<std::uint16_t> map, const TraceTuning& tuning, std::size_t* dropped,
                              StopToken stop) {
  const auto mask = lineMask(map);
  throwIfStopped(stop);
  auto graph = strokeGraph(thinned(mask, stop), mask, stop);
  auto paths = Joiner(std::move(graph), tuning).paths();
  throwIfStopped(stop);
  std::vector<std::pair<double, std::size_t>> order;
  for (std::size_t i = 0; i < paths.size(); ++i)
    // A dot is as long as it is wide.
    if (const double length = paths[i].size() > 1 ? lengthOf(paths[i]) : paths[i].front().width;
        length >= tuning.shortest)
      order.emplace_back(-length, i);
  std::sort(order.begin(), order.end());
  if (dropped != nullptr) *dropped = order.size() > tuning.most ? order.size() - tuning.most : 0;
  if (order.size() > tuning.most) order.resize(tuning.most);
  std::vector<Path> out;
  out.reserve(order.size());
  for (const auto& [length, index] : order) {
    Path& path = out.emplace_back(std::move(paths[index]));
    if (path.size() < 3 || distanceBetween(path.front().at, path.back().at) < 1e-6) continue;
    widenTip(path);
    std::reverse(path.begin(), path.end());
    widenTip(path);
  }
  return out;
}

Tracing traced(View<std::uint16_t> map, const TraceTuning& tuning, StopToken stop) {
  Tracing out;
  const auto paths = tracedPaths(map, tuning, &out.dropped, stop);
  out.strokes.resize(paths.size());
  parallelRows(
      static_cast<int>(paths.size()),
      [&](int first, int end) {
        for (auto i = static_cast<std::size_t>(first); i < static_cast<std::size_t>(end); ++i) {
          if (stop.stop_requested()) return;
          const Path& path = paths[i];
          const bool closed = path.size() > 3 && distanceBetween(path.front().at, path.back().at) < 1e-6;
          // Steps of the pixel grid are smoothed away first; both together stay within the tolerance.
          Path calm = smoothed(path, 3, closed);
          for (std::size_t k = 0; k < calm.size(); ++k) {
            const Point by = calm[k].at - path[k].at;
            const double most = 0.4 * tuning.tolerance, length = lengthOf(by);
            if (length > most) calm[k].at = path[k].at + by * (most / length);
          }
          out.strokes[i] = std::make_shared<const Stroke>(fittedStroke(calm, 0.6 * tuning.tolerance, closed));
        }
      },
      8);
  throwIfStopped(stop);
  return out;
}

}  // namespace hscaffold
