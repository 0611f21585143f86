#include "core/engine/standin/masses.h"

#include <algorithm>
#include <cmath>
#include <map>
#include <numeric>

#include "core/engine/standin/noise.h"
#include "core/engine/standin/partition.h"

namespace hscaffold::standin {
namespace {

/// Strokes that bound masses: alone and smooth, or long.
bool bounds(const Chain& chain, double width) {
  const double share = chain.extent / width;
  return (chain.isolation * chain.smoothness > 0.25 && share > 0.03) || (share > 0.12 && chain.smoothness > 0.6);
}

/// What a mass is, from where it lies, how large it is, and what the prompt would have put there.
void nameMass(Mass& mass, Size size) {
  const double share = mass.area / static_cast<double>(size.area());
  const double cy = mass.y / mass.area / size.height;
  for (std::size_t i = 0; i < Fields::count; ++i) mass.wanted[i] = static_cast<float>(mass.sums[i] / mass.area);
  std::array<float, partCount> score{};
  for (std::size_t p = 0; p < partCount; ++p) score[p] = mass.wanted[4 + p];
  if (mass.top && !mass.bottom && share > 0.04) score[0] += cy < 0.5 ? 0.9f : 0.4f;
  if (mass.bottom && !mass.top && share > 0.04) score[3] += cy > 0.5 ? 0.9f : 0.4f;
  // Small closed pieces are things; larger ones may as well be openings between things.
  if (mass.enclosed()) score[4] += 1.2f - 1.1f * smoothStep(0.006f, 0.035f, static_cast<float>(share));
  if (!mass.top && !mass.bottom && !mass.enclosed()) score[cy < 0.55 ? 1 : 2] += 0.35f;
  if (!mass.enclosed() && share < 0.04) score[4] += 0.35f;
  float total = 0;
  for (float& s : score) {
    s = std::pow(std::max(s, 0.0f), 4.0f);
    total += s;
  }
  for (std::size_t p = 0; p < partCount; ++p) mass.wanted[4 + p] = score[p] / std::max(total, 1e-6f);
  mass.wanted[1] = 0.8f * mass.wanted[1] + 0.2f * (mass.enclosed() ? 0.85f : static_cast<float>(cy));
}

/// Values of masses, so that neighbours stand apart: the largest choose first.
void giveValues(Masses& masses, std::uint64_t seed) {
  const std::size_t count = masses.all.size();
  std::vector<std::vector<std::pair<int, double>>> beside(count);
  for (const MassBorder& border : masses.borders) {
    const auto length = static_cast<double>(border.pixels.size());
    beside[static_cast<std::size_t>(border.a)].emplace_back(border.b, length);
    beside[static_cast<std::size_t>(border.b)].emplace_back(border.a, length);
  }
  std::vector<std::size_t> order(count);
  std::iota(order.begin(), order.end(), std::size_t{0});
  std::stable_sort(order.begin(), order.end(),
                   [&](std::size_t a, std::size_t b) { return masses.all[a].area > masses.all[b].area; });
  std::vector<bool> given(count, false);
  const auto samePart = [](const Mass& a, const Mass& b) {
    float same = 0;
    for (std::size_t p = 0; p < partCount; ++p) same += std::min(a.wanted[4 + p], b.wanted[4 + p]);
    return same;
  };
  for (const std::size_t i : order) {
    Mass& mass = masses.all[i];
    const double pixels = static_cast<double>(masses.label.size().area());
    const double share = mass.area / pixels;
    const auto cell = [&](double v) { return static_cast<std::uint64_t>(v / mass.area / 16 + 0.5); };
    const std::uint64_t hash = mixed(seed, cell(mass.x) * 64 + cell(mass.y), static_cast<std::uint64_t>(share * 200));
    const float own = signedUnit(hash);
    const float liked = 0.4f * mass.wanted[0] + (share > 0.2 ? 0.2f : 0.45f) * (own + (own > 0 ? 0.25f : -0.25f));
    float best = liked;
    double least = 1e18, around = 0;
    for (const auto& [j, length] : beside[i])
      if (given[static_cast<std::size_t>(j)]) around += length;
    // Large masses keep to the middle of the scale: a sky is neither white nor black.
    const float most = blend(0.95f, 0.5f, smoothStep(0.04f, 0.25f, static_cast<float>(share)));
    for (float value = -most; value <= most + 0.01f; value += 0.1f) {
      double cost = 0.35 * static_cast<double>((value - liked) * (value - liked));
      for (const auto& [j, length] : beside[i]) {
        const Mass& other = masses.all[static_cast<std::size_t>(j)];
        if (!given[static_cast<std::size_t>(j)]) continue;
        const float need = blend(0.4f, 0.85f, samePart(mass, other));
        const float lacks = std::max(0.0f, need - std::abs(value - other.wanted[0]));
        cost += length / std::max(around, 1.0) * static_cast<double>(lacks * lacks) * 2.5;
      }
      if (cost < least) {
        least = cost;
        best = value;
      }
    }
    mass.wanted[0] = best;
    // Few masses have the second colour: a picture has one accent.
    const auto small = static_cast<float>(std::clamp(1.2 - share * 6, 0.25, 1.0));
    const float lean = signedUnit(mixed(hash, 2));
    mass.wanted[2] = 0.3f * mass.wanted[2] + small * lean * std::abs(lean);
    given[i] = true;
  }
}

}  // namespace

Partition massPartition(const std::vector<Chain>& chains, Size size) {
  Image<float> drawn(size);
  for (const Chain& chain : chains)
    if (bounds(chain, std::max(size.width, size.height))) mark(drawn, chain, 1.0f);
  return partitionBy(drawn);
}

Masses massesOf(const Partition& partition, const Composition& place, std::uint64_t seed) {
  const Size size = place.fields.size();
  Masses out;
  out.label = partition.label.clone();
  out.distance = partition.distance.clone();
  out.all.resize(static_cast<std::size_t>(partition.count));
  std::map<std::pair<int, int>, std::vector<std::int32_t>> borders;
  for (int y = 0; y < size.height; ++y)
    for (int x = 0; x < size.width; ++x) {
      const std::int32_t here = out.label(x, y);
      Mass& mass = out.all[static_cast<std::size_t>(here)];
      mass.area += 1;
      mass.x += x;
      mass.y += y;
      mass.peak = std::max(mass.peak, out.distance(x, y));
      mass.top |= y == 0;
      mass.bottom |= y == size.height - 1;
      mass.left |= x == 0;
      mass.right |= x == size.width - 1;
      for (std::size_t i = 0; i < Fields::count; ++i) mass.sums[i] += static_cast<double>(place.fields.all[i](x, y));
      const std::int32_t index = y * size.width + x;
      const auto meets = [&](std::int32_t other) {
        if (other != here) borders[{std::min(here, other), std::max(here, other)}].push_back(index);
      };
      if (x + 1 < size.width) meets(out.label(x + 1, y));
      if (y + 1 < size.height) meets(out.label(x, y + 1));
    }
  for (auto& [pair, pixels] : borders) out.borders.push_back({pair.first, pair.second, std::move(pixels)});
  for (Mass& mass : out.all) nameMass(mass, size);
  giveValues(out, seed);
  return out;
}

std::vector<int> takenMasses(const Masses& masses, View<float> toObeyed, const LoadCurve& loads) {
  const int width = masses.label.width();
  const auto count = masses.all.size();
  std::vector<int> parent(count);
  std::iota(parent.begin(), parent.end(), 0);
  const auto find = [&](int i) {
    while (parent[static_cast<std::size_t>(i)] != i) i = parent[static_cast<std::size_t>(i)];
    return i;
  };
  constexpr float near = 2.1f;
  std::vector<double> onLines(masses.borders.size());
  for (std::size_t b = 0; b < masses.borders.size(); ++b) {
    const auto& pixels = masses.borders[b].pixels;
    for (const std::int32_t p : pixels) onLines[b] += toObeyed(p % width, p / width) <= near ? 1 : 0;
  }
  // Neighbours with an open border are one; the better closed borders count first, so that a leak does not flood all.
  std::vector<double> area(count), length(count), on(count);
  for (std::size_t b = 0; b < masses.borders.size(); ++b) {
    const MassBorder& border = masses.borders[b];
    if (onLines[b] >= 0.5 * static_cast<double>(border.pixels.size())) continue;
    const int i = find(border.a), j = find(border.b);
    if (i != j) parent[static_cast<std::size_t>(std::max(i, j))] = std::min(i, j);
  }
  for (std::size_t b = 0; b < masses.borders.size(); ++b) {
    const int i = find(masses.borders[b].a), j = find(masses.borders[b].b);
    if (i == j) continue;
    for (const int group : {i, j}) {
      length[static_cast<std::size_t>(group)] += static_cast<double>(masses.borders[b].pixels.size());
      on[static_cast<std::size_t>(group)] += onLines[b];
    }
  }
  // A group has the name of its largest mass.
  std::vector<int> largest(count, -1);
  std::vector<Mass> group(count);
  for (std::size_t i = 0; i < count; ++i) {
    const auto root = static_cast<std::size_t>(find(static_cast<int>(i)));
    const Mass& mass = masses.all[i];
    area[root] += mass.area;
    group[root].top |= mass.top;
    group[root].bottom |= mass.bottom;
    group[root].left |= mass.left;
    group[root].right |= mass.right;
    if (largest[root] < 0 || mass.area > masses.all[static_cast<std::size_t>(largest[root])].area)
      largest[root] = static_cast<int>(i);
  }
  const auto pixels = static_cast<double>(masses.label.size().area());
  std::vector<int> out(count, -1);
  for (std::size_t i = 0; i < count; ++i) {
    const auto root = static_cast<std::size_t>(find(static_cast<int>(i)));
    const double share = area[root] / pixels;
    // Open land, which goes on beyond the frame on most sides, is the prompt's own.
    const Mass& whole = group[root];
    const int sides = whole.top + whole.bottom + whole.left + whole.right;
    if (length[root] < 1 || (share > 0.26 && sides > 2) || (share > 0.42 && whole.top && whole.bottom)) continue;
    // Large masses settle first.
    const double size = std::clamp(std::log(share / 0.0008) / std::log(0.12 / 0.0008), 0.0, 1.0);
    const double load = loads.at(settlingTime(0.75 * (1 - size)));
    if (load < 0.12) continue;
    const double slack = 1 - std::min(load, 1.0);
    const double needed = whole.enclosed() ? 0.60 + 0.14 * slack : 0.66 + 0.16 * slack;
    if (on[root] / length[root] >= needed) out[i] = largest[root];
  }
  return out;
}

}  // namespace hscaffold::standin
