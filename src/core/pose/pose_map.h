/// Figures drawn into a map, in inks.
#pragma once

#include <memory>
#include <span>

#include "core/guides/tuning.h"
#include "core/image/image.h"
#include "core/pose/inks.h"
#include "core/retouch/layer.h"

namespace hscaffold::pose {

/// One thing to draw, in frame pixels.
struct Mark {
  enum class Shape {
    stroke,  ///< round, tapered, from a to b
    ring,    ///< about a, on a dark disc so that it stays open over strokes
    egg,     ///< outline about a, long half axis `radiusTo` along `direction`, the other one `radius`
    wedge    ///< full triangle: tip at b, base about a, half as wide as `radius`
  } shape = Shape::stroke;
  Point a, b;
  double radius = 0, radiusTo = 0;  ///< half widths at a and b of a stroke
  double width = 0;                 ///< of outlines
  Point direction;                  ///< unit length
  Rgb8 colour, colourTo;
  double dash = 0, gap = 0;  ///< pixels; 0: not dashed
};

struct FigureMarks {
  std::vector<Mark> marks;  ///< in drawing order
  Box bounds;               ///< of all of them, in whole pixels, not cut to any frame
};

/// @param thickness  multiplies all widths.
FigureMarks marksOf(const Figure& figure, const Inks& inks, double thickness = 1);

/// Draws marks over what is there, inside `part` only.
void drawInto(MutableView<Rgb8> picture, const Box& part, std::span<const FigureMarks> figures);

/// The map of all figures that are on, from far to near. @throws Cancelled
Image<Rgb8> drawnFigures(const Figures& figures, Size size, const Inks& inks, double thickness = 1,
                         StopToken stop = {});

const TuningFields& poseTuningFields();
/// What multiplies all widths.
double thicknessIn(const Tuning& tuning);

}  // namespace hscaffold::pose
