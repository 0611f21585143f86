#include "app/widgets/calm_wheel.h"

#include <QAbstractSpinBox>
#include <QApplication>
#include <QComboBox>
#include <QEvent>
#include <QScrollBar>
#include <QSlider>

namespace hscaffold::app {
namespace {

/// Null for what the wheel may turn at any time.
QWidget* turnedByWheel(QObject* watched) {
  if (auto* number = qobject_cast<QAbstractSpinBox*>(watched)) return number;
  if (auto* choice = qobject_cast<QComboBox*>(watched)) return choice;
  return qobject_cast<QSlider*>(watched);
}

}  // namespace

CalmWheel::CalmWheel(QObject* parent) : QObject(parent) { QApplication::instance()->installEventFilter(this); }

bool CalmWheel::eventFilter(QObject* watched, QEvent* event) {
  if (event->type() != QEvent::Polish && event->type() != QEvent::Wheel) return false;
  QWidget* widget = turnedByWheel(watched);
  if (widget == nullptr) return false;
  if (event->type() == QEvent::Polish) {
    // A wheel that gives the focus would choose it.
    if (widget->focusPolicy() == Qt::WheelFocus) widget->setFocusPolicy(Qt::StrongFocus);
    return false;
  }
  if (widget->hasFocus()) return false;
  event->ignore();  // whoever scrolls it gets it
  return true;
}

}  // namespace hscaffold::app
