/// Superpixels: a picture in small patches of one colour that keep to its edges (SLIC, Achanta et al. 2012), and which
/// of them touch.
#pragma once

#include <vector>

#include "core/image/colour.h"
#include "core/image/image.h"
#include "core/problem.h"

namespace hscaffold::depth {

/// A patch; places and lengths in pixels of the picture, pixel centres at + 0.5.
struct Cell {
  CieLab colour;  ///< mean
  float x = 0, y = 0;
  int area = 0;
};

/// Two cells that touch, a < b.
struct Border {
  int a = 0, b = 0;
  int length = 0;      ///< pixel pairs along it
  float contrast = 0;  ///< mean colour difference across it, CIELAB units
};

struct Superpixels {
  Image<std::int32_t> cell;  ///< which cell each pixel belongs to
  std::vector<Cell> cells;
  std::vector<Border> borders;  ///< each once, in order of a, then b
  float spacing = 1;            ///< about the side of a cell
  [[nodiscard]] int count() const { return static_cast<int>(cells.size()); }
};

/// Difference of two colours (CIE 1976).
float colourDifference(CieLab a, CieLab b);
/// How far two cells that touch are apart: by their means, and by what is seen across their border.
float apartness(const Superpixels& patches, const Border& border);

/// @param wanted  about how many cells; every cell is one connected piece.
/// @throws Cancelled
Superpixels superpixelsOf(View<CieLab> picture, int wanted, StopToken stop = {});

}  // namespace hscaffold::depth
