#include "app/workbench/depth/hint_marks.h"

#include <QPainterPath>
#include <cmath>

#include "app/theme/theme.h"
#include "app/workbench/depth/depth_work.h"
#include "app/workbench/depth/hint_tools.h"

namespace hscaffold::app {
namespace {

using depth::Hint;

QPointF pointOf(const depth::Spot& spot) { return {spot.x, spot.y}; }

/// Far is cool and dark, near is warm and light.
QColor nearColour(double near) {
  const QColor far("#5a96b4"), close("#f4e2bd");
  const auto mixed = [near](int a, int b) { return static_cast<int>(std::lround(a + near * (b - a))); };
  return {mixed(far.red(), close.red()), mixed(far.green(), close.green()), mixed(far.blue(), close.blue())};
}

void paintLabel(QPainter& painter, QPointF at, const QString& text) {
  painter.setFont(textFont(8));
  const QRectF box(at.x() + 8, at.y() - 20, painter.fontMetrics().horizontalAdvance(text) + 10, 16);
  painter.setPen(Qt::NoPen);
  painter.setBrush(QColor(20, 20, 20, 190));
  painter.drawRoundedRect(box, 2, 2);
  painter.setPen(QColor("#f3efe6"));
  painter.drawText(box, Qt::AlignCenter, text);
}

/// Dark round it, so that it is seen on light pictures too.
void drawTwice(QPainter& painter, const QPainterPath& path, QPen pen) {
  painter.setBrush(Qt::NoBrush);
  const QColor colour = pen.color();
  const double width = pen.widthF();
  pen.setColor(QColor(0, 0, 0, 150));
  pen.setWidthF(width + 2);
  painter.strokePath(path, pen);
  pen.setColor(colour);
  pen.setWidthF(width);
  painter.strokePath(path, pen);
}

QString number(double near) { return QString::number(near, 'f', 2); }

}  // namespace

QString nameOf(Hint::Form form) {
  switch (form) {
    case Hint::Form::level:
      return "Near or far hint";
    case Hint::Form::same:
      return "One depth";
    case Hint::Form::front:
      return "In front of";
    case Hint::Form::ramp:
      return "Ramp";
    case Hint::Form::plane:
      return "Plane";
    default:
      return "Cut out";
  }
}

void paintHint(QPainter& painter, const Hint& hint, bool selected, const QTransform& toTable, double scale) {
  if (hint.spots.empty()) return;
  painter.save();
  painter.setRenderHint(QPainter::Antialiasing);
  QPainterPath path(toTable.map(pointOf(hint.spots.front())));
  for (const auto& spot : hint.spots) path.lineTo(toTable.map(pointOf(spot)));
  if (hint.spots.size() == 1) path.lineTo(path.currentPosition() + QPointF(0.1, 0));
  const QPointF first = toTable.map(pointOf(hint.spots.front())), last = toTable.map(pointOf(hint.spots.back()));
  const QColor line = selected ? theme().accent : QColor("#f3efe6");
  const double broad = std::max(3.0, hint.width * scale);
  const auto dots = [&](QPointF at) {
    painter.setPen(QPen(QColor(0, 0, 0, 170), 1));
    painter.setBrush(line);
    painter.drawEllipse(at, 4, 4);
  };
  switch (hint.form) {
    case Hint::Form::level:
    case Hint::Form::same: {
      QColor body = hint.form == Hint::Form::level ? nearColour(hint.near) : QColor("#c9c3b6");
      body.setAlpha(175);
      painter.strokePath(path, QPen(body, broad, Qt::SolidLine, Qt::RoundCap, Qt::RoundJoin));
      drawTwice(painter, path,
                QPen(line, selected ? 2 : 1.2, hint.form == Hint::Form::same ? Qt::DashLine : Qt::SolidLine,
                     Qt::RoundCap, Qt::RoundJoin));
      paintLabel(painter, first, hint.form == Hint::Form::level ? number(hint.near) : QString("one depth"));
      break;
    }
    case Hint::Form::front: {
      // The head points at what is behind.
      const double angle = std::atan2(last.y() - first.y(), last.x() - first.x());
      for (const double turn : {2.6, -2.6}) {
        path.moveTo(last);
        path.lineTo(last + 9 * QPointF(std::cos(angle + turn), std::sin(angle + turn)));
      }
      drawTwice(painter, path, QPen(line, 2, Qt::SolidLine, Qt::RoundCap, Qt::RoundJoin));
      paintLabel(painter, first, "in front");
      break;
    }
    case Hint::Form::ramp:
      drawTwice(painter, path, QPen(line, 1.6, Qt::DashLine));
      dots(first);
      dots(last);
      paintLabel(painter, first, number(hint.near));
      paintLabel(painter, last, number(hint.nearEnd));
      break;
    default:
      path.closeSubpath();
      painter.fillPath(path, QColor(line.red(), line.green(), line.blue(), 26));
      drawTwice(painter, path, QPen(line, 1.6, hint.form == Hint::Form::cut ? Qt::DotLine : Qt::DashDotLine));
      paintLabel(painter, first, hint.form == Hint::Form::cut ? "cut out" : "plane");
  }
  painter.restore();
}

void paintHints(QPainter& painter, const DepthWork& work, const QTransform& toTable, double scale) {
  if (const auto hints = work.hints())
    for (std::size_t i = 0; i < hints->hints.size(); ++i)
      paintHint(painter, hints->hints[i], work.selected() == i, toTable, scale);
  const auto doubt = work.doubt();
  if (!doubt) return;
  painter.save();
  painter.setRenderHint(QPainter::Antialiasing);
  const QPointF at = toTable.map(doubt->at);
  QPainterPath ring;
  ring.addEllipse(at, 46, 30);
  drawTwice(painter, ring, QPen(theme().accent, 1.6, Qt::DashLine));
  paintLabel(painter, at + QPointF(-44, -14), QString("least sure here (%1 of %2)").arg(doubt->number).arg(doubt->of));
  painter.restore();
}

double distanceTo(const Hint& hint, QPointF at) {
  double least = 1e18;
  const bool closed = hint.form == Hint::Form::plane || hint.form == Hint::Form::cut;
  for (std::size_t i = 0; i < hint.spots.size(); ++i) {
    const QPointF b = pointOf(hint.spots[i]);
    const QPointF a = i > 0 ? pointOf(hint.spots[i - 1]) : closed ? pointOf(hint.spots.back()) : b;
    const QPointF along = b - a, to = at - a;
    const double length = QPointF::dotProduct(along, along);
    const double t = length > 0 ? std::clamp(QPointF::dotProduct(along, to) / length, 0.0, 1.0) : 0;
    least = std::min(least, std::hypot(to.x() - t * along.x(), to.y() - t * along.y()));
  }
  return least;
}

}  // namespace hscaffold::app
