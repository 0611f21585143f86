#include "app/widgets/light_dial.h"

#include <QImage>
#include <QKeyEvent>
#include <QMouseEvent>
#include <QPainter>
#include <algorithm>
#include <cmath>

#include "app/theme/theme.h"
#include "core/tone/light_table.h"

namespace hscaffold::app {

using light::degree;

LightDial::LightDial(QWidget* parent) : QWidget(parent) {
  setFocusPolicy(Qt::StrongFocus);
  setFixedSize(LightDial::sizeHint());
  setCursor(Qt::PointingHandCursor);
  setToolTip(
      "Where the light comes from: drag on the ball, near its middle for light from the front. Arrow keys turn, "
      "raise and lower it");
}

void LightDial::show(double from, double height) {
  if (from == from_ && height == height_) return;
  from_ = from;
  height_ = height;
  update();
}

void LightDial::put(double from, double height) {
  from_ = std::remainder(from, 360.0);
  height_ = std::clamp(height, light::limits::height.least, light::limits::height.most);
  update();
  emit edited(from_, height_);
}

void LightDial::paintEvent(QPaintEvent*) {
  QPainter painter(this);
  painter.setRenderHint(QPainter::Antialiasing);
  const double ratio = devicePixelRatioF(), side = width() * ratio, r = side / 2 - 2 * ratio;
  QImage ball(static_cast<int>(side), static_cast<int>(side), QImage::Format_ARGB32);
  ball.fill(Qt::transparent);
  const double rise = height_ * degree, turn = from_ * degree;
  const double lx = std::cos(rise) * std::cos(turn), ly = std::cos(rise) * std::sin(turn), lz = std::sin(rise);
  for (int y = 0; y < ball.height(); ++y)
    for (int x = 0; x < ball.width(); ++x) {
      const double nx = (x + 0.5 - side / 2) / r, ny = (y + 0.5 - side / 2) / r, away = std::hypot(nx, ny);
      if (away > 1 + 1 / r) continue;
      const double nz = std::sqrt(std::max(0.0, 1 - away * away));
      const double lit = 0.18 + 0.82 * std::max(0.0, nx * lx + ny * ly + nz * lz);
      const int grey = static_cast<int>(255 * std::pow(lit, 1 / 2.2));
      ball.setPixel(x, y, qRgba(grey, grey, grey, static_cast<int>(255 * std::clamp((1 - away) * r + 0.5, 0.0, 1.0))));
    }
  ball.setDevicePixelRatio(ratio);
  painter.setOpacity(isEnabled() ? 1 : 0.4);
  painter.drawImage(QPointF(0, 0), ball);
  const double fromMiddle = (width() / 2.0 - 2) * std::cos(rise);
  painter.setPen(QPen(QColor(0, 0, 0, 150), 1));
  painter.setBrush(theme().accent);
  painter.drawEllipse(
      QPointF(width() / 2.0 + fromMiddle * std::cos(turn), height() / 2.0 + fromMiddle * std::sin(turn)), 4, 4);
  if (!hasFocus()) return;
  painter.setBrush(Qt::NoBrush);
  painter.setPen(QPen(theme().accent, 1.4));
  painter.drawEllipse(QRectF(rect()).adjusted(1, 1, -1, -1));
}

void LightDial::mousePressEvent(QMouseEvent* event) { mouseMoveEvent(event); }

void LightDial::mouseMoveEvent(QMouseEvent* event) {
  if (!event->buttons().testFlag(Qt::LeftButton)) return;
  const double dx = event->position().x() - width() / 2.0, dy = event->position().y() - height() / 2.0;
  const double share = std::clamp(std::hypot(dx, dy) / (width() / 2.0 - 2), 0.0, 1.0);
  put(share > 0.02 ? std::atan2(dy, dx) / degree : from_, std::acos(share) / degree);
}

void LightDial::mouseReleaseEvent(QMouseEvent*) { emit finished(); }

void LightDial::keyPressEvent(QKeyEvent* event) {
  constexpr double step = 5;
  switch (event->key()) {
    case Qt::Key_Left:
      return put(from_ - step, height_);
    case Qt::Key_Right:
      return put(from_ + step, height_);
    case Qt::Key_Up:
      return put(from_, height_ + step);
    case Qt::Key_Down:
      return put(from_, height_ - step);
    default:
      QWidget::keyPressEvent(event);
  }
}

QString wordsForLight(double from, double height) {
  if (height > 75) return "from the front";
  static const char* const sides[] = {"right", "lower right", "below", "lower left",
                                      "left",  "upper left",  "above", "upper right"};
  const int side = (static_cast<int>(std::lround(from / 45)) % 8 + 8) % 8;
  return QString("%1, %2").arg(sides[side], height < 25 ? "low" : height < 50 ? "half high" : "high");
}

}  // namespace hscaffold::app
