/// Line maps out as SVG strokes.
#pragma once

#include <memory>
#include <string>
#include <vector>

#include "core/guides/kind.h"
#include "core/strokes/stroke.h"

namespace hscaffold {

/// SVG 1.1. One path a stroke: its mean width as `stroke-width`, all of them as `data-widths`, round ends, no fill.
std::string svgFrom(const std::vector<std::shared_ptr<const Stroke>>& strokes, Size size, const std::string& title);

/// Whether strokes that are all there is go out as they are; anything else is traced from the map.
enum class KeepStrokes { never, asTheyAre };
MapExport strokesAsSvg(KeepStrokes keep = KeepStrokes::never);

}  // namespace hscaffold
