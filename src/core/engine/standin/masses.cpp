#include "core/engine/standin/masses.h"

#include <algorithm>
#include <cmath>
#include <map>

#include "core/engine/standin/cords.h"
#include "core/engine/standin/partition.h"
#include "core/groups.h"
#include "core/image/components.h"
#include "core/image/distance.h"

namespace hscaffold::standin {
namespace {

/// Strokes that bound masses: alone and smooth, or long.
bool bounds(const Chain& chain, double width) {
  const double share = chain.extent / width;
  return (chain.isolation * chain.smoothness > 0.25 && share > 0.03) || (share > 0.12 && chain.smoothness > 0.6);
}

/// Long and level, as ripples, strata and horizons are: however many lie together, they are land or water.
bool level(const Chain& chain, double width) {
  double up = 0;
  for (std::size_t i = 1; i < chain.path.size(); ++i) up += std::abs(chain.path[i].y - chain.path[i - 1].y);
  return chain.extent > 0.05 * width && up < 0.35 * chain.length;
}

/// Within `reach` of what is set.
Image<std::uint8_t> grown(View<std::uint8_t> mask, float reach) {
  const auto away = distanceToSet(mask);
  Image<std::uint8_t> out(mask.size());
  for (int y = 0; y < out.height(); ++y)
    for (int x = 0; x < out.width(); ++x) out(x, y) = away(x, y) <= reach ? 255 : 0;
  return out;
}

/// What is not set.
Image<std::uint8_t> inverted(View<std::uint8_t> mask) {
  Image<std::uint8_t> out(mask.size());
  for (int y = 0; y < out.height(); ++y)
    for (int x = 0; x < out.width(); ++x) out(x, y) = mask(x, y) != 0 ? 0 : 255;
  return out;
}

/// Without pieces that are less than that share of the frame.
Image<std::uint8_t> withoutSmall(Image<std::uint8_t> mask, double share, Connected connected) {
  const Components pieces = componentsOf(mask, connected);
  for (int y = 0; y < mask.height(); ++y)
    for (int x = 0; x < mask.width(); ++x)
      if (mask(x, y) != 0 && static_cast<double>(pieces.all[static_cast<std::size_t>(pieces.label(x, y))].area) <
                                 share * static_cast<double>(mask.size().area()))
        mask(x, y) = 0;
  return mask;
}

}  // namespace

Image<std::uint8_t> denseStrokes(const std::vector<Chain>& chains, Size size) {
  const float longer = static_cast<float>(std::max(size.width, size.height));
  const float gap = 0.015f * longer, narrow = 0.024f * longer;
  constexpr double least = 0.008, hole = 0.04;  // of the frame
  Image<std::uint8_t> strokes(size);
  for (const Chain& chain : chains)
    if (!level(chain, static_cast<double>(longer))) mark(strokes, chain, std::uint8_t{255});
  // Closed over the gaps between strokes, then opened, which leaves out single strokes and pairs of them.
  const auto closed = inverted(grown(inverted(grown(strokes, gap)), gap));
  auto dense = grown(inverted(grown(inverted(closed), narrow)), narrow);
  dense = inverted(withoutSmall(inverted(dense), hole, Connected::four));
  return withoutSmall(std::move(dense), least, Connected::eight);
}

Partition massPartition(const std::vector<Chain>& chains, View<std::uint8_t> dense, View<std::uint8_t> cords) {
  const Size size = dense.size();
  Image<float> drawn(size);
  for (const Chain& chain : chains) {
    if (!bounds(chain, std::max(size.width, size.height))) continue;
    const std::span<const Point> path(chain.path);
    std::size_t from = 0;
    for (const auto& [first, end] : alongCords(chain, cords)) {
      mark(drawn, path.subspan(from, first - from), 1.0f);
      from = end;
    }
    mark(drawn, path.subspan(from), 1.0f);
  }
  // What is dense is one mass, whatever runs through it.
  const auto inside = distanceToSet(inverted(dense));
  for (int y = 0; y < size.height; ++y)
    for (int x = 0; x < size.width; ++x)
      if (dense(x, y) != 0) drawn(x, y) = inside(x, y) < 2 ? 1.0f : 0.0f;
  return partitionBy(drawn);
}

Masses massesOf(const Partition& partition, View<std::uint8_t> dense, const Composition& place) {
  const Size size = place.fields.size();
  Masses out;
  out.label = partition.label.clone();
  out.distance = partition.distance.clone();
  out.all.resize(static_cast<std::size_t>(partition.count));
  std::vector<double> full(out.all.size());
  std::map<std::pair<int, int>, std::vector<std::int32_t>> borders;
  for (int y = 0; y < size.height; ++y)
    for (int x = 0; x < size.width; ++x) {
      const std::int32_t here = out.label(x, y);
      Mass& mass = out.all[static_cast<std::size_t>(here)];
      if (mass.area == 0) mass.box = {0, x, y, x, y};
      mass.box = {mass.box.area + 1, std::min(mass.box.left, x), mass.box.top, std::max(mass.box.right, x), y};
      if (dense(x, y) != 0) full[static_cast<std::size_t>(here)] += 1;
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
  for (std::size_t i = 0; i < out.all.size(); ++i) out.all[i].dense = full[i] > 0.6 * out.all[i].area;
  return out;
}

bool isOpenLand(const Mass& mass, double share) {
  const int sides = mass.top + mass.bottom + mass.left + mass.right;
  return (share > 0.26 && sides > 2) || (share > 0.42 && mass.top && mass.bottom);
}

std::vector<int> takenMasses(const Masses& masses, View<float> toObeyed, const LoadCurve& loads) {
  const int width = masses.label.width();
  const auto count = masses.all.size();
  Groups groups(count);
  const auto find = [&](int i) { return groups.of(static_cast<std::size_t>(i)); };
  std::vector<double> onLines(masses.borders.size());
  for (std::size_t b = 0; b < masses.borders.size(); ++b) {
    const auto& pixels = masses.borders[b].pixels;
    // What is dense ends about its outermost strokes.
    const bool rough = masses.all[static_cast<std::size_t>(masses.borders[b].a)].dense ||
                       masses.all[static_cast<std::size_t>(masses.borders[b].b)].dense;
    const float near = rough ? 5.0f : 2.1f;
    for (const std::int32_t p : pixels) onLines[b] += toObeyed(p % width, p / width) <= near ? 1 : 0;
  }
  // Neighbours with an open border are one; the better closed borders count first, so that a leak does not flood all.
  std::vector<double> area(count), length(count), on(count);
  for (std::size_t b = 0; b < masses.borders.size(); ++b) {
    const MassBorder& border = masses.borders[b];
    if (onLines[b] >= 0.5 * static_cast<double>(border.pixels.size())) continue;
    groups.join(static_cast<std::size_t>(border.a), static_cast<std::size_t>(border.b));
  }
  for (std::size_t b = 0; b < masses.borders.size(); ++b) {
    const std::size_t i = find(masses.borders[b].a), j = find(masses.borders[b].b);
    if (i == j) continue;
    for (const std::size_t one : {i, j}) {
      length[one] += static_cast<double>(masses.borders[b].pixels.size());
      on[one] += onLines[b];
    }
  }
  // A group has the name of its largest mass.
  std::vector<int> largest(count, -1);
  std::vector<Mass> group(count);
  for (std::size_t i = 0; i < count; ++i) {
    const std::size_t root = groups.of(i);
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
    const std::size_t root = groups.of(i);
    const double share = area[root] / pixels;
    const Mass& whole = group[root];
    if (length[root] < 1 || isOpenLand(whole, share)) continue;
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
