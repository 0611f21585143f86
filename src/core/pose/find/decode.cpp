#include "core/pose/find/decode.h"

#include <algorithm>
#include <cmath>
#include <optional>

namespace hscaffold::pose {
namespace {

constexpr int none = -1;

/// A figure while it is put together: which peak each key point is.
struct Assembly {
  std::vector<int> peak;
  float limbs = 0;  ///< sum of agreements
  [[nodiscard]] std::size_t count() const {
    return static_cast<std::size_t>(std::count_if(peak.begin(), peak.end(), [](int p) { return p != none; }));
  }
};

struct Pair {
  int from = 0, to = 0;
  float agrees = 0;
};

/// Offset of the top of a parabola through three values at -1, 0 and 1.
float topOf(float before, float middle, float after) {
  const float bend = before - 2 * middle + after;
  return bend < -1e-6f ? std::clamp(0.5f * (before - after) / bend, -0.5f, 0.5f) : 0;
}

/// The best pairs of peaks for a limb, each peak in one of them at most.
std::vector<Pair> pairsFor(const PointMaps& maps, std::size_t limb, const std::vector<Peak>& from,
                           const std::vector<Peak>& to, float least) {
  std::vector<Pair> all;
  for (std::size_t a = 0; a < from.size(); ++a)
    for (std::size_t b = 0; b < to.size(); ++b) {
      const float agrees = agreement(maps, limb, from[a], to[b]);
      if (agrees < least) continue;
      all.push_back({static_cast<int>(a), static_cast<int>(b), agrees});
    }
  // Where two agree about alike, the stronger ends count.
  std::stable_sort(all.begin(), all.end(), [&](const Pair& p, const Pair& q) {
    const auto worth = [&](const Pair& pair) {
      return pair.agrees + 0.3f * (from[static_cast<std::size_t>(pair.from)].strength +
                                   to[static_cast<std::size_t>(pair.to)].strength);
    };
    return worth(p) > worth(q);
  });
  std::vector<char> fromTaken(from.size()), toTaken(to.size());
  std::vector<Pair> out;
  for (const Pair& pair : all) {
    auto &f = fromTaken[static_cast<std::size_t>(pair.from)], &t = toTaken[static_cast<std::size_t>(pair.to)];
    if (f || t) continue;
    f = t = 1;
    out.push_back(pair);
  }
  return out;
}

void take(std::vector<Assembly>& figures, std::size_t points, std::size_t f, std::size_t t, const Pair& pair) {
  std::optional<std::size_t> first, second;
  for (std::size_t i = 0; i < figures.size(); ++i) {
    const bool has = figures[i].peak[f] == pair.from, other = figures[i].peak[t] == pair.to;
    if (!has && !other) continue;
    if (!first)
      first = i;
    else
      second = i;
  }
  if (!first) {
    Assembly made;
    made.peak.assign(points, none);
    made.peak[f] = pair.from;
    made.peak[t] = pair.to;
    made.limbs = pair.agrees;
    figures.push_back(std::move(made));
    return;
  }
  Assembly& into = figures[*first];
  if (!second) {
    if (into.peak[f] == none) into.peak[f] = pair.from;
    if (into.peak[t] == none) into.peak[t] = pair.to;
    if (into.peak[f] == pair.from && into.peak[t] == pair.to) into.limbs += pair.agrees;
    return;
  }
  // Two parts of one figure, if no key point is in both.
  const Assembly& other = figures[*second];
  for (std::size_t p = 0; p < points; ++p)
    if (into.peak[p] != none && other.peak[p] != none) return;
  for (std::size_t p = 0; p < points; ++p)
    if (other.peak[p] != none) into.peak[p] = other.peak[p];
  into.limbs += other.limbs + pair.agrees;
  figures.erase(figures.begin() + static_cast<std::ptrdiff_t>(*second));
}

}  // namespace

std::vector<Peak> peaksOf(View<float> heat, float faintest, std::size_t most) {
  std::vector<Peak> out;
  for (int y = 0; y < heat.height(); ++y)
    for (int x = 0; x < heat.width(); ++x) {
      const float v = heat(x, y);
      if (v < faintest) continue;
      bool top = true;
      for (int dy = -1; dy <= 1 && top; ++dy)
        for (int dx = -1; dx <= 1 && top; ++dx) {
          if (dx == 0 && dy == 0) continue;
          const int nx = x + dx, ny = y + dy;
          if (nx < 0 || ny < 0 || nx >= heat.width() || ny >= heat.height()) continue;
          // Of equals, the first counts.
          const bool before = dy < 0 || (dy == 0 && dx < 0);
          top = before ? heat(nx, ny) < v : heat(nx, ny) <= v;
        }
      if (!top) continue;
      const float ox = topOf(heat.clamped(x - 1, y), v, heat.clamped(x + 1, y)),
                  oy = topOf(heat.clamped(x, y - 1), v, heat.clamped(x, y + 1));
      out.push_back({static_cast<float>(x) + 0.5f + ox, static_cast<float>(y) + 0.5f + oy, v});
    }
  std::stable_sort(out.begin(), out.end(), [](const Peak& a, const Peak& b) { return a.strength > b.strength; });
  if (out.size() > most) out.resize(most);
  return out;
}

float agreement(const PointMaps& maps, std::size_t limb, const Peak& from, const Peak& to) {
  constexpr int samples = 10;
  const float dx = to.x - from.x, dy = to.y - from.y, length = std::hypot(dx, dy);
  // Two points on one place are no limb that could be told, but may be one that is seen end on.
  if (length < 0.5f) return 0.15f;
  const View<float> along = maps.along[limb], down = maps.down[limb];
  float sum = 0;
  int good = 0;
  for (int i = 0; i < samples; ++i) {
    const float t = (static_cast<float>(i) + 0.5f) / samples;
    const int x = static_cast<int>(from.x + t * dx), y = static_cast<int>(from.y + t * dy);
    const float dot = (along.clamped(x, y) * dx + down.clamped(x, y) * dy) / length;
    sum += dot;
    good += dot > 0.05f ? 1 : 0;
  }
  // A bridge over nothing is none.
  if (good < samples * 6 / 10) return -1;
  // Longer than half the picture is seldom a limb.
  const float far = length / static_cast<float>(std::max(along.width(), along.height()));
  return sum / samples - std::max(0.0f, far - 0.5f);
}

std::vector<Figure> decoded(const PointMaps& maps, const Skeleton& skeleton, double scale, const DecodeTuning& tuning) {
  const std::size_t points = maps.heat.size();
  std::vector<std::vector<Peak>> peaks;
  for (const auto& heat : maps.heat) peaks.push_back(peaksOf(heat, tuning.faintest, tuning.mostPeaks));
  const auto limbs = limbsOf(skeleton);
  std::vector<Assembly> figures;
  for (std::size_t l = 0; l < limbs.size(); ++l) {
    const auto [f, t] = limbs[l];
    for (const Pair& pair : pairsFor(maps, l, peaks[f], peaks[t], tuning.leastLimb)) take(figures, points, f, t, pair);
  }
  std::vector<std::pair<float, Figure>> out;
  for (const Assembly& each : figures) {
    if (each.count() < tuning.leastPoints) continue;
    Figure figure;
    figure.skeleton = skeleton.id;
    figure.points.resize(skeleton.points.size());
    float sum = 0;
    for (std::size_t p = 0; p < points; ++p) {
      if (each.peak[p] == none) continue;
      const Peak& peak = peaks[p][static_cast<std::size_t>(each.peak[p])];
      KeyPoint& point = figure.points[p];
      point.at = {static_cast<double>(peak.x) * maps.stride * scale, static_cast<double>(peak.y) * maps.stride * scale};
      point.presence = Presence::seen;
      point.confidence = static_cast<double>(std::min(1.0f, peak.strength));
      sum += peak.strength;
    }
    out.emplace_back(sum, std::move(figure));
  }
  std::stable_sort(out.begin(), out.end(), [](const auto& a, const auto& b) { return a.first > b.first; });
  std::vector<Figure> found;
  for (auto& [sum, figure] : out) found.push_back(std::move(figure));
  return found;
}

}  // namespace hscaffold::pose
