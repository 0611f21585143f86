/// Retouch: hand work kept apart from what it lies on, in tiles that versions of a layer share. Re-tuning changes what
/// is below; the layer stays, bit for bit.
#pragma once

#include <array>
#include <map>
#include <memory>
#include <optional>
#include <span>

#include "core/frame/placement.h"
#include "core/guides/work.h"
#include "core/image/image.h"
#include "core/image/part.h"

namespace hscaffold {

/// Hand work on one pixel.
struct Touch {
  std::uint16_t value = 0;  ///< what it should be
  std::uint16_t cover = 0;  ///< how much of that; 0 leaves what is below
  std::uint16_t under = 0;  ///< what was below when it was done
  friend bool operator==(const Touch&, const Touch&) = default;
};

struct Tile {
  static constexpr int side = 64;
  std::array<Touch, static_cast<std::size_t>(side* side)> touches{};
  [[nodiscard]] Touch& at(int x, int y) { return touches[static_cast<std::size_t>(y * side + x)]; }
  [[nodiscard]] const Touch& at(int x, int y) const { return touches[static_cast<std::size_t>(y * side + x)]; }
};

/// Column and row of a tile.
using TilePlace = std::pair<int, int>;

/// Immutable once shared; a copy shares its tiles.
struct Layer {
  Size frame;
  /// Frame from reference coordinates when it was made, so that it can follow the reference; none for guides without.
  std::optional<Affine> placing;
  std::map<TilePlace, std::shared_ptr<const Tile>> tiles;

  [[nodiscard]] Touch at(int x, int y) const;
  [[nodiscard]] bool empty() const { return tiles.empty(); }
};

/// `below` with the layer over it. An empty view below counts as 0 everywhere.
Image<std::uint16_t> composed(View<std::uint16_t> below, const Layer& layer);
/// The same for a part, into a map of frame size.
void composeInto(View<std::uint16_t> below, const Layer& layer, const Box& part, MutableView<std::uint16_t> out);

/// A mask turned over: what was covered is free.
void turnOver(MutableView<std::uint16_t> mask);
/// A line map kept only as far as `region` says; both of one size.
void limitTo(MutableView<std::uint16_t> map, View<std::uint16_t> region);
void limitTo(MutableView<Rgb8> map, View<std::uint16_t> region);

/// The layer as it lies when the frame or the placing of its reference is another: moved with the reference, or with
/// the frame where there is none. The same tiles if nothing changed.
Layer following(const Layer& layer, Size frame, const std::optional<Affine>& placing);

/// Layers are kept tile by tile: the edit store reads and writes them itself.
const WorkForm& layerForm();

/// A layer that covers everything with `map`.
Layer layerFrom(View<std::uint16_t> map, std::optional<Affine> placing);

/// Where what is below has moved, by more than a quarter of full, since it was retouched: 65535 there, else 0.
Image<std::uint16_t> movedUnder(const Layer& layer, View<std::uint16_t> below);
/// The layer without its touches where `where` is set.
Layer released(const Layer& layer, View<std::uint16_t> where);

}  // namespace hscaffold
