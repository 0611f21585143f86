/// What can be done to the strokes of the selected guide; each is one undoable step.
#pragma once

#include <QPointF>
#include <set>
#include <vector>

#include "core/frame/placement.h"
#include "core/strokes/trace.h"

namespace hscaffold::app {

class HandWork;

/// A stroke through these places, fitted within `tolerance` frame pixels and laid over the guide. What lies wholly
/// beside the frame is left out.
void addStroke(HandWork& work, Size frame, const std::vector<StrokePlace>& path, double tolerance);
void removeStrokes(HandWork& work, const std::set<std::size_t>& which);
/// @param nudge  by a key: moves of the same strokes that follow each other are one step.
void moveStrokes(HandWork& work, const std::set<std::size_t>& which, QPointF by, bool nudge = false);
void smoothStrokes(HandWork& work, const std::set<std::size_t>& which);
void scaleWidths(HandWork& work, const std::set<std::size_t>& which, double factor);
/// Joins the two that are selected at their nearest ends.
void joinStrokes(HandWork& work, const std::set<std::size_t>& which);

}  // namespace hscaffold::app
