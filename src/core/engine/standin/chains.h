/// The strokes of a line map as a hand would see them: pieces between junctions and corners, joined where one goes on
/// in the other, and ordered by how much each says about the picture.
#pragma once

#include <span>
#include <vector>

#include "core/image/image.h"
#include "core/strokes/curve_fit.h"

namespace hscaffold::standin {

struct Chain {
  std::vector<Point> path;  ///< layout pixels, about one apart; gaps that were bridged are filled
  bool closed = false;
  double length = 0;      ///< in pixels
  double extent = 0;      ///< the longer side of its box, in pixels
  double isolation = 0;   ///< 1 alone on its ground, near 0 in texture
  double smoothness = 0;  ///< mean cosine of its turning
  double salience = 0;
  double rank = 0;     ///< share of all length that is in more salient chains, [0, 1]
  double settles = 0;  ///< when, as a share of the steps
};

/// Adds the pieces of a path that is cut where it turns sharply.
void cutAtCorners(const Path& path, std::vector<std::vector<Point>>& pieces);

/// Most salient first.
/// @param lines  of the layout's size; above a half is line.
/// @param map    the map that they are taken from, at its own size
std::vector<Chain> chainsOf(View<float> lines, View<std::uint16_t> map);

/// Sets the pixels of a path that lie inside the picture.
template <typename T>
void mark(Image<T>& picture, std::span<const Point> path, T value) {
  for (const Point p : path)
    if (p.x >= 0 && p.y >= 0 && p.x < picture.width() && p.y < picture.height())
      picture(static_cast<int>(p.x), static_cast<int>(p.y)) = value;
}
template <typename T>
void mark(Image<T>& picture, const Chain& chain, T value) {
  mark(picture, std::span(chain.path), value);
}

}  // namespace hscaffold::standin
