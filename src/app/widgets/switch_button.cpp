#include "app/widgets/switch_button.h"

#include <QPainter>

#include "app/theme/theme.h"

namespace hscaffold::app {

SwitchButton::SwitchButton(const QColor& colour, QWidget* parent) : QAbstractButton(parent), colour_(colour) {
  setCheckable(true);
  setFocusPolicy(Qt::StrongFocus);
  setFixedSize(sizeHint());
}

void SwitchButton::paintEvent(QPaintEvent*) {
  QPainter painter(this);
  painter.setRenderHint(QPainter::Antialiasing);
  const QRectF track = QRectF(rect()).adjusted(2, 3, -2, -3);
  painter.setPen(hasFocus() ? QPen(theme().text, 1.5) : QPen(Qt::NoPen));
  painter.setBrush(isChecked() ? colour_ : theme().line);
  painter.drawRoundedRect(track, track.height() / 2, track.height() / 2);
  painter.setPen(Qt::NoPen);
  painter.setBrush(isChecked() ? QColor("#fbf7ee") : theme().softText);
  const double r = track.height() / 2 - 2;
  painter.drawEllipse(QPointF(isChecked() ? track.right() - r - 2 : track.left() + r + 2, track.center().y()), r, r);
}

}  // namespace hscaffold::app
