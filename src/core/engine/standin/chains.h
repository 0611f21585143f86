/// The strokes of a line map as a hand would see them: pieces between junctions and corners, joined where one goes on
/// in the other, and ordered by how much each says about the picture.
#pragma once

#include <vector>

#include "core/lines/stroke.h"
#include "core/image/image.h"

namespace hscaffold::standin {

struct Chain {
  std::vector<Point> path;  ///< layout pixels, about one apart; gaps that were bridged are filled
  bool closed = false;
  double length = 0;      ///< in pixels
  double extent = 0;      ///< the longer side of its box, in pixels
  double isolation = 0;   ///< 1 alone on its ground, near 0 in texture
  double smoothness = 0;  ///< mean cosine of its turning
  double salience = 0;
  double rank = 0;  ///< share of all length that is in more salient chains, [0, 1]
};

/// Most salient first.
/// @param lines  of the layout's size; above a half is line.
std::vector<Chain> chainsOf(View<float> lines);

}  // namespace hscaffold::standin
