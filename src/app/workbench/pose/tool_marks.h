/// What tools for figures draw over the table, and reach for there.
#pragma once

#include <QColor>
#include <QPainter>

#include "app/points.h"
#include "app/workbench/pose/pose_work.h"

namespace hscaffold::app {

inline constexpr double pointReach = 14;  ///< screen pixels
inline const QColor paper("#f6f2ea"), shade(0, 0, 0, 170);

/// A line or shape with a dark rim, so that it is seen on any picture.
template <typename Draw>
void rimmed(QPainter& painter, const QColor& colour, double width, Draw&& draw) {
  painter.setPen(QPen(shade, width + 2.4, Qt::SolidLine, Qt::RoundCap));
  draw();
  painter.setPen(QPen(colour, width, Qt::SolidLine, Qt::RoundCap));
  draw();
}

}  // namespace hscaffold::app
