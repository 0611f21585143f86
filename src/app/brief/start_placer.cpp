#include "app/brief/start_placer.h"

#include <QKeyEvent>
#include <QMouseEvent>
#include <QPainter>
#include <QWheelEvent>
#include <cmath>

#include "app/points.h"
#include "app/theme/theme.h"
#include "app/workbench/arrows.h"

namespace hscaffold::app {
namespace {

constexpr double scaleStep = 1.04, turnStep = 1;

}  // namespace

StartPlacer::StartPlacer(QWidget* parent) : QWidget(parent) {
  setFocusPolicy(Qt::ClickFocus);
  connect(&themeSignals(), &ThemeSignals::changed, this, qOverload<>(&QWidget::update));
}

void StartPlacer::show(const QImage& picture, Size size, const Placement& placement, Size frame) {
  picture_ = picture;
  size_ = size;
  frame_ = frame;
  placement_ = placement;
  setFocusPolicy(movable() ? Qt::StrongFocus : Qt::NoFocus);
  if (movable())
    setCursor(Qt::SizeAllCursor);
  else
    unsetCursor();
  setAccessibleName("Start picture in the frame");
  setToolTip(movable()
                 ? "Drag to move it; once it is chosen the wheel or + and - scale it, Shift with the wheel or , and . "
                   "turn it, arrows nudge it"
                 : "The start picture");
  update();
}

QRectF StartPlacer::frameRect() const {
  QSizeF fitted(frame_.width, frame_.height);
  if (frame_.area() == 0) return rect();
  fitted.scale(QSizeF(width() - 2, height() - 2), Qt::KeepAspectRatio);
  return {QPointF((width() - fitted.width()) / 2, (height() - fitted.height()) / 2), fitted};
}

Placement StartPlacer::now() const {
  Placement out = resolved(placement_, size_, frame_);
  out.fit = Fit::free;
  return out;
}

void StartPlacer::paintEvent(QPaintEvent*) {
  if (picture_.isNull()) return;
  QPainter painter(this);
  painter.setRenderHint(QPainter::SmoothPixmapTransform);
  painter.setRenderHint(QPainter::Antialiasing);
  const QRectF frame = frameRect();
  painter.save();
  painter.setClipRect(frame);
  painter.fillRect(frame, theme().table);
  if (movable()) {
    const double scale = frame.width() / frame_.width;
    painter.setTransform(QTransform::fromScale(static_cast<double>(size_.width) / picture_.width(),
                                               static_cast<double>(size_.height) / picture_.height()) *
                         transformOf(frameFromReference(placement_, size_, frame_)) *
                         QTransform::fromScale(scale, scale) * QTransform::fromTranslate(frame.x(), frame.y()));
    painter.drawImage(QPointF(0, 0), picture_);
  } else {
    painter.drawImage(frame, picture_);
  }
  painter.restore();
  painter.setPen(QPen(hasFocus() ? theme().accent : theme().line, hasFocus() ? 1.6 : 1));
  painter.drawRect(frame);
}

void StartPlacer::mousePressEvent(QMouseEvent* event) {
  if (event->button() != Qt::LeftButton || !movable()) return;
  grabbed_ = event->position();
  begun_ = now();
}

void StartPlacer::mouseMoveEvent(QMouseEvent* event) {
  if (!grabbed_ || !movable()) return;
  const QPointF by = event->position() - *grabbed_;
  const QRectF frame = frameRect();
  Placement next = begun_;
  next.x += by.x() / frame.width();
  next.y += by.y() / frame.height();
  keepWithinLimits(next);
  emit placed("Move start picture", next);
}

void StartPlacer::mouseReleaseEvent(QMouseEvent*) {
  if (grabbed_) emit letGo();
  grabbed_.reset();
}

void StartPlacer::scaleBy(double factor) {
  Placement next = now();
  next.scaleX *= factor;
  next.scaleY *= factor;
  keepWithinLimits(next);
  emit placed("Scale start picture", next);
}

void StartPlacer::turnBy(double degrees) {
  Placement next = now();
  next.turn = std::remainder(next.turn + degrees, 360.0);
  emit placed("Turn start picture", next);
}

void StartPlacer::wheelEvent(QWheelEvent* event) {
  // As with numbers: a wheel that passes over it changes nothing.
  if (!hasFocus() || !movable()) {
    event->ignore();
    return;
  }
  constexpr double notch = 120;
  const double steps = (event->angleDelta().y() != 0 ? event->angleDelta().y() : event->angleDelta().x()) / notch;
  if (event->modifiers().testFlag(Qt::ShiftModifier))
    turnBy(turnStep * steps);
  else
    scaleBy(std::pow(scaleStep, steps));
  event->accept();
}

void StartPlacer::keyPressEvent(QKeyEvent* event) {
  const QPointF by = nudgeOf(*event);
  if (!movable()) return QWidget::keyPressEvent(event);
  if (!by.isNull()) {
    Placement next = now();
    next.x += by.x() / frame_.width;
    next.y += by.y() / frame_.height;
    keepWithinLimits(next);
    emit placed("Move start picture", next);
    return;
  }
  switch (event->key()) {
    case Qt::Key_Plus:
    case Qt::Key_Equal:
      return scaleBy(scaleStep);
    case Qt::Key_Minus:
      return scaleBy(1 / scaleStep);
    case Qt::Key_Comma:
      return turnBy(-turnStep);
    case Qt::Key_Period:
      return turnBy(turnStep);
    default:
      QWidget::keyPressEvent(event);
  }
}

}  // namespace hscaffold::app
