/// Pictures that are made in parts: how they are cut, and how the parts are joined again.
#pragma once

#include <vector>

#include "core/image/part.h"

namespace hscaffold {

inline constexpr int leastOverlap = 64;

/// Tiles of one size in rows, from left to right and top to bottom; neighbours overlap.
struct TilePlan {
  Size whole;
  int columns = 1, rows = 1;
  std::vector<Box> tiles;
  [[nodiscard]] int count() const { return columns * rows; }
};
/// As few tiles as can be, as square as can be.
/// @param mostPixels  of a tile; 0: any number
/// @param step        both sides of a tile are multiples of it, as those of `whole` are
/// @param overlap     at least, in pixels. @throws Problem (badInput) where tiles so small cannot overlap so much
TilePlan tilesFor(Size whole, std::int64_t mostPixels, int step, int overlap = 96);

/// How well parts were joined.
struct Joins {
  /// Mean gradient energy across the joins over that beside them; 1: unseen. 0 where there are none.
  double energy = 0;
  double worst = 0;  ///< the same of the worst of them
};

/// Lays tiles over each other in the plan's order. Where one overlaps what lies there, the border between them is a
/// path of least difference (dynamic programming, Efros and Freeman 2001), with a narrow ramp in linear light.
class TileJoiner {
 public:
  explicit TileJoiner(TilePlan plan);
  /// The next tile. @param tile  of its size
  void lay(View<Rgb8> tile);
  [[nodiscard]] const Image<Rgb8>& picture() const { return picture_; }
  Image<Rgb8> taken() { return std::move(picture_); }
  [[nodiscard]] Joins joins() const;

 private:
  /// A border between two tiles: where it crosses each row, or each column.
  struct Seam {
    bool upright = true;
    int first = 0;        ///< row, or column, of the first crossing
    std::vector<int> at;  ///< columns, or rows
  };
  [[nodiscard]] Seam seamOf(View<Rgb8> tile, const Box& overlap, bool upright) const;
  TilePlan plan_;
  std::size_t next_ = 0;
  Image<Rgb8> picture_;
  std::vector<Seam> seams_;
};

}  // namespace hscaffold
