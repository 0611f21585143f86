/// Tracing: from a line map to strokes. The lines are thinned, their skeleton becomes a graph of ends and junctions,
/// short spurs go, pieces that run straight through a junction are joined, and each path is fitted with curves.
#pragma once

#include <cstdint>

#include "core/strokes/curve_fit.h"

namespace hscaffold {

/// The skeleton as a graph. A loop without a junction has the same node, at any of its points, at both ends.
struct StrokeGraph {
  struct Edge {
    std::size_t from = 0, to = 0;  ///< nodes
    Path path;                     ///< from the one node to the other, widths of the line in pixels
  };
  std::vector<Point> nodes;
  std::vector<Edge> edges;
};

/// @param skeleton  as `thinned` makes it.
/// @param mask      what was thinned: gives the widths.
StrokeGraph strokeGraph(View<std::uint8_t> skeleton, View<std::uint8_t> mask, StopToken stop = {});

struct TraceTuning {
  double tolerance = 1.0;     ///< of the curves, in pixels
  double shortest = 4;        ///< free-standing strokes below this length go, in pixels
  double spur = 0.9;          ///< ends that stick out of a line by less than this many of its widths go
  std::size_t most = 20'000;  ///< the longest strokes that are kept
};

struct Tracing {
  std::vector<std::shared_ptr<const Stroke>> strokes;
  std::size_t dropped = 0;  ///< strokes beyond `most`
};

/// What of a map counts as line: at least 0.4 of full; holes of up to three pixels are closed.
Image<std::uint8_t> lineMask(View<std::uint16_t> map);

/// Paths of the map's lines, longest first, at most `tuning.most`; loops are closed (first point = last).
std::vector<Path> tracedPaths(View<std::uint16_t> map, const TraceTuning& tuning, std::size_t* dropped = nullptr,
                              StopToken stop = {});
/// @throws Cancelled
Tracing traced(View<std::uint16_t> map, const TraceTuning& tuning = {}, StopToken stop = {});

}  // namespace hscaffold
