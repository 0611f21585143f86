/// Between the core's places and Qt's.
#pragma once

#include <QPointF>
#include <QTransform>

#include "core/frame/placement.h"
#include "core/strokes/stroke.h"

namespace hscaffold::app {

inline Point toPoint(QPointF p) { return {p.x(), p.y()}; }
inline QPointF toQt(Point p) { return {p.x, p.y}; }
inline QTransform transformOf(const Affine& m) { return {m.a, m.d, m.b, m.e, m.c, m.f}; }

}  // namespace hscaffold::app
