/// Between the core's places and Qt's.
#pragma once

#include <QPointF>

#include "core/strokes/stroke.h"

namespace hscaffold::app {

inline Point toPoint(QPointF p) { return {p.x(), p.y()}; }
inline QPointF toQt(Point p) { return {p.x, p.y}; }

}  // namespace hscaffold::app
