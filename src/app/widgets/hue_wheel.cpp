#include "app/widgets/hue_wheel.h"

#include <QKeyEvent>
#include <QMouseEvent>
#include <QPainter>
#include <cmath>

#include "app/theme/theme.h"

namespace hscaffold::app {
namespace {

using light::degree;
constexpr double most = light::limits::chroma.most;

QRgb seenAt(double chroma, double angle) {
  const Rgb c = okLabToLinearInGamut(
      {0.72f, static_cast<float>(chroma * std::cos(angle)), static_cast<float>(chroma * std::sin(angle))});
  return qRgb(linearToSrgb8(c.r), linearToSrgb8(c.g), linearToSrgb8(c.b));
}

}  // namespace

HueWheel::HueWheel(QWidget* parent) : QWidget(parent) {
  setFocusPolicy(Qt::StrongFocus);
  setFixedSize(HueWheel::sizeHint());
  setCursor(Qt::PointingHandCursor);
}

double HueWheel::radius() const { return width() / 2.0 - 6; }

QPointF HueWheel::placeOf(const light::Hue& hue) const {
  const double r = radius() * std::clamp(hue.chroma / most, 0.0, 1.0);
  return QPointF(width() / 2.0 + r * std::cos(hue.angle * degree), height() / 2.0 - r * std::sin(hue.angle * degree));
}

void HueWheel::show(const std::vector<light::Hue>& hues, const QStringList& names) {
  if (hues == hues_ && names == names_) return;
  hues_ = hues;
  names_ = names;
  handle_ = std::min(handle_, hues_.empty() ? 0 : hues_.size() - 1);
  setEnabled(!hues_.empty());
  setToolTip(hues_.size() > 1
                 ? QString("%1 and %2: drag either; Shift keeps them opposite. Arrow keys turn, Space changes "
                           "between them")
                       .arg(names_.value(0), names_.value(1).toLower())
                 : QString("%1: drag; arrow keys turn it").arg(names_.value(0)));
  update();
}

void HueWheel::put(std::size_t handle, light::Hue hue, bool opposite) {
  hue.chroma = std::clamp(hue.chroma, 0.0, most);
  hue.angle = std::fmod(std::fmod(hue.angle, 360) + 360, 360);
  auto now = hues_;
  now[handle] = hue;
  if (opposite && now.size() == 2) now[1 - handle] = {hue.chroma, std::fmod(hue.angle + 180, 360)};
  hues_ = now;
  update();
  emit edited(now);
}

void HueWheel::paintEvent(QPaintEvent*) {
  QPainter painter(this);
  painter.setRenderHint(QPainter::Antialiasing);
  const double ratio = devicePixelRatioF();
  const QSize size = (QSizeF(this->size()) * ratio).toSize();
  if (disc_.size() != size) {
    disc_ = QImage(size, QImage::Format_ARGB32);
    disc_.fill(Qt::transparent);
    const double r = radius() * ratio;
    for (int y = 0; y < size.height(); ++y)
      for (int x = 0; x < size.width(); ++x) {
        const double dx = x + 0.5 - size.width() / 2.0, dy = size.height() / 2.0 - y - 0.5, away = std::hypot(dx, dy);
        if (away > r + 1) continue;
        const QRgb c = seenAt(most * std::min(1.0, away / r), std::atan2(dy, dx));
        const double alpha = std::clamp(r + 0.5 - away, 0.0, 1.0);
        disc_.setPixel(x, y, qRgba(qRed(c), qGreen(c), qBlue(c), static_cast<int>(255 * alpha)));
      }
    disc_.setDevicePixelRatio(ratio);
  }
  painter.setOpacity(hues_.empty() ? 0.3 : 1);
  painter.drawImage(QPointF(0, 0), disc_);
  if (hues_.size() == 2) {
    painter.setPen(QPen(QColor(0, 0, 0, 120), 1.4));
    painter.drawLine(placeOf(hues_[0]), placeOf(hues_[1]));
  }
  for (std::size_t i = hues_.size(); i-- > 0;) {
    // What is in light has a light rim, what is in shadow a dark one.
    painter.setPen(QPen(i == 0 ? QColor("#fffaf0") : QColor("#22201d"), 2.2));
    painter.setBrush(QColor(seenAt(hues_[i].chroma, hues_[i].angle * degree)));
    painter.drawEllipse(placeOf(hues_[i]), 5.5, 5.5);
  }
  if (!hasFocus() || hues_.empty()) return;
  painter.setBrush(Qt::NoBrush);
  painter.setPen(QPen(theme().accent, 1.4));
  painter.drawEllipse(placeOf(hues_[handle_]), 8.5, 8.5);
}

void HueWheel::mousePressEvent(QMouseEvent* event) {
  if (hues_.empty() || event->button() != Qt::LeftButton) return;
  double least = 1e9;
  for (std::size_t i = 0; i < hues_.size(); ++i) {
    const QPointF by = placeOf(hues_[i]) - event->position();
    if (std::hypot(by.x(), by.y()) >= least) continue;
    least = std::hypot(by.x(), by.y());
    handle_ = i;
  }
  dragged_ = true;
  mouseMoveEvent(event);
}

void HueWheel::mouseMoveEvent(QMouseEvent* event) {
  if (!dragged_ || handle_ >= hues_.size()) return;
  const double dx = event->position().x() - width() / 2.0, dy = height() / 2.0 - event->position().y();
  put(handle_, {most * std::hypot(dx, dy) / radius(), std::atan2(dy, dx) / degree},
      event->modifiers().testFlag(Qt::ShiftModifier));
}

void HueWheel::mouseReleaseEvent(QMouseEvent*) {
  if (std::exchange(dragged_, false)) emit finished();
}

void HueWheel::keyPressEvent(QKeyEvent* event) {
  if (hues_.empty()) return QWidget::keyPressEvent(event);
  light::Hue hue = hues_[handle_];
  switch (event->key()) {
    case Qt::Key_Left:
      hue.angle += 5;
      break;
    case Qt::Key_Right:
      hue.angle -= 5;
      break;
    case Qt::Key_Up:
      hue.chroma += 0.01;
      break;
    case Qt::Key_Down:
      hue.chroma -= 0.01;
      break;
    case Qt::Key_Space:
      handle_ = (handle_ + 1) % hues_.size();
      update();
      return;
    default:
      return QWidget::keyPressEvent(event);
  }
  put(handle_, hue, event->modifiers().testFlag(Qt::ShiftModifier));
}

}  // namespace hscaffold::app
