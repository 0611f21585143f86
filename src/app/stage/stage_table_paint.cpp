// What the stage's table shows over its picture.
#include <QPainter>
#include <QPainterPath>
#include <cmath>

#include "app/stage/stage_table.h"
#include "app/theme/theme.h"

namespace hscaffold::app {
namespace {

using stage::isFigure;
using stage::Thing;
using stage::Vec3;

const QColor paper("#f3efe6"), shade(20, 20, 22);

}  // namespace

void StageTable::paintEvent(QPaintEvent*) {
  QPainter painter(this);
  painter.setRenderHint(QPainter::Antialiasing);
  painter.setRenderHint(QPainter::SmoothPixmapTransform);
  painter.fillRect(rect(), theme().table);
  if (!picture_.isNull()) painter.drawImage(QRectF(rect()), picture_);
  if (!ghost_.empty() && ghostShare_ > 0) {
    painter.setOpacity(ghostShare_);
    if (const QImage ghost = desk_.maps.placedImage(ghost_); !ghost.isNull()) painter.drawImage(frameOnTable(), ghost);
    painter.setOpacity(1);
  }
  paintFrame(painter);
  paintLines(painter);
  painter.setFont(textFont(9));
  if (const Thing* thing = work_.selectedThing()) {
    // Where it stands.
    QPolygonF ring;
    const float radius = isFigure(*thing) ? 0.32f : 0.5f * std::get<stage::Prop>(thing->is).size.x();
    for (int i = 0; i <= 36; ++i) {
      const float a = 2 * stage::pi * static_cast<float>(i) / 36;
      if (const auto p = placeOf(thing->place.at + Vec3(radius * std::cos(a), 0.005f, radius * std::sin(a))))
        ring << *p;
    }
    painter.setPen(QPen(theme().accent, 1.6, thing->locked ? Qt::DashLine : Qt::SolidLine));
    painter.drawPolyline(ring);
    paintRings(painter);
    paintJoints(painter);
    paintName(painter, *thing);
  } else if (work_.scene().things.empty()) {
    painter.setFont(textFont(12));
    const QString words = "Take a set, or put a figure or a thing on the ground";
    QRectF box = QRectF(painter.fontMetrics().boundingRect(words)).adjusted(-14, -8, 14, 8);
    box.moveCenter(frameOnTable().center());
    painter.setPen(Qt::NoPen);
    painter.setBrush(QColor(20, 20, 22, 170));
    painter.drawRoundedRect(box, 6, 6);
    painter.setPen(paper);
    painter.drawText(box, Qt::AlignCenter, words);
  }
  if (hasFocus()) {
    painter.setBrush(Qt::NoBrush);
    painter.setPen(QPen(theme().accent, 1));
    painter.drawRect(rect().adjusted(0, 0, -1, -1));
  }
}

void StageTable::paintFrame(QPainter& painter) const {
  const QRectF frame = frameOnTable();
  QPainterPath beyond;
  beyond.addRect(rect());
  beyond.addRect(frame);
  painter.fillPath(beyond, QColor(20, 20, 22, 150));
  // Thirds and middle lines, so faint that they are no part of the picture; the horizon dotted.
  painter.save();
  painter.setClipRect(frame);
  painter.setPen(QPen(QColor(255, 255, 255, 46), 1));
  for (const double share : {1.0 / 3, 2.0 / 3}) {
    painter.drawLine(QPointF(frame.left() + share * frame.width(), frame.top()),
                     QPointF(frame.left() + share * frame.width(), frame.bottom()));
    painter.drawLine(QPointF(frame.left(), frame.top() + share * frame.height()),
                     QPointF(frame.right(), frame.top() + share * frame.height()));
  }
  const auto& eye = work_.scene().eye;
  constexpr float far = 1e4f, aside = 0.9f;
  const float turn = eye.turn * stage::pi / 180;
  const auto onHorizon = [&](float by) {
    return placeOf(eye.at + far * Vec3(-std::sin(turn + by), 0, -std::cos(turn + by)));
  };
  const auto left = onHorizon(aside), right = onHorizon(-aside);
  if (left && right) {
    painter.setPen(QPen(QColor(255, 255, 255, 110), 1, Qt::DotLine));
    painter.drawLine(*left, *right);
  }
  painter.restore();
  painter.setPen(QPen(paper, 1.2));
  painter.setBrush(Qt::NoBrush);
  painter.drawRect(frame);
}

void StageTable::paintLines(QPainter& painter) const {
  const auto ends = lineEnds();
  if (ends.empty()) return;
  const std::array<const char*, 3> names = {"horizon", "upright", "upright"};
  painter.setFont(textFont(8.5));
  for (std::size_t i = 0; i + 1 < ends.size(); i += 2) {
    painter.setPen(QPen(QColor(20, 20, 22, 170), 4));
    painter.drawLine(ends[i], ends[i + 1]);
    painter.setPen(QPen(theme().accent, 1.8, i == 0 ? Qt::SolidLine : Qt::DashLine));
    painter.drawLine(ends[i], ends[i + 1]);
    for (const QPointF& end : {ends[i], ends[i + 1]}) {
      painter.setPen(QPen(shade, 1.2));
      painter.setBrush(paper);
      painter.drawRect(QRectF(end - QPointF(4.5, 4.5), QSizeF(9, 9)));
    }
    const QPointF at = ends[i] + QPointF(9, -7);
    painter.setPen(shade);
    painter.drawText(at + QPointF(1, 1), names[i / 2]);
    painter.setPen(paper);
    painter.drawText(at, names[i / 2]);
  }
}

void StageTable::paintName(QPainter& painter, const Thing& thing) const {
  Vec3 over = thing.place.at + Vec3(0, 0.12f, 0);
  if (const auto* prop = std::get_if<stage::Prop>(&thing.is))
    over.y() += prop->size.y();
  else
    for (const Vec3& p : standing_.points) over.y() = std::max(over.y(), p.y() + 0.2f);
  const auto top = placeOf(over);
  if (!top) return;
  const QString name = QString::fromStdString(thing.name);
  const QRectF box = QRectF(painter.fontMetrics().boundingRect(name)).adjusted(-6, -3, 6, 3);
  QRectF at(QPointF(top->x() - box.width() / 2, top->y() - box.height()), box.size());
  at.moveLeft(std::clamp(at.left(), 4.0, std::max(4.0, width() - at.width() - 4)));
  at.moveTop(std::clamp(at.top(), 4.0, std::max(4.0, height() - at.height() - 4)));
  painter.setPen(Qt::NoPen);
  painter.setBrush(QColor(20, 20, 22, 190));
  painter.drawRoundedRect(at, 4, 4);
  painter.setPen(paper);
  painter.drawText(at, Qt::AlignCenter, name);
}

void StageTable::paintRings(QPainter& painter) const {
  constexpr std::array styles = {Qt::SolidLine, Qt::DashLine, Qt::DotLine};
  std::size_t number = 0;
  for (const Ring& ring : rings()) {
    const bool held = grip_ == Grip::ring && ring.turn == turn_;
    // What the joint allows is drawn, the rest only hinted at.
    QPolygonF all, allowed;
    for (int degree = -180; degree <= 180; ++degree) {
      const auto& place = ring.places[static_cast<std::size_t>((degree + 360) % 360)];
      if (!place) continue;
      all << *place;
      if (degree >= ring.least && degree <= ring.most) allowed << *place;
    }
    painter.setBrush(Qt::NoBrush);
    painter.setPen(QPen(QColor(255, 255, 255, 60), 1));
    painter.drawPolyline(all);
    painter.setPen(QPen(QColor(20, 20, 22, 160), held ? 4.5 : 3.4, styles[number % 3]));
    painter.drawPolyline(allowed);
    painter.setPen(QPen(held ? paper : theme().accent, held ? 2.6 : 1.7, styles[number % 3]));
    painter.drawPolyline(allowed);
    if (ring.places[0]) {
      painter.setBrush(held ? paper : theme().accent);
      painter.setPen(QPen(shade, 1));
      painter.drawRect(QRectF(*ring.places[0] - QPointF(3, 3), QSizeF(6, 6)));
    }
    ++number;
  }
}

void StageTable::paintJoints(QPainter& painter) const {
  for (const Handle& each : handles_) {
    const auto at = placeOf(each.at);
    if (!at) continue;
    const bool chosen = each.id == handle_;
    const double half = chosen ? 5.5 : 3.8;
    painter.setPen(QPen(shade, 1.2));
    painter.setBrush(chosen ? theme().accent : paper);
    // What is held has a square; what only turns has a small ring.
    if (each.point && work_.pinOf(*each.point) != nullptr) {
      painter.drawRect(QRectF(*at - QPointF(half, half), QSizeF(2 * half, 2 * half)));
    } else if (!each.point) {
      painter.setBrush(chosen ? theme().accent : QColor(20, 20, 22, 120));
      painter.setPen(QPen(paper, 1.4));
      painter.drawEllipse(*at, half, half);
    } else {
      painter.drawEllipse(*at, half, half);
    }
  }
}

}  // namespace hscaffold::app
