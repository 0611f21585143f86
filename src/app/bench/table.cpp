#include "app/bench/table.h"

#include <QMouseEvent>
#include <QPainter>
#include <cmath>

#include "app/theme/theme.h"

namespace hscaffold::app {

Table::Table(Desk& desk, QWidget* parent) : QWidget(parent), desk_(desk), view_(desk.workbench.view) {
  setMouseTracking(true);
  setFocusPolicy(Qt::StrongFocus);
  setMinimumSize(220, 160);
  connect(&view_, &LinkedView::moved, this, qOverload<>(&QWidget::update));
  connect(&view_, &LinkedView::pointerMoved, this, [this] {
    if (underMouse()) return;
    // Only the cross hairs move.
    const auto around = [](QPointF at) { return QRectF(at - QPointF(12, 12), QSizeF(24, 24)).toAlignedRect(); };
    if (crossAt_) update(around(*crossAt_));
    crossAt_.reset();
    if (const auto at = view_.pointer()) {
      crossAt_ = toTable(*at);
      update(around(*crossAt_));
    }
  });
}

Table::~Table() = default;

void Table::resizeEvent(QResizeEvent*) {
  if (isVisible()) view_.setTable(this, size());
}
void Table::showEvent(QShowEvent*) { view_.setTable(this, size()); }
void Table::hideEvent(QHideEvent*) { view_.setTable(this, {}); }

QRectF Table::frameOnTable() const { return {toTable({0, 0}), QSizeF(view_.frame()) * view_.scale(size())}; }

void Table::wheelEvent(QWheelEvent* event) {
  const double turns = event->angleDelta().y() / 120.0;
  if (turns != 0) view_.zoom(std::pow(1.2, turns), event->position(), size());
}

void Table::mousePressEvent(QMouseEvent* event) {
  setFocus();
  if (event->button() == Qt::MiddleButton ||
      (event->button() == Qt::LeftButton && event->modifiers().testFlag(Qt::AltModifier) && altMoves())) {
    beginPan(event->position());
  }
}

void Table::beginPan(QPointF at) {
  panning_ = true;
  last_ = at;
  setCursor(Qt::ClosedHandCursor);
}

void Table::mouseMoveEvent(QMouseEvent* event) {
  if (panning_) {
    view_.pan(event->position() - last_, size());
    last_ = event->position();
  }
  view_.setPointer(toFrame(event->position()));
}

void Table::mouseReleaseEvent(QMouseEvent*) {
  if (!panning_) return;
  panning_ = false;
  unsetCursor();
}

void Table::leaveEvent(QEvent*) { view_.setPointer({}); }

void Table::keyPressEvent(QKeyEvent* event) {
  const QPointF middle(width() / 2.0, height() / 2.0);
  switch (event->key()) {
    case Qt::Key_Plus:
    case Qt::Key_Equal:
      view_.zoom(1.25, middle, size());
      break;
    case Qt::Key_Minus:
      view_.zoom(0.8, middle, size());
      break;
    case Qt::Key_0:
      view_.fit();
      break;
    case Qt::Key_9:
      view_.setActualSize(size());
      break;
    default:
      QWidget::keyPressEvent(event);
  }
}

void Table::paintInvitation(QPainter& painter, const QString& title, const QString& how) const {
  const QRectF frame = frameOnTable();
  painter.setPen(QPen(QColor("#d8d2c6"), 1.2, Qt::DashLine));
  painter.setBrush(QColor(0, 0, 0, 30));
  painter.drawRect(frame);
  painter.setPen(QColor("#f3efe6"));
  painter.setFont(textFont(13, QFont::DemiBold));
  painter.drawText(frame.adjusted(12, 0, -12, -22), Qt::AlignCenter | Qt::TextWordWrap, title);
  painter.setFont(textFont(10));
  painter.drawText(frame.adjusted(12, 40, -12, 0), Qt::AlignCenter | Qt::TextWordWrap, how);
}

void Table::paintPointer(QPainter& painter, bool evenUnderMouse) const {
  const auto pointer = view_.pointer();
  if (!pointer || (underMouse() && !evenUnderMouse)) return;
  const QPointF at = toTable(*pointer);
  for (const auto& [colour, width] : {std::pair{QColor(0, 0, 0, 150), 3.0}, {QColor("#f6f2ea"), 1.2}}) {
    painter.setPen(QPen(colour, width));
    painter.drawLine(at - QPointF(9, 0), at - QPointF(3, 0));
    painter.drawLine(at + QPointF(3, 0), at + QPointF(9, 0));
    painter.drawLine(at - QPointF(0, 9), at - QPointF(0, 3));
    painter.drawLine(at + QPointF(0, 3), at + QPointF(0, 9));
  }
}

}  // namespace hscaffold::app
