// The span board by keyboard.
#include <QKeyEvent>
#include <algorithm>

#include "app/bench/span_board.h"

namespace hscaffold::app {

void SpanChart::turnLock(const std::string& id) {
  const Guide* guide = desk_.document.state().guide(id);
  if (guide == nullptr) return;
  const bool held = desk_.document.state().held.contains(id);
  desk_.document.change(
      QString(held ? "Let the weight of %1 go" : "Hold the weight of %1").arg(QString::fromStdString(guide->name)),
      [&](StudyState& s) {
        if (held)
          s.held.erase(id);
        else
          s.held.insert(id);
      });
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
  if (pointKey(*guide, event->key(), step)) return;
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
    case Qt::Key_Space:
      nextGrip(*guide);
      update();
      return;
    case Qt::Key_F:
      turnFreeShape(id);
      return;
    case Qt::Key_T:
      askStrip(id, keyGrip_);
      return;
    case Qt::Key_H:
      turnLock(id);
      return;
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

void SpanChart::nextGrip(const Guide& guide) {
  const std::size_t points = guide.range.shape.size();
  if (points > 0) {
    // From the start through all points to the end.
    const bool onPoint = keyGrip_ == BarGrip::point && point_ < points;
    point_ = onPoint ? point_ + 1 : 0;
    keyGrip_ = keyGrip_ == BarGrip::to ? BarGrip::from : point_ < points ? BarGrip::point : BarGrip::to;
    return;
  }
  constexpr std::array<BarGrip, 4> order = {BarGrip::from, BarGrip::rampIn, BarGrip::rampOut, BarGrip::to};
  const auto now = std::find(order.begin(), order.end(), keyGrip_);
  keyGrip_ = now == order.end() || now + 1 == order.end() ? order.front() : *(now + 1);
}

}  // namespace hscaffold::app
