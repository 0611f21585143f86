#include "core/pose/find/one_figure.h"

#include <algorithm>
#include <numeric>

namespace hscaffold::pose {
namespace {

constexpr std::size_t noParent = static_cast<std::size_t>(-1);

/// A key point and what it hangs on.
struct Branch {
  std::size_t point = 0, parent = noParent, limb = 0;
  bool forward = true;  ///< the limb's field runs from parent to point
};

/// Limbs as a tree, parents before children. Limbs that would close a ring are left out, the later ones first.
std::vector<Branch> treeOf(const Skeleton& skeleton) {
  const auto limbs = limbsOf(skeleton);
  const std::size_t points = bodyPointsOf(skeleton);
  std::vector<std::size_t> group(points);
  std::iota(group.begin(), group.end(), std::size_t{0});
  const auto rootOf = [&](std::size_t p) {
    while (group[p] != p) p = group[p];
    return p;
  };
  std::vector<char> kept(limbs.size());
  for (std::size_t l = 0; l < limbs.size(); ++l) {
    const std::size_t a = rootOf(limbs[l].first), b = rootOf(limbs[l].second);
    if (a == b) continue;
    group[a] = b;
    kept[l] = 1;
  }
  std::vector<Branch> out;
  std::vector<char> reached(points);
  for (std::size_t start = points; start-- > 0;) {
    if (reached[start]) continue;
    reached[start] = 1;
    const std::size_t first = out.size();
    out.push_back({start, noParent, 0, true});
    for (std::size_t i = first; i < out.size(); ++i)
      for (std::size_t l = 0; l < limbs.size(); ++l) {
        if (!kept[l]) continue;
        const auto [from, to] = limbs[l];
        const std::size_t here = out[i].point;
        if (from != here && to != here) continue;
        const std::size_t other = from == here ? to : from;
        if (reached[other]) continue;
        reached[other] = 1;
        out.push_back({other, here, l, from == here});
      }
  }
  return out;
}

/// Places a key point may have. The last one stands for "nowhere".
std::vector<Peak> candidatesFor(View<float> heat, const OneFigureTuning& tuning) {
  auto peaks = peaksOf(heat, tuning.faintest, 4 * tuning.candidates + 16);
  if (tuning.within)
    std::erase_if(peaks, [&](const Peak& p) {
      const auto& box = *tuning.within;
      return p.x < box.left || p.x > box.right || p.y < box.top || p.y > box.bottom;
    });
  if (peaks.size() > tuning.candidates) peaks.resize(tuning.candidates);
  if (!peaks.empty())
    std::erase_if(peaks,
                  [least = tuning.comparable * peaks.front().strength](const Peak& p) { return p.strength < least; });
  peaks.push_back({0, 0, 0});
  return peaks;
}

}  // namespace

std::optional<Figure> decodedOne(const PointMaps& maps, const Skeleton& skeleton, double scale,
                                 const OneFigureTuning& tuning) {
  const auto tree = treeOf(skeleton);
  const std::size_t points = maps.heat.size();
  std::vector<std::vector<Peak>> places;
  for (const auto& heat : maps.heat) places.push_back(candidatesFor(heat, tuning));
  std::vector<std::vector<float>> worth(points);
  for (std::size_t p = 0; p < points; ++p)
    for (const Peak& place : places[p]) worth[p].push_back(place.strength);

  const auto joined = [&](const Branch& branch, std::size_t parentPlace, std::size_t place) {
    if (parentPlace + 1 == places[branch.parent].size() || place + 1 == places[branch.point].size()) return 0.0f;
    const Peak &outer = places[branch.point][place], &inner = places[branch.parent][parentPlace];
    const float agrees =
        branch.forward ? agreement(maps, branch.limb, inner, outer) : agreement(maps, branch.limb, outer, inner);
    return agrees > 0.02f ? tuning.pull * std::min(1.0f, agrees) : -tuning.clash;
  };
  // From the ends inwards: what each place of a parent gets from the best place of each child.
  std::vector<std::vector<std::size_t>> chosen(tree.size());
  for (std::size_t i = tree.size(); i-- > 0;) {
    const auto& branch = tree[i];
    if (branch.parent == noParent) continue;
    auto& choice = chosen[i];
    for (std::size_t a = 0; a < places[branch.parent].size(); ++a) {
      std::size_t best = 0;
      float most = -1e9f;
      for (std::size_t b = 0; b < places[branch.point].size(); ++b)
        if (const float v = worth[branch.point][b] + joined(branch, a, b); v > most) most = v, best = b;
      choice.push_back(best);
      worth[branch.parent][a] += most;
    }
  }
  std::vector<std::size_t> at(points, noParent);
  Figure figure;
  figure.skeleton = skeleton.id;
  figure.points.resize(skeleton.points.size());
  bool any = false;
  for (std::size_t i = 0; i < tree.size(); ++i) {
    const auto& branch = tree[i];
    const std::size_t p = branch.point;
    at[p] = branch.parent == noParent
                ? static_cast<std::size_t>(std::max_element(worth[p].begin(), worth[p].end()) - worth[p].begin())
                : chosen[i][at[branch.parent]];
    if (at[p] + 1 == places[p].size()) continue;
    const Peak& peak = places[p][at[p]];
    KeyPoint& point = figure.points[p];
    point.at = {static_cast<double>(peak.x) * maps.stride * scale, static_cast<double>(peak.y) * maps.stride * scale};
    point.presence = Presence::seen;
    point.confidence = static_cast<double>(std::min(1.0f, peak.strength));
    any = true;
  }
  if (!any) return {};
  return figure;
}

}  // namespace hscaffold::pose
