#include "core/retouch/layer.h"

#include <cmath>

#include "core/image/parallel.h"

namespace hscaffold {
namespace {

constexpr int side = Tile::side;
constexpr std::uint16_t full = 65535;

std::uint16_t over(std::uint16_t below, const Touch& touch) {
  if (touch.cover == 0) return below;
  if (touch.cover == full) return touch.value;
  const std::uint32_t sum = std::uint32_t{below} * (full - touch.cover) + std::uint32_t{touch.value} * touch.cover;
  return static_cast<std::uint16_t>((sum + full / 2) / full);
}

/// Bilinear between four touches; values count as far as they cover.
Touch sampled(const Layer& layer, double x, double y) {
  const double fx = x - 0.5, fy = y - 0.5;
  const int x0 = static_cast<int>(std::floor(fx)), y0 = static_cast<int>(std::floor(fy));
  const double u = fx - x0, v = fy - y0;
  double cover = 0, value = 0, under = 0;
  for (const auto& [dx, dy, share] :
       {std::tuple{0, 0, (1 - u) * (1 - v)}, {1, 0, u * (1 - v)}, {0, 1, (1 - u) * v}, {1, 1, u * v}}) {
    const Touch t = layer.at(x0 + dx, y0 + dy);
    cover += share * t.cover;
    value += share * t.cover * t.value;
    under += share * t.cover * t.under;
  }
  if (cover < 0.5) return {};
  const auto whole = [](double d) { return static_cast<std::uint16_t>(std::lround(std::clamp(d, 0.0, 65535.0))); };
  return {whole(value / cover), whole(cover), whole(under / cover)};
}

}  // namespace

Touch Layer::at(int x, int y) const {
  if (x < 0 || y < 0 || x >= frame.width || y >= frame.height) return {};
  const auto found = tiles.find({x / side, y / side});
  return found != tiles.end() ? found->second->at(x % side, y % side) : Touch{};
}

void composeInto(View<std::uint16_t> below, const Layer& layer, const Box& part, MutableView<std::uint16_t> out) {
  const Box box = cut(part, out.size());
  for (int y = box.top; y < box.bottom; ++y) {
    if (below.empty())
      std::fill(out.row(y) + box.left, out.row(y) + box.right, std::uint16_t{0});
    else if (below.row(y) != out.row(y))
      std::copy(below.row(y) + box.left, below.row(y) + box.right, out.row(y) + box.left);
  }
  for (const auto& [place, tile] : layer.tiles) {
    const auto [column, row] = place;
    const Box common{std::max(box.left, column * side), std::max(box.top, row * side),
                     std::min(box.right, (column + 1) * side), std::min(box.bottom, (row + 1) * side)};
    for (int y = common.top; y < common.bottom; ++y)
      for (int x = common.left; x < common.right; ++x)
        out(x, y) = over(out(x, y), tile->at(x - column * side, y - row * side));
  }
}

Image<std::uint16_t> composed(View<std::uint16_t> below, const Layer& layer) {
  Image<std::uint16_t> out(below.empty() ? layer.frame : below.size());
  composeInto(below, layer, {0, 0, out.width(), out.height()}, out.view());
  return out;
}

void turnOver(MutableView<std::uint16_t> mask) {
  parallelRows(mask.height(), [&](int first, int end) {
    for (int y = first; y < end; ++y)
      for (std::uint16_t& v : mask.line(y)) v = static_cast<std::uint16_t>(full - v);
  });
}

namespace {
template <typename T, typename Limit>
void limitEach(MutableView<T> map, Limit&& limit) {
  parallelRows(map.height(), [&](int first, int end) {
    for (int y = first; y < end; ++y)
      for (int x = 0; x < map.width(); ++x) map(x, y) = limit(map(x, y), x, y);
  });
}
}  // namespace

void limitTo(MutableView<std::uint16_t> map, View<std::uint16_t> region) {
  limitEach(map, [&](std::uint16_t v, int x, int y) {
    return static_cast<std::uint16_t>(std::uint32_t{v} * region(x, y) / full);
  });
}

void limitTo(MutableView<Rgb8> map, View<std::uint16_t> region) {
  limitEach(map, [&](Rgb8 c, int x, int y) {
    const auto limited = [&](std::uint8_t v) {
      return static_cast<std::uint8_t>(std::uint32_t{v} * region(x, y) / full);
    };
    return Rgb8{limited(c.r), limited(c.g), limited(c.b)};
  });
}

Layer following(const Layer& layer, Size frame, const std::optional<Affine>& placing) {
  const Affine back = thenFromNow(layer.frame, layer.placing, frame, placing);
  Layer out;
  out.frame = frame;
  out.placing = placing;
  if (frame == layer.frame && isIdentity(back)) {
    out.tiles = layer.tiles;
    return out;
  }
  for (int row = 0; row * side < frame.height; ++row)
    for (int column = 0; column * side < frame.width; ++column) {
      auto tile = std::make_shared<Tile>();
      bool any = false;
      for (int y = 0; y < std::min(side, frame.height - row * side); ++y)
        for (int x = 0; x < std::min(side, frame.width - column * side); ++x) {
          const double fx = column * side + x + 0.5, fy = row * side + y + 0.5;
          tile->at(x, y) = sampled(layer, back.mapX(fx, fy), back.mapY(fx, fy));
          any |= tile->at(x, y).cover > 0;
        }
      if (any) out.tiles[{column, row}] = std::move(tile);
    }
  return out;
}

const WorkForm& layerForm() {
  static const WorkForm form{
      "layer", "Retouch", {}, {}, [](const std::any& piece, Size frame, const std::optional<Affine>& placing) {
        const auto& layer = std::any_cast<const std::shared_ptr<const Layer>&>(piece);
        return std::any(std::shared_ptr<const Layer>(std::make_shared<const Layer>(following(*layer, frame, placing))));
      }};
  return form;
}

Layer layerFrom(View<std::uint16_t> map, std::optional<Affine> placing) {
  Layer out;
  out.frame = map.size();
  out.placing = placing;
  for (int row = 0; row * side < map.height(); ++row)
    for (int column = 0; column * side < map.width(); ++column) {
      auto tile = std::make_shared<Tile>();
      for (int y = 0; y < std::min(side, map.height() - row * side); ++y)
        for (int x = 0; x < std::min(side, map.width() - column * side); ++x) {
          const std::uint16_t v = map(column * side + x, row * side + y);
          tile->at(x, y) = {v, full, v};
        }
      out.tiles[{column, row}] = std::move(tile);
    }
  return out;
}

Image<std::uint16_t> movedUnder(const Layer& layer, View<std::uint16_t> below) {
  Image<std::uint16_t> out(below.size());
  for (const auto& [place, tile] : layer.tiles) {
    const int left = place.first * side, top = place.second * side;
    for (int y = top; y < std::min(top + side, out.height()); ++y)
      for (int x = left; x < std::min(left + side, out.width()); ++x) {
        const Touch& touch = tile->at(x - left, y - top);
        if (touch.cover > 0 && std::abs(int{touch.under} - int{below(x, y)}) > full / 4) out(x, y) = full;
      }
  }
  return out;
}

Layer released(const Layer& layer, View<std::uint16_t> where) {
  Layer out = layer;
  for (auto it = out.tiles.begin(); it != out.tiles.end();) {
    const int left = it->first.first * side, top = it->first.second * side;
    auto tile = std::make_shared<Tile>(*it->second);
    bool changed = false, any = false;
    for (int y = 0; y < side; ++y)
      for (int x = 0; x < side; ++x) {
        Touch& touch = tile->at(x, y);
        if (touch.cover > 0 && left + x < where.width() && top + y < where.height() && where(left + x, top + y) != 0) {
          touch = {};
          changed = true;
        }
        any |= touch.cover > 0;
      }
    if (changed) it->second = std::move(tile);
    it = any ? std::next(it) : out.tiles.erase(it);
  }
  return out;
}

}  // namespace hscaffold
