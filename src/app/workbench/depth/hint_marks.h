/// How hints are drawn over the picture, and how far a place is from one.
#pragma once

#include <QPainter>
#include <QPointF>
#include <QTransform>

#include "core/depth/hints.h"

namespace hscaffold::app {

/// What making one is called in the list of steps: "Near or far hint".
QString nameOf(depth::Hint::Form form);

void paintHint(QPainter& painter, const depth::Hint& hint, bool selected, const QTransform& toTable, double scale);

/// From a place to the hint's line or outline, in pixels of the frame.
double distanceTo(const depth::Hint& hint, QPointF at);

}  // namespace hscaffold::app
