// What the span board shows: lanes with their bars, the load under them, numbers while something is dragged.
#include <QPainter>
#include <algorithm>
#include <cmath>

#include "app/bench/span_board.h"
#include "app/theme/theme.h"

namespace hscaffold::app {
namespace {

QString percentText(double value) { return QString::number(std::lround(value)) + " %"; }

}  // namespace

void SpanChart::paintLane(QPainter& painter, const Lane& lane, const std::vector<Guide>& acting) const {
  const Guide& guide = *lane.guide;
  const bool selected = guide.id == desk_.document.state().looking.guide;
  const bool counts = guide.on && (!solo_ || selected);
  QColor colour = kindColour(guide.kind);
  const double middle = lane.area.center().y();
  if (selected)
    painter.fillRect(QRectF(0, lane.area.top() - 1, width(), lane.area.height() + 2),
                     QColor(theme().raised.red(), theme().raised.green(), theme().raised.blue(), 110));
  painter.setFont(textFont(9, selected ? QFont::DemiBold : QFont::Normal));
  painter.setPen(counts ? theme().text : theme().softText);
  const QRectF name(12, middle - 9, nameWidth - 56, 18);
  painter.drawText(name, Qt::AlignLeft | Qt::AlignVCenter,
                   painter.fontMetrics().elidedText(QString::fromStdString(guide.name), Qt::ElideRight,
                                                    static_cast<int>(name.width())));
  painter.drawText(QRectF(nameWidth - 42, middle - 9, 34, 18), Qt::AlignRight | Qt::AlignVCenter,
                   QString::number(guide.weight, 'f', 2));
  painter.setPen(QPen(theme().line, 1));
  painter.drawLine(QPointF(nameWidth, lane.area.bottom()), QPointF(width() - rightMargin, lane.area.bottom()));

  // What does nothing says so, to be seen from across the room.
  const auto& state = desk_.document.state();
  const auto which = static_cast<std::size_t>(&guide - state.guides.data());
  const bool noStep = guide.on && stepsCovered(guide.range, state.brief.steps) == 0;
  const bool unknown = guide.on && !acting[which].on;
  const bool drowned = counts && isDrowned(acting, which, state.brief.steps, state.comfort);
  if (!guide.on || unknown || noStep || guide.weight <= 0 || drowned) {
    painter.setFont(textFont(8.5, QFont::DemiBold));
    painter.setPen(noStep || unknown ? theme().bad : drowned || guide.on ? theme().doubt : theme().softText);
    painter.drawText(lane.area.adjusted(0, 0, -6, -2), Qt::AlignRight | Qt::AlignTop,
                     !guide.on ? "off"
                     : unknown ? "not known to the engine"
                     : noStep  ? "covers no step"
                     : drowned ? "drowned by the others"
                               : "weight 0");
  }
  if (state.held.contains(guide.id)) {
    painter.setPen(QPen(theme().softText, 1.2));
    painter.setBrush(Qt::NoBrush);
    painter.drawRect(QRectF(nameWidth - 52, middle - 1, 8, 6));
    painter.drawArc(QRectF(nameWidth - 50.5, middle - 6, 5, 8), 0, 180 * 16);
  }

  const auto bar = barOf(lane, acting[which].range);
  if (!counts)
    colour =
        QColor::fromRgbF((colour.redF() + theme().panel.redF()) / 2, (colour.greenF() + theme().panel.greenF()) / 2,
                         (colour.blueF() + theme().panel.blueF()) / 2);
  QColor fill = colour;
  fill.setAlpha(counts ? 215 : 90);
  painter.setPen(Qt::NoPen);
  if (counts) {
    painter.setBrush(fill);
  } else {
    painter.setBrush(QBrush(fill, Qt::BDiagPattern));
  }
  painter.drawPolygon(bar);
  painter.setPen(QPen(colour, 1.2));
  painter.setBrush(Qt::NoBrush);
  painter.drawPolyline(bar);
  // What is set, where the engine does otherwise.
  if (acting[which].range != guide.range) {
    painter.setPen(QPen(colour, 1.2, Qt::DashLine));
    painter.drawPolyline(barOf(lane, guide.range));
  }

  // Grips: upright tabs at the ends, a flat one on top, dots where ramps begin.
  const auto lit = [&](BarGrip grip) {
    return (grip_ == grip && held_ == guide.id) || (grip_ == BarGrip::none && lit_ == grip && litGuide_ == guide.id) ||
           (hasFocus() && selected && keyGrip_ == grip);
  };
  const QColor tab = themeName() == ThemeName::dusk ? QColor("#f6f2ea") : QColor("#3a3732");
  painter.setPen(Qt::NoPen);
  for (const BarGrip grip : {BarGrip::from, BarGrip::to}) {
    painter.setBrush(lit(grip) ? theme().accent : tab);
    const QPointF p = gripPoint(lane, grip);
    painter.drawRoundedRect(QRectF(p.x() - 2, p.y() - 7, 4, 13), 2, 2);
  }
  if (selected || lit_ != BarGrip::none) {
    painter.setBrush(lit(BarGrip::weight) ? theme().accent : tab);
    const QPointF top = gripPoint(lane, BarGrip::weight);
    painter.drawRoundedRect(QRectF(top.x() - 8, top.y() - 2, 16, 4), 2, 2);
    for (std::size_t i = 0; i < guide.range.shape.size(); ++i) {
      const bool here = lit(BarGrip::point) && point_ == i;
      painter.setBrush(here ? theme().accent : theme().panel);
      painter.setPen(QPen(here ? theme().accent : tab, 1.2));
      const QPointF p = pointPlace(lane, i);
      painter.drawRect(QRectF(p.x() - 3, p.y() - 3, 6, 6));
      painter.setPen(Qt::NoPen);
    }
    for (const BarGrip grip : {BarGrip::rampIn, BarGrip::rampOut}) {
      if (!guide.range.shape.empty()) continue;
      painter.setBrush(lit(grip) ? theme().accent : theme().panel);
      painter.setPen(QPen(lit(grip) ? theme().accent : tab, 1.2));
      painter.drawEllipse(gripPoint(lane, grip), 3, 3);
      painter.setPen(Qt::NoPen);
    }
  }
}

void SpanChart::paintLoad(QPainter& painter) const {
  const QRectF area = loadArea();
  const auto& state = desk_.document.state();
  const int steps = state.brief.steps;
  const std::vector<Guide> guides = counted();
  const auto total = totalLoad(guides, steps);
  const double most = total.empty() ? 0 : *std::max_element(total.begin(), total.end());
  const double ceiling = loadCeiling(), comfortLine = state.comfort;
  const auto toY = [&](double load) { return area.bottom() - load / ceiling * area.height(); };
  std::vector<double> base(static_cast<std::size_t>(steps), 0.0);
  for (const Guide& guide : guides) {
    QColor colour = kindColour(guide.kind);
    colour.setAlpha(200);
    for (int i = 0; i < steps; ++i) {
      const double load = loadAt(guide, i, steps), low = base[static_cast<std::size_t>(i)];
      base[static_cast<std::size_t>(i)] += load;
      if (load <= 0) continue;
      const double x0 = toX(100.0 * i / steps), x1 = toX(100.0 * (i + 1) / steps);
      painter.fillRect(QRectF(QPointF(x0, toY(low + load)), QPointF(x1 + 0.4, toY(low))), colour);
    }
  }
  // Load is counted step by step, so it is drawn in steps.
  painter.setPen(QPen(theme().line, 1));
  painter.drawLine(area.bottomLeft(), area.bottomRight());
  QPen dashed(theme().doubt, 1, Qt::DashLine);
  painter.setPen(dashed);
  if (lit_ == BarGrip::comfort || grip_ == BarGrip::comfort) painter.setPen(QPen(theme().accent, 1.6, Qt::DashLine));
  painter.drawLine(QPointF(area.left(), toY(comfortLine)), QPointF(area.right(), toY(comfortLine)));
  // The prompt pulls, too: guidance as it usually is counts as 1.
  const double pull = state.brief.guidance / Brief{}.guidance;
  if (pull <= ceiling) {
    painter.setPen(QPen(theme().text, 1, Qt::DotLine));
    painter.drawLine(QPointF(area.left(), toY(pull)), QPointF(area.right(), toY(pull)));
  }
  painter.setFont(textFont(8));
  const QString comfort = QString("comfortable up to %1").arg(comfortLine);
  const auto label = painter.fontMetrics().boundingRect(comfort);
  const QRectF place(area.right() - label.width() - 4, toY(comfortLine) - label.height() - 1, label.width() + 4,
                     label.height());
  QColor backing = theme().panel;
  backing.setAlpha(190);
  painter.fillRect(place, backing);
  painter.setPen(theme().softText);
  painter.drawText(place, Qt::AlignCenter, comfort);
  if (pull <= ceiling) {
    const QString words = QString("prompt %1").arg(pull, 0, 'f', 2);
    const auto size = painter.fontMetrics().boundingRect(words);
    const QRectF at(area.left() + 3, toY(pull) - size.height() - 1, size.width() + 6, size.height());
    painter.fillRect(at, backing);
    painter.setPen(theme().text);
    painter.drawText(at, Qt::AlignCenter, words);
  }
  // The free part, where it is widest.
  int best = 0, run = 0, end = 0;
  for (int i = 0; i <= steps; ++i) {
    run = i < steps && total[static_cast<std::size_t>(i)] < 0.3 ? run + 1 : 0;
    if (run > best) {
      best = run;
      end = i + 1;
    }
  }
  if (best * 5 >= steps && !guides.empty()) {
    QFont italic = textFont(9);
    italic.setItalic(true);
    painter.setFont(italic);
    painter.drawText(QRectF(toX(100.0 * (end - best) / steps), area.bottom() - 22,
                            toX(100.0 * end / steps) - toX(100.0 * (end - best) / steps), 18),
                     Qt::AlignCenter, "prompt alone");
  }
  painter.setFont(textFont(9));
  painter.setPen(theme().text);
  painter.drawText(QRectF(12, area.center().y() - 9, 50, 18), Qt::AlignLeft | Qt::AlignVCenter, "Load");
  painter.setPen(most > comfortLine + 0.005 ? theme().doubt : theme().text);
  painter.drawText(QRectF(nameWidth - 60, area.center().y() - 9, 52, 18), Qt::AlignRight | Qt::AlignVCenter,
                   QString("%1%2").arg(most > comfortLine + 0.005 ? "! " : "").arg(most, 0, 'f', 2));
}

void SpanChart::paintNumbers(QPainter& painter) const {
  if (grip_ == BarGrip::none || grip_ == BarGrip::comfort) return;
  const Guide* guide = desk_.document.state().guide(held_);
  if (guide == nullptr) return;
  if (alignedTo_) {
    painter.setPen(QPen(theme().accent, 1, Qt::DashLine));
    painter.drawLine(QPointF(toX(*alignedTo_), 0), QPointF(toX(*alignedTo_), loadArea().bottom()));
  }
  const Range& r = guide->range;
  QString text;
  switch (grip_) {
    case BarGrip::weight:
      text = QString::number(guide->weight, 'f', 2);
      break;
    case BarGrip::point:
      if (point_ < r.shape.size())
        text = QString("%1 at %2")
                   .arg(guide->weight * r.shape[point_].share, 0, 'f', 2)
                   .arg(percentText(r.from + r.shape[point_].at * (r.to - r.from)));
      break;
    case BarGrip::rampIn:
      text = "ramp " + percentText(r.rampIn);
      break;
    case BarGrip::rampOut:
      text = "ramp " + percentText(r.rampOut);
      break;
    default:
      text = percentText(r.from) + " to " + percentText(r.to) +
             QString(", %1 steps").arg(stepsCovered(r, desk_.document.state().brief.steps));
  }
  if (stripTo_) {
    const bool ofWeight = grip_ == BarGrip::weight || grip_ == BarGrip::point;  // over the weight
    const auto word = [&](double value) { return ofWeight ? QString::number(value, 'f', 2) : percentText(value); };
    const double now = valueAt(*guide, grip_);
    text = QString("strip from %1 to %2").arg(word(std::min(now, *stripTo_)), word(std::max(now, *stripTo_)));
    if (!ofWeight) {
      painter.setPen(QPen(theme().accent, 2));
      for (int i = 0; i < 5; ++i) {
        const double at = toX(now + (*stripTo_ - now) * i / 4);
        painter.drawLine(QPointF(at, gripAt(held_, grip_).y() - 8), QPointF(at, gripAt(held_, grip_).y() + 6));
      }
    }
  }
  painter.setFont(textFont(9, QFont::DemiBold));
  const double w = painter.fontMetrics().horizontalAdvance(text) + 12;
  const QPointF at = grip_ == BarGrip::point ? pointOf(held_, point_) : gripAt(held_, grip_);
  const QRectF box(std::clamp(at.x() - w / 2, nameWidth, width() - w - 2), std::max(0.0, at.y() - 28), w, 18);
  painter.setPen(Qt::NoPen);
  painter.setBrush(theme().accent);
  painter.drawRoundedRect(box, 3, 3);
  painter.setPen(theme().onAccent);
  painter.drawText(box, Qt::AlignCenter, text);
}

/// The step under the pointer, and what pulls there.
void SpanChart::paintReading(QPainter& painter) const {
  if (!overStep_ || grip_ != BarGrip::none || desk_.document.state().guides.empty()) return;
  const QRectF area = loadArea();
  const int steps = desk_.document.state().brief.steps;
  QColor lit = theme().text;
  lit.setAlpha(26);
  painter.fillRect(QRectF(QPointF(toX(100.0 * *overStep_ / steps), 0),
                          QPointF(toX(100.0 * (*overStep_ + 1) / steps), area.bottom())),
                   lit);
  painter.setFont(textFont(8.5));
  const QString words = reading();
  const double w = std::min(area.width(), painter.fontMetrics().horizontalAdvance(words) + 20.0);
  const double x = std::clamp(toX(100.0 * (*overStep_ + 0.5) / steps) - w / 2, area.left(), area.right() - w);
  const QRectF box(x, area.bottom() - 19, w, 17);
  QColor backing = theme().ground;
  backing.setAlpha(225);
  painter.setPen(Qt::NoPen);
  painter.setBrush(backing);
  painter.drawRoundedRect(box, 3, 3);
  painter.setPen(theme().text);
  painter.drawText(box.adjusted(7, 0, -7, 0), Qt::AlignVCenter | Qt::AlignLeft,
                   painter.fontMetrics().elidedText(words, Qt::ElideRight, static_cast<int>(box.width() - 14)));
}

void SpanChart::paintEvent(QPaintEvent*) {
  QPainter painter(this);
  painter.setRenderHint(QPainter::Antialiasing);
  painter.fillRect(rect(), theme().panel);
  const QRectF area = loadArea();
  const int steps = desk_.document.state().brief.steps;
  // Where the lanes that are seen lie among all of them.
  const auto count = desk_.document.state().guides.size(), fitting = fittingLanes();
  if (count > fitting) {
    const double whole = area.top() - 10, first = static_cast<double>(std::min(firstLane_, count - fitting));
    const double share = static_cast<double>(fitting) / static_cast<double>(count);
    painter.setPen(Qt::NoPen);
    painter.setBrush(theme().line);
    painter.drawRoundedRect(QRectF(3, first / static_cast<double>(count) * whole, 3, share * whole), 1.5, 1.5);
  }
  // Ticks at real steps; numbers where there is room for them.
  painter.setFont(textFont(8));
  const double spacing = (width() - nameWidth - rightMargin) / steps;
  const int every = std::max(1, static_cast<int>(std::ceil(26 / spacing)));
  for (int i = 0; i <= steps; ++i) {
    QColor tick = theme().line;
    tick.setAlpha(i % every == 0 ? 255 : 110);
    painter.setPen(QPen(tick, 1));
    painter.drawLine(QPointF(toX(100.0 * i / steps), 0),
                     QPointF(toX(100.0 * i / steps), area.bottom() + (i % every == 0 ? 3 : 0)));
    if (i % every == 0) {
      painter.setPen(theme().softText);
      painter.drawText(QRectF(toX(100.0 * i / steps) - 20, area.bottom() + 3, 40, tickHeight - 3), Qt::AlignCenter,
                       QString::number(i));
    }
  }
  painter.setPen(theme().softText);
  painter.drawText(QRectF(12, area.bottom() + 3, 60, tickHeight - 3), Qt::AlignLeft | Qt::AlignVCenter, "step");
  if (desk_.document.state().guides.empty()) {
    painter.setFont(textFont(10));
    painter.drawText(QRectF(nameWidth, 0, area.width(), area.top()), Qt::AlignCenter,
                     "A guide's weight and range appear here once there is one.");
  }
  const auto acting = asUnderstood(desk_.document.state().guides, *desk_.queue.engineInfo());
  for (const Lane& lane : lanes()) paintLane(painter, lane, acting);
  paintLoad(painter);
  paintReading(painter);
  paintNumbers(painter);
  if (hasFocus()) {
    painter.setPen(QPen(theme().accent, 1));
    painter.setBrush(Qt::NoBrush);
    painter.drawRect(QRectF(rect()).adjusted(0.5, 0.5, -0.5, -0.5));
  }
}

}  // namespace hscaffold::app
