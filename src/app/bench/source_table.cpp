#include "app/bench/source_table.h"

#include <QMouseEvent>
#include <QPainter>
#include <QPainterPath>
#include <cmath>
#include <numbers>

#include "app/theme/theme.h"

namespace hscaffold::app {
namespace {

constexpr double gripReach = 14, knobDistance = 26;

QTransform transformOf(const Affine& m) { return {m.a, m.d, m.b, m.e, m.c, m.f}; }

}  // namespace

SourceTable::SourceTable(StudySession& session, LinkedView& view, QWidget* parent) : Table(session, view, parent) {
  setAccessibleName("Source table");
  for (const auto signal : {&StudySession::changed, &StudySession::picturesChanged})
    connect(&session_, signal, this, qOverload<>(&QWidget::update));
  connect(&session_, &StudySession::mapChanged, this, qOverload<>(&QWidget::update));
}

void SourceTable::setGhost(double share) {
  ghost_ = share;
  update();
}

void SourceTable::setPlacing(bool placing) {
  if (placing == placing_) return;
  placing_ = placing;
  unsetCursor();
  update();
  emit placingChanged(placing);
}

const Reference* SourceTable::reference() const {
  const auto& state = session_.state();
  if (!placing_)
    if (const Guide* guide = state.guide(state.selectedGuide))
      if (const Reference* of = state.reference(guide->reference)) return of;
  return state.reference(state.selectedReference);
}

std::array<QPointF, 5> SourceTable::handles() const {
  const Reference* r = reference();
  if (r == nullptr) return {};
  const Affine m = frameFromReference(r->placement, r->size, session_.state().frame);
  const auto at = [&](double x, double y) { return toTable({m.mapX(x, y), m.mapY(x, y)}); };
  const double w = r->size.width, h = r->size.height;
  std::array<QPointF, 5> out{at(0, 0), at(w, 0), at(w, h), at(0, h), {}};
  const QPointF top = (out[0] + out[1]) / 2, middle = (out[0] + out[2]) / 2;
  const QPointF up = top - middle;
  // Inside the upper border, so that it can be reached when the reference covers the frame.
  out[4] = top - up / std::max(1.0, std::hypot(up.x(), up.y())) * knobDistance;
  return out;
}

SourceTable::Grip SourceTable::gripAt(QPointF at) const {
  const auto all = handles();
  const auto near = [&](QPointF p) { return std::hypot(p.x() - at.x(), p.y() - at.y()) <= gripReach; };
  if (near(all[4])) return Grip::turn;
  for (std::size_t i = 0; i < 4; ++i)
    if (near(all[i])) return Grip::corner;
  QPolygonF shape;
  for (std::size_t i = 0; i < 4; ++i) shape << all[i];
  return shape.containsPoint(at, Qt::OddEvenFill) ? Grip::move : Grip::none;
}

void SourceTable::mousePressEvent(QMouseEvent* event) {
  Table::mousePressEvent(event);
  const Reference* r = reference();
  if (!placing_ || panning() || event->button() != Qt::LeftButton || r == nullptr) return;
  grip_ = gripAt(event->position());
  grabbed_ = toFrame(event->position());
  start_ = resolved(r->placement, r->size, session_.state().frame);
}

void SourceTable::mouseMoveEvent(QMouseEvent* event) {
  Table::mouseMoveEvent(event);
  if (grip_ != Grip::none) {
    drag(toFrame(event->position()), event->modifiers());
  } else if (placing_ && !panning()) {
    switch (gripAt(event->position())) {
      case Grip::move:
        setCursor(Qt::SizeAllCursor);
        break;
      case Grip::corner:
        setCursor(Qt::CrossCursor);
        break;
      case Grip::turn:
        setCursor(Qt::PointingHandCursor);
        break;
      case Grip::none:
        unsetCursor();
        break;
    }
  }
}

void SourceTable::drag(QPointF to, Qt::KeyboardModifiers modifiers) {
  const Reference* r = reference();
  if (r == nullptr) return;
  const Size frame = session_.state().frame;
  const QPointF centre(start_.x * frame.width, start_.y * frame.height);
  Placement next = start_;
  QString name;
  if (grip_ == Grip::move) {
    next.x = start_.x + (to.x() - grabbed_.x()) / frame.width;
    next.y = start_.y + (to.y() - grabbed_.y()) / frame.height;
    name = "Move reference";
  } else if (grip_ == Grip::corner) {
    const QPointF before = grabbed_ - centre, now = to - centre;
    const double factor =
        std::clamp(std::hypot(now.x(), now.y()) / std::max(1.0, std::hypot(before.x(), before.y())), 0.02, 50.0);
    next.scaleX = start_.scaleX * factor;
    next.scaleY = start_.scaleY * factor;
    name = "Scale reference";
  } else {
    const QPointF before = grabbed_ - centre, now = to - centre;
    double turn =
        start_.turn + (std::atan2(now.y(), now.x()) - std::atan2(before.y(), before.x())) * 180 / std::numbers::pi;
    if (modifiers.testFlag(Qt::ShiftModifier)) turn = std::round(turn / 15) * 15;
    next.turn = std::remainder(turn, 360.0);
    name = "Turn reference";
  }
  next.fit = Fit::free;
  session_.change(
      name, [&](StudyState& s) { s.reference(r->id)->placement = next; }, "place " + r->id + name.toStdString());
}

void SourceTable::mouseReleaseEvent(QMouseEvent* event) {
  Table::mouseReleaseEvent(event);
  if (grip_ == Grip::none) return;
  grip_ = Grip::none;
  session_.seal();
}

void SourceTable::mouseDoubleClickEvent(QMouseEvent*) {
  if (session_.state().references.empty())
    emit openAsked();
  else
    setPlacing(!placing_);
}

void SourceTable::keyPressEvent(QKeyEvent* event) {
  const Reference* r = reference();
  const double step = event->modifiers().testFlag(Qt::ShiftModifier) ? 10 : 1;
  QPointF by;
  switch (event->key()) {
    case Qt::Key_Left:
      by = {-step, 0};
      break;
    case Qt::Key_Right:
      by = {step, 0};
      break;
    case Qt::Key_Up:
      by = {0, -step};
      break;
    case Qt::Key_Down:
      by = {0, step};
      break;
    case Qt::Key_Escape:
      if (placing_) {
        setPlacing(false);
        return;
      }
      break;
    default:
      break;
  }
  if (!placing_ || r == nullptr || by.isNull()) {
    Table::keyPressEvent(event);
    return;
  }
  const Size frame = session_.state().frame;
  Placement next = resolved(r->placement, r->size, frame);
  next.fit = Fit::free;
  next.x += by.x() / frame.width;
  next.y += by.y() / frame.height;
  session_.change(
      "Move reference", [&](StudyState& s) { s.reference(r->id)->placement = next; }, "nudge " + r->id);
}

void SourceTable::paintReference(QPainter& painter, const Reference& r) const {
  const QRectF frame = frameOnTable();
  const QImage display = session_.referenceImage(r.id);
  if (display.isNull()) {
    painter.fillRect(frame, QColor(0, 0, 0, 40));
    painter.setPen(QColor("#f3efe6"));
    painter.drawText(frame, Qt::AlignCenter, "Reading " + QString::fromStdString(r.name));
    return;
  }
  painter.setRenderHint(QPainter::SmoothPixmapTransform);
  const double scale = view_.scale(size());
  QTransform whole = QTransform::fromScale(static_cast<double>(r.size.width) / display.width(),
                                           static_cast<double>(r.size.height) / display.height()) *
                     transformOf(frameFromReference(r.placement, r.size, session_.state().frame)) *
                     QTransform::fromScale(scale, scale) * QTransform::fromTranslate(frame.x(), frame.y());
  if (placing_) {
    // The whole reference is seen; what the frame cuts off is dimmed.
    painter.save();
    painter.setOpacity(0.38);
    painter.setTransform(whole, true);
    painter.drawImage(QPointF(0, 0), display);
    painter.restore();
  }
  const QImage placed = session_.placedImage(r.id);
  if (!placed.isNull() && grip_ == Grip::none) {
    painter.drawImage(frame, placed);
  } else {
    painter.save();
    painter.setClipRect(frame);
    painter.fillRect(frame, QColor("#3a3a3a"));
    painter.setTransform(whole, true);
    painter.drawImage(QPointF(0, 0), display);
    painter.restore();
  }
}

void SourceTable::paintMap(QPainter& painter) const {
  const auto& state = session_.state();
  const Guide* guide = state.guide(state.selectedGuide);
  const MapPicture* map = guide != nullptr ? session_.mapOf(guide->id) : nullptr;
  if (map == nullptr || map->grey.isNull() || ghost_ <= 0 || grip_ != Grip::none) return;
  const QRectF frame = frameOnTable();
  painter.setRenderHint(QPainter::SmoothPixmapTransform);
  if (map->tinted.isNull()) {
    painter.setOpacity(ghost_);
    painter.drawImage(frame, map->grey);
  } else {
    // Up to the middle the lines come in over the picture; beyond it the picture goes.
    painter.setOpacity(std::max(0.0, ghost_ * 2 - 1));
    painter.fillRect(frame, Qt::black);
    painter.setOpacity(std::min(1.0, ghost_ * 2));
    painter.drawImage(frame, map->tinted);
    painter.setOpacity(std::max(0.0, ghost_ * 2 - 1));
    if (ghost_ > 0.5) painter.drawImage(frame, map->grey);
  }
  painter.setOpacity(1);
}

void SourceTable::paintEvent(QPaintEvent*) {
  QPainter painter(this);
  painter.fillRect(rect(), theme().table);
  painter.setRenderHint(QPainter::Antialiasing);
  const Reference* r = reference();
  if (r == nullptr) {
    paintInvitation(painter, "Drop a picture here", "or paste one (Ctrl+V), or double-click to choose a file");
    return;
  }
  paintReference(painter, *r);
  if (!placing_) paintMap(painter);
  painter.setBrush(Qt::NoBrush);
  painter.setPen(QPen(QColor(255, 255, 255, 200), 1));
  painter.drawRect(frameOnTable());
  if (placing_) {
    const auto all = handles();
    painter.setPen(QPen(theme().accent, 1.2));
    painter.drawPolygon(all.data(), 4);
    painter.drawLine((all[0] + all[1]) / 2, all[4]);
    painter.setBrush(QColor("#f6f2ea"));
    for (std::size_t i = 0; i < 4; ++i) painter.drawRect(QRectF(all[i] - QPointF(4.5, 4.5), QSizeF(9, 9)));
    painter.drawEllipse(all[4], 5, 5);
  }
  paintPointer(painter);
}

}  // namespace hscaffold::app
