#include "core/finish/things.h"

#include <algorithm>
#include <cmath>

#include "core/image/flood.h"
#include "core/image/narrow.h"
#include "core/image/resample.h"
#include "core/pose/solids.h"

namespace hscaffold {
namespace {

/// Maps are looked at in this size: outlines of a region need no more.
constexpr double longest = 512;

std::pair<int, int> pixelAt(Size size, Point at) {
  return {std::clamp(static_cast<int>(at.x * size.width), 0, size.width - 1),
          std::clamp(static_cast<int>(at.y * size.height), 0, size.height - 1)};
}

double shareOf(const Image<std::uint8_t>& mask) {
  std::int64_t set = 0;
  for (int y = 0; y < mask.height(); ++y)
    for (const std::uint8_t v : mask.line(y)) set += v != 0 ? 1 : 0;
  return static_cast<double>(set) / static_cast<double>(mask.size().area());
}

/// So many pixels wider all round; squares.
Image<std::uint8_t> wider(const Image<std::uint8_t>& mask, int by) {
  Image<std::uint8_t> out(mask.size());
  for (int y = 0; y < mask.height(); ++y)
    for (int x = 0; x < mask.width(); ++x) {
      bool any = false;
      for (int dy = -by; dy <= by && !any; ++dy)
        for (int dx = -by; dx <= by && !any; ++dx) any = mask.view().clamped(x + dx, y + dy) != 0;
      out(x, y) = any ? 255 : 0;
    }
  return out;
}

Image<float> small(View<std::uint16_t> map) {
  const Size size = within(map.size(), longest);
  auto values = widened(map);
  return size == map.size() ? std::move(values) : resampled(values.view(), size, Resampling::area);
}

}  // namespace

std::optional<Thing> figureAt(const pose::Figures& figures, Point at) {
  const double width = figures.frame.width, height = figures.frame.height;
  // The last one is the nearest.
  for (std::size_t number = figures.figures.size(); number-- > 0;) {
    const pose::Figure& figure = *figures.figures[number];
    if (!figure.on) continue;
    const auto solids = pose::solidsOf(figure);
    const pose::PlacedSolid* hit = nullptr;
    double nearest = 0.02 * std::max(width, height);
    for (const pose::PlacedSolid& solid : solids)
      if (const double distance = pose::distanceTo(solid, at); distance < nearest) nearest = distance, hit = &solid;
    if (hit == nullptr) continue;
    using Of = pose::Solid::Of;
    const bool part = hit->solid->of == Of::head || hit->solid->of == Of::hand;
    Thing thing;
    const std::string whose = figure.name.empty() ? "figure " + std::to_string(number + 1) : figure.name;
    thing.name = hit->solid->of == Of::head   ? "head of " + whose
                 : hit->solid->of == Of::hand ? "hand of " + whose
                                              : whose;
    for (const pose::PlacedSolid& solid : solids) {
      if (part && solid.solid->of != hit->solid->of) continue;
      // Of two hands the one that was meant.
      if (hit->solid->of == Of::hand && pose::distanceTo(solid, at) > 4 * (hit->radiusA + hit->radiusB)) continue;
      // Hair and sleeves stand out.
      constexpr double beyond = 1.25;
      TouchShape shape;
      shape.brush = true;
      shape.width = 2 * beyond * std::max(solid.radiusA, solid.radiusB) / std::max(width, height);
      shape.lines = {{{solid.a.x / width, solid.a.y / height}, {solid.b.x / width, solid.b.y / height}}};
      thing.region.push_back(std::move(shape));
    }
    return thing;
  }
  return {};
}

std::optional<Thing> surfaceAt(View<std::uint16_t> depth, Point at) {
  if (depth.empty()) return {};
  const auto map = small(depth);
  const auto [x, y] = pixelAt(map.size(), at);
  constexpr float jump = 0.018f, range = 0.22f;
  const float from = map(x, y);
  const auto mask = reachedFrom(map.size(), x, y, [&](int px, int py, int nx, int ny) {
    return std::abs(map(nx, ny) - map(px, py)) < jump && std::abs(map(nx, ny) - from) < range;
  });
  if (shareOf(mask) > 0.8) return {};
  return Thing{{shapeFrom(mask.view())}, "surface"};
}

std::optional<Thing> areaAt(View<std::uint16_t> lines, Point at) {
  if (lines.empty()) return {};
  const auto map = small(lines);
  const auto [x, y] = pixelAt(map.size(), at);
  Image<std::uint8_t> walls(map.size());
  for (int py = 0; py < map.height(); ++py)
    for (int px = 0; px < map.width(); ++px) walls(px, py) = map(px, py) > 0.25f ? 255 : 0;
  // Gaps close where walls are broad; the area grows back to the middle of its lines.
  constexpr int gap = 2;
  const auto broad = wider(walls, gap);
  if (broad(x, y) != 0) return {};
  const auto inside = reachedFrom(map.size(), x, y, [&](int, int, int nx, int ny) { return broad(nx, ny) == 0; });
  if (shareOf(inside) > 0.6) return {};
  return Thing{{shapeFrom(wider(inside, gap + 1).view())}, "area"};
}

}  // namespace hscaffold
