/// Curves through points: least-squares cubic Beziers, split where one is not enough (Schneider 1990).
#pragma once

#include <span>

#include "core/strokes/stroke.h"

namespace hscaffold {

/// The points of a path with the width of the line at each.
using Path = std::vector<StrokePlace>;

/// Fits a stroke to a path. Corners sharper than about 60 degrees stay corners.
/// @param tolerance  in pixels, at least 0.3: no point of the path is farther from the curve, and no point of the curve
///                   farther from the path's polygon.
/// @param closed     the path is a loop; its last point is joined to its first.
Stroke fittedStroke(std::span<const StrokePlace> path, double tolerance, bool closed = false);

/// The path made coarser: points that lie within `tolerance` of the line between their neighbours go (Douglas and
/// Peucker 1973). The ends stay.
Path simplified(std::span<const StrokePlace> path, double tolerance);

/// Averages every point with its neighbours within `reach` points, ends held. Takes pixel steps out of traced paths.
Path smoothed(std::span<const StrokePlace> path, int reach, bool closed = false);

}  // namespace hscaffold
