#include "core/retouch/painter.h"

#include <algorithm>
#include <cmath>

#include "core/image/colour.h"
#include "core/image/components.h"
#include "core/image/parallel.h"

namespace hscaffold {
namespace {

constexpr int tileSide = Tile::side;
constexpr std::uint32_t fullCover = 65535;

/// What is seen of a touch over what is below it.
std::uint32_t seen(const Touch& touch, std::uint16_t under) {
  return (std::uint32_t{touch.value} * touch.cover + std::uint32_t{under} * (fullCover - touch.cover)) / fullCover;
}

/// What a touch becomes under `cover` of a mode. @param level  what `draw` draws
Touch touched(const Touch& before, PaintMode mode, std::uint32_t cover, std::uint16_t under, std::uint32_t level) {
  if (cover == 0) return before;
  Touch out = before;
  if (mode == PaintMode::restore) {
    out.cover = static_cast<std::uint16_t>(before.cover * (fullCover - cover) / fullCover);
    return out.cover == 0 ? Touch{} : out;
  }
  if (mode == PaintMode::lighten || mode == PaintMode::darken) {
    const auto step = static_cast<std::uint32_t>(lightenStep * cover), now = seen(before, under);
    const std::uint32_t next = mode == PaintMode::lighten ? std::min(fullCover, now + step) : now - std::min(now, step);
    return {static_cast<std::uint16_t>(next), static_cast<std::uint16_t>(fullCover), under};
  }
  const std::uint32_t value = mode == PaintMode::draw ? level : 0;
  const std::uint32_t kept = before.cover * (fullCover - cover) / fullCover, total = kept + cover;
  out.value = static_cast<std::uint16_t>(
      (std::uint64_t{before.value} * kept + std::uint64_t{value} * cover + total / 2) / total);
  out.cover = static_cast<std::uint16_t>(std::min(total, fullCover));
  out.under = under;
  return out;
}

}  // namespace

BrushStroke::BrushStroke(Layer layer, const Brush& brush, View<std::uint16_t> below)
    : brush_(brush), below_(below), before_(layer), layer_(std::move(layer)) {}

Tile& BrushStroke::writable(TilePlace place) {
  auto& tile = open_[place];
  if (!tile) {
    const auto found = before_.tiles.find(place);
    tile = found != before_.tiles.end() ? std::make_shared<Tile>(*found->second) : std::make_shared<Tile>();
    layer_.tiles[place] = tile;
    covers_[place].assign(static_cast<std::size_t>(tileSide * tileSide), 0);
  }
  return *tile;
}

Box BrushStroke::to(Point at, double pressure) {
  const double radius = std::max(0.5, brush_.diameter / 2 * std::clamp(pressure, 0.02, 1.0));
  const Box box = begun_ ? paint(last_, lastRadius_, at, radius) : paint(at, radius, at, radius);
  begun_ = true;
  last_ = at;
  lastRadius_ = radius;
  return box;
}

Box BrushStroke::paint(Point a, double radiusA, Point b, double radiusB) {
  const double reach = std::max(radiusA, radiusB) + 1;
  const Box box = cut({static_cast<int>(std::floor(std::min(a.x, b.x) - reach)),
                       static_cast<int>(std::floor(std::min(a.y, b.y) - reach)),
                       static_cast<int>(std::ceil(std::max(a.x, b.x) + reach)),
                       static_cast<int>(std::ceil(std::max(a.y, b.y) + reach))},
                      layer_.frame);
  if (box.empty()) return box;
  if (brush_.mode == PaintMode::smudge) {
    smudge(a, b, std::max(radiusA, radiusB), box);
    return box;
  }
  const auto level = static_cast<std::uint32_t>(std::lround(std::clamp(brush_.level, 0.0, 1.0) * fullCover));
  const Point along = b - a;
  const double squared = dot(along, along);
  for (int row = box.top / tileSide; row * tileSide < box.bottom; ++row)
    for (int column = box.left / tileSide; column * tileSide < box.right; ++column) {
      const int left = std::max(box.left, column * tileSide), right = std::min(box.right, (column + 1) * tileSide);
      const int top = std::max(box.top, row * tileSide), bottom = std::min(box.bottom, (row + 1) * tileSide);
      Tile* tile = nullptr;
      std::vector<std::uint16_t>* covers = nullptr;
      const Tile* old = nullptr;
      for (int y = top; y < bottom; ++y)
        for (int x = left; x < right; ++x) {
          const Point p{x + 0.5, y + 0.5};
          const double t = squared > 0 ? std::clamp(dot(p - a, along) / squared, 0.0, 1.0) : 0;
          const double radius = radiusA + (radiusB - radiusA) * t;
          const double distance = distanceBetween(p, a + along * t);
          // Full within the hard part, falling smoothly to the rim; a hard rim is a pixel wide.
          const double soft = std::max(1.0, radius * (1 - brush_.hardness));
          const double u = std::clamp((radius + 0.5 - distance) / soft, 0.0, 1.0);
          const auto cover = static_cast<std::uint16_t>(u * u * (3 - 2 * u) * brush_.strength * 65535);
          if (cover == 0) continue;
          if (tile == nullptr) {
            tile = &writable({column, row});
            covers = &covers_[{column, row}];
            const auto found = before_.tiles.find({column, row});
            old = found != before_.tiles.end() ? found->second.get() : nullptr;
          }
          const int tx = x - column * tileSide, ty = y - row * tileSide;
          std::uint16_t& most = (*covers)[static_cast<std::size_t>(ty * tileSide + tx)];
          if (cover <= most) continue;
          most = cover;
          tile->at(tx, ty) = touched(old != nullptr ? old->at(tx, ty) : Touch{}, brush_.mode, cover,
                                     below_.empty() ? std::uint16_t{0} : below_(x, y), level);
        }
    }
  return box;
}

/// Every pixel under the brush takes on what lay a step back along the stroke.
void BrushStroke::smudge(Point a, Point b, double radius, const Box& box) {
  const Point step = b - a;
  if (dot(step, step) == 0) return;
  const auto under = [&](int x, int y) { return below_.empty() ? std::uint16_t{0} : below_(x, y); };
  // As it was before this step.
  Image<std::uint16_t> now(box.right - box.left, box.bottom - box.top);
  for (int y = box.top; y < box.bottom; ++y)
    for (int x = box.left; x < box.right; ++x)
      now(x - box.left, y - box.top) = static_cast<std::uint16_t>(seen(layer_.at(x, y), under(x, y)));
  for (int y = box.top; y < box.bottom; ++y)
    for (int x = box.left; x < box.right; ++x) {
      const double distance = distanceBetween({x + 0.5, y + 0.5}, b);
      const double soft = std::max(1.0, radius * (1 - brush_.hardness));
      const double cover = brush_.strength * std::clamp((radius + 0.5 - distance) / soft, 0.0, 1.0);
      if (cover <= 0) continue;
      const auto from = now.view().clamped(static_cast<int>(std::lround(x - step.x)) - box.left,
                                           static_cast<int>(std::lround(y - step.y)) - box.top);
      const auto here = now(x - box.left, y - box.top);
      const int column = x / tileSide, row = y / tileSide;
      writable({column, row}).at(x - column * tileSide, y - row * tileSide) = {
          static_cast<std::uint16_t>(std::lround(here + cover * (from - here))), static_cast<std::uint16_t>(fullCover),
          under(x, y)};
    }
}

Image<std::uint16_t> polygonMask(std::span<const Point> polygon, Size frame) {
  constexpr int samples = 4;  // sub-rows; across, coverage is exact
  Image<std::uint16_t> mask(frame);
  if (polygon.size() < 3) return mask;
  parallelRows(frame.height, [&](int first, int end) {
    std::vector<double> crossings;
    std::vector<float> cover(static_cast<std::size_t>(frame.width));
    for (int y = first; y < end; ++y) {
      std::fill(cover.begin(), cover.end(), 0.0f);
      for (int s = 0; s < samples; ++s) {
        const double at = y + (s + 0.5) / samples;
        crossings.clear();
        for (std::size_t i = 0; i < polygon.size(); ++i) {
          const Point a = polygon[i], b = polygon[(i + 1) % polygon.size()];
          if ((a.y <= at) != (b.y <= at)) crossings.push_back(a.x + (at - a.y) / (b.y - a.y) * (b.x - a.x));
        }
        std::sort(crossings.begin(), crossings.end());
        for (std::size_t k = 0; k + 1 < crossings.size(); k += 2) {
          const double from = std::clamp(crossings[k], 0.0, static_cast<double>(frame.width));
          const double until = std::clamp(crossings[k + 1], 0.0, static_cast<double>(frame.width));
          for (int x = static_cast<int>(from); x < until; ++x)
            cover[static_cast<std::size_t>(x)] +=
                static_cast<float>(std::min(until, x + 1.0) - std::max(from, static_cast<double>(x)));
        }
      }
      for (int x = 0; x < frame.width; ++x)
        mask(x, y) = static_cast<std::uint16_t>(
            std::lround(std::min(1.0f, cover[static_cast<std::size_t>(x)] / samples) * 65535.0f));
    }
  });
  return mask;
}

Layer painted(const Layer& layer, View<std::uint16_t> mask, PaintMode mode, View<std::uint16_t> below) {
  Layer out = layer;
  for (int row = 0; row * tileSide < out.frame.height; ++row)
    for (int column = 0; column * tileSide < out.frame.width; ++column) {
      const int right = std::min(tileSide, std::min(out.frame.width, mask.width()) - column * tileSide);
      const int bottom = std::min(tileSide, std::min(out.frame.height, mask.height()) - row * tileSide);
      std::shared_ptr<Tile> tile;
      for (int y = 0; y < bottom; ++y)
        for (int x = 0; x < right; ++x) {
          const std::uint16_t cover = mask(column * tileSide + x, row * tileSide + y);
          if (cover == 0) continue;
          if (!tile) {
            const auto found = layer.tiles.find({column, row});
            tile = found != layer.tiles.end() ? std::make_shared<Tile>(*found->second) : std::make_shared<Tile>();
          }
          tile->at(x, y) =
              touched(tile->at(x, y), mode, cover,
                      below.empty() ? std::uint16_t{0} : below(column * tileSide + x, row * tileSide + y), fullCover);
        }
      if (tile) out.tiles[{column, row}] = std::move(tile);
    }
  return out;
}

Image<std::uint16_t> specksOf(View<std::uint16_t> map, double area, int* count) {
  Image<std::uint8_t> set(map.size());
  for (int y = 0; y < map.height(); ++y)
    for (int x = 0; x < map.width(); ++x) set(x, y) = map(x, y) > fullCover / 8 ? 1 : 0;
  const auto pieces = componentsOf(set, Connected::eight);
  Image<std::uint16_t> mask(map.size());
  if (count != nullptr) *count = 0;
  for (std::size_t i = 0; i < pieces.all.size(); ++i) {
    const Component& piece = pieces.all[i];
    if (static_cast<double>(piece.area) >= area) continue;
    if (count != nullptr) ++*count;
    for (int y = piece.top; y <= piece.bottom; ++y)
      for (int x = piece.left; x <= piece.right; ++x) {
        if (pieces.label(x, y) != static_cast<std::int32_t>(i)) continue;
        for (int dy = -1; dy <= 1; ++dy)
          for (int dx = -1; dx <= 1; ++dx) {
            const int px = x + dx, py = y + dy;
            if (px < 0 || py < 0 || px >= mask.width() || py >= mask.height()) continue;
            // A neighbour of another, larger piece is left alone.
            const auto other = pieces.label(px, py);
            if (other < 0 || static_cast<double>(pieces.all[static_cast<std::size_t>(other)].area) < area)
              mask(px, py) = static_cast<std::uint16_t>(fullCover);
          }
      }
  }
  return mask;
}

Image<std::uint16_t> similarTo(View<Rgb> picture, Point seed, double tolerance, bool joined) {
  Image<std::uint16_t> mask(picture.size());
  if (picture.empty()) return mask;
  const int sx = std::clamp(static_cast<int>(seed.x), 0, picture.width() - 1);
  const int sy = std::clamp(static_cast<int>(seed.y), 0, picture.height() - 1);
  const OkLab wanted = linearToOkLab(picture(sx, sy));
  Image<std::uint8_t> near(picture.size());
  parallelRows(picture.height(), [&](int first, int end) {
    for (int y = first; y < end; ++y)
      for (int x = 0; x < picture.width(); ++x) {
        const OkLab c = linearToOkLab(picture(x, y));
        const float d = std::hypot(c.l - wanted.l, c.a - wanted.a, c.b - wanted.b);
        near(x, y) = static_cast<double>(d) <= tolerance ? 1 : 0;
      }
  });
  const auto pieces = joined ? componentsOf(near, Connected::four) : Components{};
  for (int y = 0; y < mask.height(); ++y)
    for (int x = 0; x < mask.width(); ++x)
      if (near(x, y) != 0 && (!joined || pieces.label(x, y) == pieces.label(sx, sy)))
        mask(x, y) = static_cast<std::uint16_t>(fullCover);
  return mask;
}

}  // namespace hscaffold
