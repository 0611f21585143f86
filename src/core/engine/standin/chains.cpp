#include "core/engine/standin/chains.h"

#include <algorithm>
#include <cmath>
#include <numbers>
#include <numeric>
#include <optional>

#include "core/engine/standin/chain_pieces.h"
#include "core/engine/standin/obedience.h"
#include "core/image/components.h"
#include "core/image/filter.h"
#include "core/strokes/thinning.h"
#include "core/strokes/trace.h"

namespace hscaffold::standin {
namespace {

constexpr double degree = std::numbers::pi / 180;
constexpr double widestGap = 9, sharpestTurn = 40 * degree, corner = 55 * degree;
constexpr std::size_t stride = 6;  ///< pixels over which a direction is taken

using Stretch = std::vector<Point>;

double turnBetween(Point a, Point b) { return std::abs(std::atan2(a.x * b.y - a.y * b.x, dot(a, b))); }

/// An end of a piece: where it is and where it would go on.
struct End {
  std::size_t piece = 0;
  bool last = false;
  Point at, way;
};

struct Joint {
  double cost;
  std::size_t a, b;  ///< ends
};

std::vector<std::optional<std::size_t>> joinedEnds(const std::vector<End>& ends, Size size) {
  // Ends near each other are found by cells as wide as the widest gap.
  const int columns = size.width / static_cast<int>(widestGap) + 1,
            rows = size.height / static_cast<int>(widestGap) + 1;
  std::vector<std::vector<std::size_t>> cells(static_cast<std::size_t>(columns) * static_cast<std::size_t>(rows));
  const auto cellOf = [&](Point p, int dx, int dy) -> std::vector<std::size_t>* {
    const int x = static_cast<int>(p.x / widestGap) + dx, y = static_cast<int>(p.y / widestGap) + dy;
    if (x < 0 || y < 0 || x >= columns || y >= rows) return nullptr;
    return &cells[static_cast<std::size_t>(y) * static_cast<std::size_t>(columns) + static_cast<std::size_t>(x)];
  };
  for (std::size_t e = 0; e < ends.size(); ++e)
    if (auto* cell = cellOf(ends[e].at, 0, 0)) cell->push_back(e);
  std::vector<Joint> joints;
  for (std::size_t a = 0; a < ends.size(); ++a)
    for (int dy = -1; dy <= 1; ++dy)
      for (int dx = -1; dx <= 1; ++dx) {
        const auto* cell = cellOf(ends[a].at, dx, dy);
        if (cell == nullptr) continue;
        for (const std::size_t b : *cell) {
          if (b <= a) continue;
          const Point gap = ends[b].at - ends[a].at;
          const double wide = lengthOf(gap);
          if (wide > widestGap) continue;
          double turn = turnBetween(ends[a].way, ends[b].way * -1);
          if (wide > 2) turn = std::max({turn, turnBetween(ends[a].way, gap), turnBetween(ends[b].way * -1, gap)});
          if (turn <= sharpestTurn) joints.push_back({wide + 6 * turn / sharpestTurn, a, b});
        }
      }
  std::stable_sort(joints.begin(), joints.end(), [](const Joint& a, const Joint& b) { return a.cost < b.cost; });
  std::vector<std::optional<std::size_t>> to(ends.size());
  for (const Joint& joint : joints)
    if (!to[joint.a] && !to[joint.b]) {
      to[joint.a] = joint.b;
      to[joint.b] = joint.a;
    }
  return to;
}

void append(Stretch& path, const Stretch& piece, bool backwards) {
  Stretch next = piece;
  if (backwards) std::reverse(next.begin(), next.end());
  if (!path.empty()) {
    // The gap is bridged in steps of a pixel.
    const Point from = path.back(), way = next.front() - from;
    const int steps = static_cast<int>(lengthOf(way));
    for (int i = 1; i < steps; ++i) path.push_back(from + way * (static_cast<double>(i) / steps));
  }
  path.insert(path.end(), next.begin(), next.end());
}

/// Follows the joints from piece to piece.
std::vector<Chain> assembled(const std::vector<Stretch>& pieces, Size size) {
  std::vector<End> ends;
  for (std::size_t p = 0; p < pieces.size(); ++p) {
    const Stretch& path = pieces[p];
    const std::size_t back = std::min(path.size() - 1, stride + 2);
    ends.push_back({p, false, path.front(), path.front() - path[back]});
    ends.push_back({p, true, path.back(), path.back() - path[path.size() - 1 - back]});
  }
  const auto to = joinedEnds(ends, size);
  std::vector<bool> used(pieces.size(), false);
  std::vector<Chain> chains;
  const auto follow = [&](std::size_t piece, bool startsAtLast) {
    Chain chain;
    std::size_t entered = 2 * piece + (startsAtLast ? 1 : 0);
    const std::size_t first = entered;
    while (true) {
      const std::size_t p = ends[entered].piece;
      used[p] = true;
      append(chain.path, pieces[p], ends[entered].last);
      const std::size_t left = entered ^ 1U;
      if (!to[left]) break;
      entered = *to[left];
      if (entered == first) chain.closed = true;
      if (used[ends[entered].piece]) break;
    }
    chains.push_back(std::move(chain));
  };
  for (std::size_t p = 0; p < pieces.size(); ++p)
    for (const bool last : {false, true})
      if (!used[p] && !to[2 * p + (last ? 1 : 0)]) follow(p, last);
  for (std::size_t p = 0; p < pieces.size(); ++p)
    if (!used[p]) follow(p, false);
  for (Chain& chain : chains)
    if (chain.path.size() > 12 && lengthOf(chain.path.front() - chain.path.back()) < 2.5) chain.closed = true;
  return chains;
}

void measure(Chain& chain, View<float> density, double sigma) {
  double left = 1e9, right = -1e9, top = 1e9, bottom = -1e9, dense = 0;
  for (std::size_t i = 0; i < chain.path.size(); ++i) {
    const Point p = chain.path[i];
    if (i > 0) chain.length += lengthOf(p - chain.path[i - 1]);
    left = std::min(left, p.x);
    right = std::max(right, p.x);
    top = std::min(top, p.y);
    bottom = std::max(bottom, p.y);
    dense += static_cast<double>(density.clamped(static_cast<int>(p.x), static_cast<int>(p.y)));
  }
  chain.length = std::max(1.0, chain.length);
  chain.extent = std::max({right - left, bottom - top, 1.0});
  // What a straight line of this length adds to the density on itself is not its surroundings.
  const double own = 0.3989 / sigma * std::min(1.0, chain.length / (2.5 * sigma));
  const double others = std::max(0.0, dense / static_cast<double>(chain.path.size()) - own) / 0.05;
  chain.isolation = 1 / (1 + others * others);
  double cosines = 0;
  int turns = 0;
  constexpr std::size_t step = 4;
  for (std::size_t i = 2 * step; i < chain.path.size(); i += step) {
    cosines +=
        std::cos(turnBetween(chain.path[i - step] - chain.path[i - 2 * step], chain.path[i] - chain.path[i - step]));
    ++turns;
  }
  chain.smoothness = turns > 0 ? std::max(0.0, cosines / turns) : 0.7;
  chain.salience = (chain.length + std::min(chain.length, 2.2 * chain.extent)) / 2 * (0.15 + 0.85 * chain.isolation) *
                   (0.25 + 0.75 * std::pow(chain.smoothness, 4)) * (chain.closed ? 1.35 : 1);
}

/// A chain that runs beside a more salient one says little of its own.
void dampParallels(std::vector<Chain>& chains, Size size) {
  constexpr int beside = 5;
  Image<std::uint8_t> near(size);
  for (Chain& chain : chains) {
    int inside = 0;
    for (const Point p : chain.path) inside += near.view().clamped(static_cast<int>(p.x), static_cast<int>(p.y)) != 0;
    if (inside > 0.6 * static_cast<double>(chain.path.size())) chain.salience *= 0.55;
    for (std::size_t i = 0; i < chain.path.size(); i += 3) {
      const int x = static_cast<int>(chain.path[i].x), y = static_cast<int>(chain.path[i].y);
      for (int dy = -beside; dy <= beside; ++dy)
        for (int dx = -beside; dx <= beside; ++dx)
          if (x + dx >= 0 && y + dy >= 0 && x + dx < size.width && y + dy < size.height &&
              dx * dx + dy * dy <= beside * beside)
            near(x + dx, y + dy) = 1;
    }
  }
}

void sortBySalience(std::vector<Chain>& chains) {
  std::stable_sort(chains.begin(), chains.end(),
                   [](const Chain& a, const Chain& b) { return a.salience > b.salience; });
}

}  // namespace

void cutAtCorners(const Path& path, std::vector<std::vector<Point>>& pieces) {
  Stretch now;
  std::size_t last = 0;
  for (std::size_t i = 0; i < path.size(); ++i) {
    now.push_back(path[i].at);
    if (i < last + stride || i + stride >= path.size()) continue;
    const auto turnAt = [&](std::size_t k) {
      return turnBetween(path[k].at - path[k - stride].at, path[k + stride].at - path[k].at);
    };
    const double turn = turnAt(i);
    if (turn < corner) continue;
    // At the sharpest place, not where it begins to turn.
    if (i + 1 + stride < path.size() && turnAt(i + 1) > turn) continue;
    pieces.push_back(std::exchange(now, {path[i].at}));
    last = i;
  }
  if (now.size() > 1) pieces.push_back(std::move(now));
}

std::vector<Chain> chainsOf(View<float> lines, View<std::uint16_t> map) {
  const Size size = lines.size();
  const auto mask = above(lines, 0.5f);
  const auto graph = strokeGraph(thinned(mask), mask);
  std::vector<Stretch> pieces;
  for (const StrokeGraph::Edge& edge : graph.edges) cutAtCorners(edge.path, pieces);
  std::erase_if(pieces, [](const Stretch& piece) { return piece.size() < 2; });
  auto chains = assembled(pieces, size);

  const float sigma = 0.02f * static_cast<float>(std::max(size.width, size.height));
  Image<float> thin(size);
  for (const Chain& chain : chains) mark(thin, chain, 1.0f);
  const auto density = gaussianBlur(thin.view(), sigma);
  for (Chain& chain : chains) measure(chain, density, static_cast<double>(sigma));
  sortBySalience(chains);
  dampParallels(chains, size);
  sortBySalience(chains);
  const auto piece = shareInPieces(chains, mask, map);
  std::vector<std::size_t> order(chains.size());
  std::iota(order.begin(), order.end(), std::size_t{0});
  std::stable_sort(order.begin(), order.end(), [&](std::size_t a, std::size_t b) {
    if (chains[a].salience != chains[b].salience) return chains[a].salience > chains[b].salience;
    return piece[a] < piece[b];
  });
  double all = 0, before = 0;
  for (const Chain& chain : chains) all += chain.length;
  all = std::max(all, 1.0);
  std::vector<Chain> sorted;
  for (std::size_t i = 0; i < order.size();) {
    // A piece has one rank: that of its middle.
    std::size_t end = i + 1;
    double length = chains[order[i]].length;
    while (end < order.size() && piece[order[i]] >= 0 && piece[order[end]] == piece[order[i]])
      length += chains[order[end++]].length;
    // Much of a map at once takes longer to settle, and what is most of it settles stroke by stroke.
    const bool large = length > muchOfAMap * all;
    const double late = 0.14 * length * std::min(1.0, length / (0.4 * all));
    double through = before;
    for (; i < end; ++i) {
      Chain& chain = chains[order[i]];
      chain.rank = (before + length / 2) / all;
      chain.settles = settlingTime(large ? (through + chain.length / 2) / all : chain.rank + late / all);
      through += chain.length;
      sorted.push_back(std::move(chain));
    }
    before += length;
  }
  return sorted;
}

}  // namespace hscaffold::standin
