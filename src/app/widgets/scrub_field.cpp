#include "app/widgets/scrub_field.h"

#include <QApplication>
#include <QContextMenuEvent>
#include <QLineEdit>
#include <QMenu>
#include <QMouseEvent>
#include <QSignalBlocker>
#include <cmath>
#include <memory>

#include "app/widgets/undo_keys.h"

namespace hscaffold::app {

ScrubField::ScrubField(QWidget* parent) : QDoubleSpinBox(parent) {
  setButtonSymbols(QAbstractSpinBox::NoButtons);
  setAlignment(Qt::AlignRight);
  setKeyboardTracking(false);
  setLocale(QLocale::c());
  lineEdit()->installEventFilter(this);
  lineEdit()->setCursor(Qt::SizeHorCursor);
  connect(this, &QDoubleSpinBox::valueChanged, this, [this](double value) { emit edited(value); });
  connect(this, &QDoubleSpinBox::editingFinished, this, &ScrubField::finished);
}

void ScrubField::setUp(const Limits& limits) {
  setUp(limits.least, limits.most, limits.step, limits.decimals, limits.usual, QString::fromUtf8(limits.unit));
}

void ScrubField::setUp(double minimum, double maximum, double step, int decimals, double defaultValue,
                       const QString& unit) {
  const QSignalBlocker quiet(this);
  setDecimals(decimals);
  setRange(minimum, maximum);
  setSingleStep(step);
  default_ = defaultValue;
  setSuffix(unit.isEmpty() ? QString() : " " + unit);
}

void ScrubField::showValue(double value) {
  if (std::abs(value - this->value()) < 1e-12) return;
  const QSignalBlocker quiet(this);
  setValue(value);
}

QValidator::State ScrubField::validate(QString& text, int& cursor) const {
  QString pointed = text;
  pointed.replace(',', '.');
  return QDoubleSpinBox::validate(pointed, cursor);
}

double ScrubField::valueFromText(const QString& text) const {
  QString pointed = text;
  pointed.replace(',', '.');
  return QDoubleSpinBox::valueFromText(pointed);
}

void ScrubField::contextMenuEvent(QContextMenuEvent* event) {
  if (!strip_) return QDoubleSpinBox::contextMenuEvent(event);
  QMenu* menu = lineEdit()->createStandardContextMenu();
  menu->setAttribute(Qt::WA_DeleteOnClose);
  menu->addSeparator();
  menu->addAction("Test strip over this...", this, &ScrubField::stripAsked);
  menu->popup(event->globalPos());
}

void ScrubField::wheelEvent(QWheelEvent* event) {
  // Scrolling a panel must not change numbers under the pointer.
  if (hasFocus())
    QDoubleSpinBox::wheelEvent(event);
  else
    event->ignore();
}

bool ScrubField::event(QEvent* event) {
  // Undo is the study's, unless a number is being typed.
  return (!lineEdit()->isModified() && leavesUndo(*event)) || QDoubleSpinBox::event(event);
}

void ScrubField::focusInEvent(QFocusEvent* event) {
  byPointer_ = event->reason() == Qt::MouseFocusReason;
  QDoubleSpinBox::focusInEvent(event);
}

void ScrubField::keyPressEvent(QKeyEvent* event) {
  const bool enters = event->key() == Qt::Key_Return || event->key() == Qt::Key_Enter;
  if (event->key() == Qt::Key_Escape && lineEdit()->isModified()) {
    setValue(value());  // what was typed is not taken
    lineEdit()->setModified(false);
    return giveFocusBack();
  }
  QDoubleSpinBox::keyPressEvent(event);
  if (enters) giveFocusBack();
}

/// Keys go on to where the artist works: the field had them only while a number was typed by the pointer's leave.
void ScrubField::giveFocusBack() {
  if (!before_ || !hasFocus()) return;
  before_->setFocus(Qt::OtherFocusReason);
  before_.clear();
}

bool ScrubField::eventFilter(QObject* watched, QEvent* event) {
  // The line inside has a menu of its own; ours is the field's.
  if (watched == lineEdit() && strip_ && event->type() == QEvent::ContextMenu) {
    contextMenuEvent(static_cast<QContextMenuEvent*>(event));
    return true;
  }
  auto* mouse = dynamic_cast<QMouseEvent*>(event);
  if (watched != lineEdit() || mouse == nullptr || !isEnabled()) return QDoubleSpinBox::eventFilter(watched, event);
  if (event->type() == QEvent::MouseButtonDblClick && mouse->button() == Qt::LeftButton) {
    setValue(default_);
    emit finished();
    pressed_ = false;
    giveFocusBack();
    return true;
  }
  if (event->type() == QEvent::MouseButtonPress && mouse->button() == Qt::LeftButton &&
      !lineEdit()->hasSelectedText()) {
    pressed_ = true;
    dragging_ = false;
    start_ = mouse->globalPosition().toPoint();
    startValue_ = value();
  } else if (event->type() == QEvent::MouseMove && pressed_) {
    const int moved = mouse->globalPosition().toPoint().x() - start_.x();
    if (!dragging_ && std::abs(moved) < QApplication::startDragDistance()) return true;
    dragging_ = true;
    const double fine = mouse->modifiers().testFlag(Qt::ShiftModifier) ? 0.1 : 1.0;
    setValue(startValue_ + std::round(moved / 3.0) * singleStep() * fine);
    lineEdit()->deselect();
    return true;
  } else if (event->type() == QEvent::MouseButtonRelease && pressed_) {
    pressed_ = false;
    if (dragging_) {
      dragging_ = false;
      emit finished();
      giveFocusBack();
      return true;
    }
    selectAll();
  }
  return QDoubleSpinBox::eventFilter(watched, event);
}

}  // namespace hscaffold::app
