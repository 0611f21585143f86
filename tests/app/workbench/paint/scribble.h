/// The scribble that tests of hand work paint, stroke by stroke.
#pragma once

#include <QPointF>
#include <vector>

#include "core/retouch/painter.h"

namespace fixtures {

/// Stroke `i` of the scribble: its places in the frame.
inline std::vector<QPointF> placesOf(int i) {
  std::vector<QPointF> places;
  for (int k = 0; k < 8; ++k) places.emplace_back(20 + (i * 37) % 400 + 4 * k, 20 + (i * 53) % 260 + 3 * (k % 4));
  return places;
}

inline hscaffold::Brush brushOf(int i) {
  using hscaffold::PaintMode;
  return {i % 3 == 2 ? PaintMode::rubOut : PaintMode::draw, 6.0 + i % 5, 0.7, 1};
}

}  // namespace fixtures
