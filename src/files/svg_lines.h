/// Strokes from SVG 1.1.
#pragma once

#include <span>
#include <string>
#include <vector>

#include "core/image/atomic_file.h"
#include "core/strokes/stroke.h"

namespace hscaffold {

struct SvgLines {
  std::vector<std::shared_ptr<const Stroke>> strokes;
  Size size;         ///< of the drawing, in its own pixels; what `strokes` would fill
  std::string note;  ///< what was left out, one sentence; empty if nothing
};

/// Paths, lines, polylines, polygons, rectangles, circles and ellipses with their transforms and widths. Text,
/// pictures, styles sheets, scripts and anything from outside the file are left out. Bounded: 64 MB, 100 000 shapes, 2
/// million points, 100 nested groups.
/// @param frame  what the drawing is fitted into, centred; its own size if empty.
/// @throws Problem (badInput) if it is no SVG, too large, or has no lines.
SvgLines readSvgLines(std::span<const std::byte> bytes, const std::string& name, Size frame = {});

}  // namespace hscaffold
