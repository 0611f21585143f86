/// Arrow keys as ways to go.
#pragma once

#include <QKeyEvent>
#include <QPointF>

namespace hscaffold::app {

/// Where an arrow points; nowhere for other keys.
inline QPointF arrowOf(const QKeyEvent& event) {
  switch (event.key()) {
    case Qt::Key_Left:
      return {-1, 0};
    case Qt::Key_Right:
      return {1, 0};
    case Qt::Key_Up:
      return {0, -1};
    case Qt::Key_Down:
      return {0, 1};
    default:
      return {};
  }
}

/// How far an arrow moves what is chosen, in frame pixels; with Shift ten times as far.
inline QPointF nudgeOf(const QKeyEvent& event) {
  return arrowOf(event) * (event.modifiers().testFlag(Qt::ShiftModifier) ? 10 : 1);
}

}  // namespace hscaffold::app
