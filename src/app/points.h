/// Between the core's places and Qt's.
#pragma once

#include <QPointF>

#include "core/lines/stroke.h"

namespace hscaffold::app {

inline Point toPoint(QPointF p) { return {p.x(), p.y()}; }
inline QPointF toQt(Point p) { return {p.x, p.y}; }

}  // namespace hscaffold::app
