#include <QHelpEvent>
#include <QMouseEvent>
#include <QToolTip>
#include <algorithm>
#include <cmath>

#include "app/bench/span_board.h"
#include "app/theme/theme.h"

namespace hscaffold::app {
namespace {

constexpr double mostLane = 46, leastLane = 30, reach = 9;

}  // namespace

SpanChart::SpanChart(Desk& desk, QWidget* parent) : QWidget(parent), desk_(desk) {
  setMouseTracking(true);
  setFocusPolicy(Qt::StrongFocus);
  setAccessibleName("Span board");
  connect(&desk_.document, &StudyDocument::changed, this, [this](const Changes& changes) {
    if (changes.looking || changes.brief || changes.guideList || !changes.guides.empty()) update();
  });
}

void SpanChart::setSolo(bool solo) {
  solo_ = solo;
  update();
}

double SpanChart::toX(double percent) const { return nameWidth + percent / 100 * (width() - nameWidth - rightMargin); }
double SpanChart::toPercent(double x) const {
  return std::clamp((x - nameWidth) / (width() - nameWidth - rightMargin) * 100, 0.0, 100.0);
}

QRectF SpanChart::loadArea() const {
  const double h = std::clamp(height() * 0.32, 44.0, 90.0);
  return {nameWidth, height() - tickHeight - h, width() - nameWidth - rightMargin, h};
}

double SpanChart::laneHeight() const {
  const auto count = static_cast<double>(std::max<std::size_t>(1, desk_.document.state().guides.size()));
  return std::clamp((loadArea().top() - 10) / count, leastLane, mostLane);
}

std::vector<SpanChart::Lane> SpanChart::lanes() const {
  std::vector<Lane> out;
  const auto& guides = desk_.document.state().guides;
  const double room = loadArea().top() - 10, h = laneHeight();
  const auto fitting = static_cast<std::size_t>(std::max(1.0, std::floor(room / h)));
  const std::size_t first = guides.size() > fitting ? std::min(firstLane_, guides.size() - fitting) : 0;
  for (std::size_t i = first; i < guides.size() && i < first + fitting; ++i)
    out.push_back({QRectF(nameWidth, 2 + static_cast<double>(i - first) * h, width() - nameWidth - rightMargin, h - 4),
                   &guides[i]});
  return out;
}

QPolygonF SpanChart::barOf(const Lane& lane) const {
  const Range& r = lane.guide->range;
  double in = r.rampIn, out = r.rampOut;
  if (in + out > r.to - r.from && in + out > 0) {
    const double share = (r.to - r.from) / (in + out);
    in *= share;
    out *= share;
  }
  const double top = lane.area.bottom() - lane.guide->weight / largestWeight * (lane.area.height() - 3);
  return QPolygonF({{toX(r.from), lane.area.bottom()},
                    {toX(r.from + in), top},
                    {toX(r.to - out), top},
                    {toX(r.to), lane.area.bottom()}});
}

QPointF SpanChart::gripPoint(const Lane& lane, BarGrip grip) const {
  const auto bar = barOf(lane);
  switch (grip) {
    case BarGrip::from:
      return {bar[0].x(), lane.area.bottom() - 6};
    case BarGrip::to:
      return {bar[3].x(), lane.area.bottom() - 6};
    case BarGrip::rampIn:
      return bar[1];
    case BarGrip::rampOut:
      return bar[2];
    case BarGrip::weight:
      return (bar[1] + bar[2]) / 2;
    default:
      return (bar[0] + bar[2]) / 2;
  }
}

QPointF SpanChart::gripAt(const std::string& guide, BarGrip grip) const {
  for (const Lane& lane : lanes())
    if (lane.guide->id == guide) return gripPoint(lane, grip);
  return {};
}

BarGrip SpanChart::hit(const Lane& lane, QPointF at) const {
  const auto distance = [&](BarGrip grip) {
    const QPointF p = gripPoint(lane, grip) - at;
    return std::hypot(p.x(), p.y());
  };
  // The nearest; of two equally near ones the end, since a bar of no length must be widened before it can be shaped.
  BarGrip nearest = BarGrip::none;
  double least = reach;
  for (const BarGrip grip : {BarGrip::to, BarGrip::from, BarGrip::weight, BarGrip::rampOut, BarGrip::rampIn})
    if (const double d = distance(grip); d < least) {
      least = d;
      nearest = grip;
    }
  if (nearest != BarGrip::none) return nearest;
  const auto bar = barOf(lane);
  if (std::abs(at.x() - bar[0].x()) <= 5 && lane.area.contains(at)) return BarGrip::from;
  if (std::abs(at.x() - bar[3].x()) <= 5 && lane.area.contains(at)) return BarGrip::to;
  if (std::abs(at.y() - bar[1].y()) <= 4 && at.x() > bar[1].x() && at.x() < bar[2].x()) return BarGrip::weight;
  return bar.containsPoint(at, Qt::OddEvenFill) ? BarGrip::body : BarGrip::none;
}

void SpanChart::mousePressEvent(QMouseEvent* event) {
  if (event->button() != Qt::LeftButton) return;
  for (const Lane& lane : lanes()) {
    if (event->position().y() < lane.area.top() - 2 || event->position().y() > lane.area.bottom() + 2) continue;
    const std::string id = lane.guide->id;
    grip_ = hit(lane, event->position());
    held_ = id;
    grabbed_ = event->position();
    startRange_ = lane.guide->range;
    startWeight_ = lane.guide->weight;
    if (grip_ != BarGrip::none && grip_ != BarGrip::body) keyGrip_ = grip_;
    desk_.document.look([&](Looking& looking) { looking.guide = id; });
    update();
    return;
  }
}

void SpanChart::edit(const std::string& id, BarGrip grip, double percent, double weight, const std::string& merge) {
  // Snapped to the borders of steps when near, so that ranges mean what they seem to.
  const int steps = desk_.document.state().brief.steps;
  const double grid = 100.0 / steps, nearest = std::round(percent / grid) * grid;
  if (grip != BarGrip::rampIn && grip != BarGrip::rampOut && std::abs(nearest - percent) < 0.8) percent = nearest;
  percent = std::clamp(percent, 0.0, 100.0);
  static const std::map<BarGrip, QString> names = {{BarGrip::from, "Range start"}, {BarGrip::to, "Range end"},
                                                   {BarGrip::rampIn, "Ramp in"},   {BarGrip::rampOut, "Ramp out"},
                                                   {BarGrip::weight, "Weight"},    {BarGrip::body, "Move range"}};
  const auto name =
      QString("%1 of %2").arg(names.at(grip), QString::fromStdString(desk_.document.state().guide(id)->name));
  desk_.document.change(
      name,
      [&](StudyState& s) {
        Guide& g = *s.guide(id);
        Range& r = g.range;
        switch (grip) {
          case BarGrip::from:
            r.from = std::min(percent, r.to);
            break;
          case BarGrip::to:
            r.to = std::max(percent, r.from);
            break;
          case BarGrip::rampIn:
            r.rampIn = std::clamp(percent - r.from, 0.0, r.to - r.from - std::min(r.rampOut, r.to - r.from));
            break;
          case BarGrip::rampOut:
            r.rampOut = std::clamp(r.to - percent, 0.0, r.to - r.from - std::min(r.rampIn, r.to - r.from));
            break;
          case BarGrip::weight: {
            const double rounded = std::round(std::clamp(weight, 0.0, largestWeight) * 100) / 100;
            if (s.keepTotal)
              setWeightKeepingTotal(s.guides, static_cast<std::size_t>(&g - s.guides.data()), rounded);
            else
              g.weight = rounded;
            break;
          }
          case BarGrip::body: {
            const double length = startRange_.to - startRange_.from;
            r.from = std::clamp(percent, 0.0, 100.0 - length);
            r.to = r.from + length;
            break;
          }
          case BarGrip::none:
            break;
        }
      },
      merge);
}

void SpanChart::drag(QPointF to) {
  const auto all = lanes();
  const auto lane = std::find_if(all.begin(), all.end(), [&](const Lane& l) { return l.guide->id == held_; });
  if (lane == all.end()) return;
  const double weight = (lane->area.bottom() - to.y()) / (lane->area.height() - 3) * largestWeight;
  double percent = toPercent(to.x());
  if (grip_ == BarGrip::body) percent = startRange_.from + toPercent(to.x()) - toPercent(grabbed_.x());
  edit(held_, grip_, percent, weight, "span " + held_ + std::to_string(static_cast<int>(grip_)));
}

void SpanChart::mouseMoveEvent(QMouseEvent* event) {
  if (grip_ != BarGrip::none) {
    drag(event->position());
    update();
    return;
  }
  const BarGrip before = lit_;
  const std::string guideBefore = litGuide_;
  lit_ = BarGrip::none;
  for (const Lane& lane : lanes())
    if (const BarGrip grip = hit(lane, event->position()); grip != BarGrip::none) {
      lit_ = grip;
      litGuide_ = lane.guide->id;
    }
  switch (lit_) {
    case BarGrip::weight:
      setCursor(Qt::SizeVerCursor);
      break;
    case BarGrip::none:
      unsetCursor();
      break;
    case BarGrip::body:
      setCursor(Qt::OpenHandCursor);
      break;
    default:
      setCursor(Qt::SizeHorCursor);
  }
  if (lit_ != before || litGuide_ != guideBefore) update();
}

void SpanChart::mouseReleaseEvent(QMouseEvent*) {
  if (grip_ == BarGrip::none) return;
  grip_ = BarGrip::none;
  desk_.document.seal();
  update();
}

void SpanChart::mouseDoubleClickEvent(QMouseEvent* event) {
  for (const Lane& lane : lanes()) {
    if (!lane.area.contains(event->position())) continue;
    const std::string id = lane.guide->id;
    const BarGrip grip = hit(lane, event->position());
    desk_.document.change("Reset range of " + QString::fromStdString(lane.guide->name), [&](StudyState& s) {
      Guide& g = *s.guide(id);
      if (grip == BarGrip::weight)
        g.weight = 1;
      else if (grip == BarGrip::rampIn)
        g.range.rampIn = 0;
      else if (grip == BarGrip::rampOut)
        g.range.rampOut = 0;
      else
        g.range = {};
    });
    return;
  }
}

void SpanChart::keyPressEvent(QKeyEvent* event) {
  const auto& state = desk_.document.state();
  const Guide* guide = state.selectedGuide();
  if (guide == nullptr) {
    QWidget::keyPressEvent(event);
    return;
  }
  const std::string id = guide->id;
  const auto index = static_cast<std::size_t>(guide - state.guides.data());
  const double step = event->modifiers().testFlag(Qt::ShiftModifier) ? 5 : 1;
  constexpr std::array<BarGrip, 4> order = {BarGrip::from, BarGrip::rampIn, BarGrip::rampOut, BarGrip::to};
  const auto place = [&] {
    switch (keyGrip_) {
      case BarGrip::from:
        return guide->range.from;
      case BarGrip::rampIn:
        return guide->range.from + guide->range.rampIn;
      case BarGrip::rampOut:
        return guide->range.to - guide->range.rampOut;
      default:
        return guide->range.to;
    }
  };
  if (keyGrip_ == BarGrip::weight || keyGrip_ == BarGrip::body || keyGrip_ == BarGrip::none) keyGrip_ = BarGrip::to;
  switch (event->key()) {
    case Qt::Key_Left:
    case Qt::Key_Right: {
      // Exact moves are not snapped: the step is what was asked for.
      const double percent = place() + (event->key() == Qt::Key_Right ? step : -step);
      desk_.document.change(
          QString("Range of %1").arg(QString::fromStdString(guide->name)),
          [&](StudyState& s) {
            Range& r = s.guide(id)->range;
            if (keyGrip_ == BarGrip::from) r.from = std::clamp(percent, 0.0, r.to);
            if (keyGrip_ == BarGrip::to) r.to = std::clamp(percent, r.from, 100.0);
            if (keyGrip_ == BarGrip::rampIn) r.rampIn = std::clamp(percent - r.from, 0.0, r.to - r.from);
            if (keyGrip_ == BarGrip::rampOut) r.rampOut = std::clamp(r.to - percent, 0.0, r.to - r.from);
          },
          "keys " + id);
      return;
    }
    case Qt::Key_Up:
    case Qt::Key_Down:
      edit(id, BarGrip::weight, 0, guide->weight + (event->key() == Qt::Key_Up ? 0.01 : -0.01) * step,
           "keys weight " + id);
      return;
    case Qt::Key_Space: {
      const auto now = std::find(order.begin(), order.end(), keyGrip_);
      keyGrip_ = now == order.end() || now + 1 == order.end() ? order.front() : *(now + 1);
      update();
      return;
    }
    case Qt::Key_PageUp:
    case Qt::Key_PageDown: {
      const std::size_t next =
          event->key() == Qt::Key_PageUp ? (index > 0 ? index - 1 : 0) : std::min(index + 1, state.guides.size() - 1);
      desk_.document.look([&](Looking& looking) { looking.guide = state.guides[next].id; });
      return;
    }
    default:
      QWidget::keyPressEvent(event);
  }
}

void SpanChart::wheelEvent(QWheelEvent* event) {
  const auto count = desk_.document.state().guides.size();
  if (event->angleDelta().y() < 0 && firstLane_ + 1 < count) ++firstLane_;
  if (event->angleDelta().y() > 0 && firstLane_ > 0) --firstLane_;
  update();
}

bool SpanChart::event(QEvent* event) {
  if (event->type() == QEvent::ToolTip) {
    QToolTip::showText(static_cast<QHelpEvent*>(event)->globalPos(),
                       "Drag ends, ramps or the top of a bar. Keys: left and right move the lit end (Shift: by 5), up "
                       "and down the weight,\n"
                       "Space goes to the next end, Page Up and Down to the next guide, double click resets.",
                       this);
    return true;
  }
  return QWidget::event(event);
}

}  // namespace hscaffold::app
