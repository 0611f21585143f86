/// Pages drawn with known strokes, for line art to be found on again.
#pragma once

#include <span>

#include "core/strokes/stroke.h"
#include "fixtures.h"

namespace fixtures {

struct Page {
  QString name;
  Image<Rgb> picture;  ///< linear light
  std::vector<std::shared_ptr<const Stroke>> strokes;
};

/// Curves, corners, loops and crossings, all inside the frame.
std::vector<std::shared_ptr<const Stroke>> knownStrokes(Size size, unsigned seed, double width);
/// White sheet in even light; raking light with grain; ruled and blurred; squared and yellowed; white on slate; pencil
/// on tooth with a stain; a small soft scan.
std::vector<Page> drawnPages();

/// Share of the strokes' middles that have set pixels of `skeleton` within `reach`, and the other way round.
double recallOf(const std::vector<std::shared_ptr<const Stroke>>& strokes, View<std::uint8_t> skeleton, double reach);
double precisionOf(const std::vector<std::shared_ptr<const Stroke>>& strokes, View<std::uint8_t> skeleton,
                   double reach);

/// The largest distance of any of `places` to the chain of straight pieces `line`.
double farthestFrom(std::span<const StrokePlace> line, std::span<const StrokePlace> places);

}  // namespace fixtures
