// Free shapes on the span board: points that are dragged, added and taken away.
#include <algorithm>
#include <cmath>

#include "app/bench/span_board.h"

namespace hscaffold::app {

QPointF SpanChart::pointPlace(const Lane& lane, std::size_t point) const {
  const Range& r = lane.guide->range;
  const ShapePoint& p = r.shape[point];
  const double full = lane.guide->weight / limits::weight.most * (lane.area.height() - 3);
  return {toX(r.from + p.at * (r.to - r.from)), lane.area.bottom() - p.share * full};
}

QPointF SpanChart::pointOf(const std::string& guide, std::size_t point) const {
  for (const Lane& lane : lanes())
    if (lane.guide->id == guide && point < lane.guide->range.shape.size()) return pointPlace(lane, point);
  return {};
}

std::optional<std::size_t> SpanChart::pointAt(const Lane& lane, QPointF at) const {
  std::optional<std::size_t> nearest;
  double least = 8;
  for (std::size_t i = 0; i < lane.guide->range.shape.size(); ++i) {
    const QPointF off = pointPlace(lane, i) - at;
    if (const double d = std::hypot(off.x(), off.y()); d < least) {
      least = d;
      nearest = i;
    }
  }
  return nearest;
}

void SpanChart::changeShape(const std::string& id, const QString& name,
                            const std::function<Range(const Range&)>& change, const std::string& merge) {
  const Guide* guide = desk_.document.state().guide(id);
  if (guide == nullptr) return;
  const Range changed = change(guide->range);
  if (changed == guide->range) return;
  desk_.document.change(
      QString("%1 of %2").arg(name, QString::fromStdString(guide->name)),
      [&](StudyState& s) { s.guide(id)->range = changed; }, merge);
}

void SpanChart::turnFreeShape(const std::string& id) {
  const Guide* guide = desk_.document.state().guide(id);
  if (guide == nullptr) return;
  const bool isFree = !guide->range.shape.empty();
  changeShape(id, isFree ? "Ramps" : "Free shape", [&](const Range& range) {
    Range out = range;
    out.shape = isFree ? std::vector<ShapePoint>{} : pointsOf(range);
    return out;
  });
  if (keyGrip_ == BarGrip::point || !isFree) keyGrip_ = BarGrip::to;
}

void SpanChart::addOrTakePoint(const Lane& lane, QPointF at) {
  const std::string id = lane.guide->id;
  if (const auto point = pointAt(lane, at)) {
    changeShape(id, "Take a point away", [&](const Range& range) { return withoutPoint(range, *point); });
    return;
  }
  const double percent = toPercent(at.x());
  changeShape(id, "Add a point", [&](const Range& range) { return withPoint(range, percent); });
}

void SpanChart::dragPoint(const Lane& lane, QPointF to) {
  const Range& now = lane.guide->range;
  const bool isEnd = point_ == 0 || point_ + 1 >= now.shape.size();
  // Up and down is meant where an end is hardly moved aside.
  const bool upright = isEnd && std::abs(to.x() - grabbed_.x()) < 5;
  const double percent = upright ? (point_ == 0 ? startRange_.from : startRange_.to) : toPercent(to.x());
  const double share = weightAt(lane, to.y()) / std::max(0.01, lane.guide->weight);
  changeShape(
      held_, "Shape", [&](const Range& range) { return withPointAt(range, point_, percent, share); },
      "shape " + held_ + std::to_string(point_));
}

bool SpanChart::pointKey(const Guide& guide, int key, double step) {
  const Range& range = guide.range;
  if (range.shape.empty()) return false;
  const bool onPoint = keyGrip_ == BarGrip::point && point_ < range.shape.size();
  const double percent = onPoint ? range.from + range.shape[point_].at * (range.to - range.from) : 0;
  const auto put = [&](double at, double share) {
    changeShape(
        guide.id, "Shape", [&](const Range& r) { return withPointAt(r, point_, at, share); }, "keys shape " + guide.id);
    return true;
  };
  switch (key) {
    case Qt::Key_Left:
    case Qt::Key_Right:
      return onPoint && put(percent + (key == Qt::Key_Right ? step : -step), range.shape[point_].share);
    case Qt::Key_Up:
    case Qt::Key_Down:
      return onPoint && put(percent, range.shape[point_].share + (key == Qt::Key_Up ? 0.01 : -0.01) * step);
    case Qt::Key_Insert: {
      // In the middle between this point and the next one.
      const std::size_t from = onPoint ? std::min(point_, range.shape.size() - 2) : 0;
      const double middle = (range.shape[from].at + range.shape[from + 1].at) / 2;
      const std::size_t before = range.shape.size();
      const std::string id = guide.id;
      changeShape(id, "Add a point", [&](const Range& r) { return withPoint(r, r.from + middle * (r.to - r.from)); });
      if (desk_.document.state().guide(id)->range.shape.size() > before) {
        keyGrip_ = BarGrip::point;
        point_ = from + 1;
      }
      return true;
    }
    case Qt::Key_Delete:
    case Qt::Key_Backspace:
      if (onPoint) changeShape(guide.id, "Take a point away", [&](const Range& r) { return withoutPoint(r, point_); });
      return true;
    default:
      return false;
  }
}

}  // namespace hscaffold::app
