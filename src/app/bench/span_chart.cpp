#include <QHelpEvent>
#include <QMouseEvent>
#include <QToolTip>
#include <algorithm>
#include <cmath>
#include <tuple>
#include <utility>

#include "app/bench/span_board.h"
#include "app/theme/theme.h"
#include "app/widgets/menus.h"
#include "core/kinds.h"

namespace hscaffold::app {
namespace {

constexpr double mostLane = 46, leastLane = 30, reach = 9;

}  // namespace

SpanChart::SpanChart(Desk& desk, QWidget* parent) : QWidget(parent), desk_(desk) {
  setMouseTracking(true);
  setFocusPolicy(Qt::StrongFocus);
  setAccessibleName("Span board");
  connect(&desk_.document, &StudyDocument::changed, this, [this](const Changes& changes) {
    if (changes.looking || changes.guideList) showSelected();
    if (changes.looking || changes.brief || changes.guideList || changes.others || !changes.guides.empty()) update();
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

std::size_t SpanChart::fittingLanes() const {
  return static_cast<std::size_t>(std::max(1.0, std::floor((loadArea().top() - 10) / leastLane)));
}

double SpanChart::laneHeight() const {
  const std::size_t shown = std::clamp<std::size_t>(desk_.document.state().guides.size(), 1, fittingLanes());
  return std::clamp((loadArea().top() - 10) / static_cast<double>(shown), leastLane, mostLane);
}

void SpanChart::showSelected() {
  const auto& guides = desk_.document.state().guides;
  const std::string& selected = desk_.document.state().looking.guide;
  if (selected == shownFor_) return;
  shownFor_ = selected;
  const auto at = std::find_if(guides.begin(), guides.end(), [&](const Guide& g) { return g.id == selected; });
  if (at == guides.end()) return;
  const auto lane = static_cast<std::size_t>(at - guides.begin()), fitting = fittingLanes();
  if (lane < firstLane_) firstLane_ = lane;
  if (lane >= firstLane_ + fitting) firstLane_ = lane + 1 - fitting;
}

std::vector<SpanChart::Lane> SpanChart::lanes() const {
  std::vector<Lane> out;
  const auto& guides = desk_.document.state().guides;
  const double h = laneHeight();
  const std::size_t fitting = fittingLanes();
  const std::size_t first = guides.size() > fitting ? std::min(firstLane_, guides.size() - fitting) : 0;
  for (std::size_t i = first; i < guides.size() && i < first + fitting; ++i)
    out.push_back({QRectF(nameWidth, 2 + static_cast<double>(i - first) * h, width() - nameWidth - rightMargin, h - 4),
                   &guides[i]});
  return out;
}

QPolygonF SpanChart::barOf(const Lane& lane, const Range& r) const {
  const double full = lane.guide->weight / limits::weight.most * (lane.area.height() - 3), bottom = lane.area.bottom();
  QPolygonF bar{{toX(r.from), bottom}};
  for (const ShapePoint& p : pointsOf(r)) bar << QPointF(toX(r.from + p.at * (r.to - r.from)), bottom - p.share * full);
  bar << QPointF(toX(r.to), bottom);
  return bar;
}

QPointF SpanChart::gripPoint(const Lane& lane, BarGrip grip) const {
  const Range& r = lane.guide->range;
  const double top = lane.area.bottom() - lane.guide->weight / limits::weight.most * (lane.area.height() - 3);
  const double length = r.to - r.from, both = r.rampIn + r.rampOut;
  const double fits = both > length && both > 0 ? length / both : 1;
  const double in = toX(r.from + r.rampIn * fits), out = toX(r.to - r.rampOut * fits);
  switch (grip) {
    case BarGrip::from:
      return {toX(r.from), lane.area.bottom() - 6};
    case BarGrip::to:
      return {toX(r.to), lane.area.bottom() - 6};
    case BarGrip::rampIn:
      return {in, top};
    case BarGrip::rampOut:
      return {out, top};
    case BarGrip::weight:
      return {r.shape.empty() ? (in + out) / 2 : toX((r.from + r.to) / 2), top};
    default:
      return {toX((r.from + r.to) / 2), (lane.area.bottom() + top) / 2};
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
  const bool isFree = !lane.guide->range.shape.empty();
  if (isFree && pointAt(lane, at)) return BarGrip::point;
  // The nearest; of two equally near ones the end, since a bar of no length must be widened before it can be shaped.
  BarGrip nearest = BarGrip::none;
  double least = reach;
  for (const BarGrip grip : {BarGrip::to, BarGrip::from, BarGrip::weight, BarGrip::rampOut, BarGrip::rampIn}) {
    if (isFree && (grip == BarGrip::rampIn || grip == BarGrip::rampOut)) continue;
    if (const double d = distance(grip); d < least) {
      least = d;
      nearest = grip;
    }
  }
  if (nearest != BarGrip::none) return nearest;
  const QPointF from = gripPoint(lane, BarGrip::from), to = gripPoint(lane, BarGrip::to),
                in = gripPoint(lane, BarGrip::rampIn), out = gripPoint(lane, BarGrip::rampOut);
  if (std::abs(at.x() - from.x()) <= 5 && lane.area.contains(at)) return BarGrip::from;
  if (std::abs(at.x() - to.x()) <= 5 && lane.area.contains(at)) return BarGrip::to;
  if (!isFree && std::abs(at.y() - in.y()) <= 4 && at.x() > in.x() && at.x() < out.x()) return BarGrip::weight;
  return barOf(lane, lane.guide->range).containsPoint(at, Qt::OddEvenFill) ? BarGrip::body : BarGrip::none;
}

std::vector<Guide> SpanChart::counted() const {
  const auto& state = desk_.document.state();
  auto guides = asUnderstood(state.guides, *desk_.queue.engineInfo());
  std::erase_if(guides, [&](const Guide& g) { return !g.on || (solo_ && g.id != state.looking.guide); });
  return guides;
}

double SpanChart::loadCeiling() const {
  const auto& state = desk_.document.state();
  const auto total = totalLoad(counted(), state.brief.steps);
  const double most = total.empty() ? 0 : *std::max_element(total.begin(), total.end());
  return std::max(
      {2.0, std::ceil(most * 2) / 2, grip_ == BarGrip::comfort ? limits::comfort.most : state.comfort + 0.25});
}

double SpanChart::comfortY() const {
  const QRectF area = loadArea();
  return area.bottom() - desk_.document.state().comfort / loadCeiling() * area.height();
}

bool SpanChart::onComfortLine(QPointF at) const { return loadArea().contains(at) && std::abs(at.y() - comfortY()) < 6; }

double SpanChart::valueAt(const Guide& guide, BarGrip grip) {
  switch (grip) {
    case BarGrip::from:
    case BarGrip::body:
      return guide.range.from;
    case BarGrip::rampIn:
    case BarGrip::rampOut:
      return guide.range.rampOut;
    case BarGrip::weight:
    case BarGrip::point:
      return guide.weight;
    default:
      return guide.range.to;
  }
}

double SpanChart::weightAt(const Lane& lane, double y) {
  return (lane.area.bottom() - y) / (lane.area.height() - 3) * limits::weight.most;
}

std::optional<SpanChart::Lane> SpanChart::heldLane() const {
  for (const Lane& lane : lanes())
    if (lane.guide->id == held_) return lane;
  return {};
}

QString SpanChart::reading() const {
  if (!overStep_) return {};
  const int steps = desk_.document.state().brief.steps;
  QStringList parts;
  double sum = 0;
  for (const Guide& guide : counted())
    if (const double load = loadAt(guide, *overStep_, steps); load > 0) {
      parts << QString("%1 %2").arg(QString::fromStdString(guide.name)).arg(load, 0, 'f', 2);
      sum += load;
    }
  const QString step = QString("step %1 of %2: ").arg(*overStep_ + 1).arg(steps);
  if (parts.empty()) return step + "the prompt alone";
  return step + parts.join(" + ") + (parts.size() > 1 ? QString(" = %1").arg(sum, 0, 'f', 2) : QString());
}

void SpanChart::askStrip(const std::string& id, BarGrip grip, std::optional<double> to) {
  const Guide* guide = desk_.document.state().guide(id);
  if (guide == nullptr) return;
  if (!guide->on) {
    emit desk_.notice(
        QString("%1 is off: turn it on to pull a strip over it.").arg(QString::fromStdString(guide->name)));
    return;
  }
  Axis axis{Setting::end, id, {}, {}};
  if (grip == BarGrip::from) axis.setting = Setting::start;
  if (grip == BarGrip::body) axis.setting = Setting::place;
  if (grip == BarGrip::rampIn || grip == BarGrip::rampOut) axis.setting = Setting::ramp;
  if (grip == BarGrip::weight || grip == BarGrip::point) axis.setting = Setting::weight;
  const double now = valueAt(*guide, grip);
  if (to && std::abs(*to - now) > 0.005) axis = axisOver(axis.setting, id, std::min(now, *to), std::max(now, *to), 5);
  emit desk_.stripAsked(axis);
}

void SpanChart::contextMenuEvent(QContextMenuEvent* event) {
  for (const Lane& lane : lanes()) {
    if (event->pos().y() < lane.area.top() - 2 || event->pos().y() > lane.area.bottom() + 2) continue;
    const std::string id = lane.guide->id;
    const BarGrip grip = hit(lane, event->pos());
    QMenu* menu = newMenu(*this);
    menu->setObjectName("span menu");
    static const std::vector<std::pair<BarGrip, QString>> offers = {{BarGrip::weight, "weight"},
                                                                    {BarGrip::to, "range end"},
                                                                    {BarGrip::from, "range start"},
                                                                    {BarGrip::body, "the whole range moved"},
                                                                    {BarGrip::rampOut, "ramps"}};
    // What is under the pointer comes first.
    for (const bool under : {true, false})
      for (const auto& [of, name] : offers)
        if ((of == grip) == under)
          menu->addAction(QString("Test strip over %1...").arg(name), this, [this, id, of = of] { askStrip(id, of); });
    menu->addAction("Find a balance for it...", this, [this, id] { emit desk_.findAsked({id}); })
        ->setEnabled(lane.guide->on);
    menu->addSeparator();
    auto* hold = menu->addAction("Hold this weight when others are rebalanced", this, [this, id] { turnLock(id); });
    hold->setCheckable(true);
    hold->setChecked(desk_.document.state().held.contains(id));
    auto* isFree = menu->addAction("Free shape of points", this, [this, id] { turnFreeShape(id); });
    isFree->setCheckable(true);
    isFree->setChecked(!lane.guide->range.shape.empty());
    if (isFree->isChecked())
      menu->addAction(grip == BarGrip::point ? "Take this point away" : "Add a point here", this,
                      [this, id, at = QPointF(event->pos())] {
                        for (const Lane& now : lanes())
                          if (now.guide->id == id) return addOrTakePoint(now, at);
                      });
    menu->popup(event->globalPos());
    return;
  }
}

void SpanChart::leaveEvent(QEvent* event) {
  overStep_.reset();
  update();
  QWidget::leaveEvent(event);
}

void SpanChart::mousePressEvent(QMouseEvent* event) {
  if (event->button() != Qt::LeftButton) return;
  if (onComfortLine(event->position())) {
    grip_ = BarGrip::comfort;
    update();
    return;
  }
  for (const Lane& lane : lanes()) {
    if (event->position().y() < lane.area.top() - 2 || event->position().y() > lane.area.bottom() + 2) continue;
    const std::string id = lane.guide->id;
    grip_ = hit(lane, event->position());
    held_ = id;
    grabbed_ = event->position();
    startRange_ = lane.guide->range;
    if (grip_ == BarGrip::point) point_ = *pointAt(lane, event->position());
    if (grip_ != BarGrip::none && grip_ != BarGrip::body) keyGrip_ = grip_;
    stripTo_.reset();
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
  // An end lies on another guide's end when it comes near: so they take turns.
  alignedTo_.reset();
  if (grip == BarGrip::from || grip == BarGrip::to)
    for (const Guide& other : desk_.document.state().guides)
      if (other.id != id && other.on)
        for (const double end : {other.range.from, other.range.to})
          if (end > 0 && end < 100 && std::abs(end - percent) < 1.2) alignedTo_ = percent = end;
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
            const double rounded = std::round(std::clamp(weight, 0.0, limits::weight.most) * 100) / 100;
            if (s.keepTotal)
              setWeightKeepingTotal(s.guides, static_cast<std::size_t>(&g - s.guides.data()), rounded, s.held);
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
          case BarGrip::point:
          case BarGrip::comfort:
          case BarGrip::none:
            break;
        }
      },
      merge);
}

void SpanChart::drag(QPointF to) {
  const auto lane = heldLane();
  if (!lane) return;
  if (grip_ == BarGrip::point) {
    dragPoint(*lane, to);
    return;
  }
  const double weight = weightAt(*lane, to.y());
  double percent = toPercent(to.x());
  if (grip_ == BarGrip::body) percent = startRange_.from + toPercent(to.x()) - toPercent(grabbed_.x());
  edit(held_, grip_, percent, weight, "span " + held_ + std::to_string(static_cast<int>(grip_)));
}

void SpanChart::mouseMoveEvent(QMouseEvent* event) {
  const int steps = desk_.document.state().brief.steps;
  const double x = event->position().x();
  const auto before = std::tuple(lit_, litGuide_, overStep_);
  overStep_.reset();
  if (x >= nameWidth && x <= width() - rightMargin && event->position().y() < loadArea().bottom())
    overStep_ = std::min(steps - 1, static_cast<int>(toPercent(x) / 100 * steps));
  if (grip_ == BarGrip::comfort) {
    const QRectF area = loadArea();
    const double load = (area.bottom() - event->position().y()) / area.height() * loadCeiling();
    desk_.document.change(
        "Comfort line",
        [&](StudyState& s) { s.comfort = std::clamp(std::round(load * 20) / 20, 0.1, limits::comfort.most); },
        "comfort");
    update();
    return;
  }
  if (grip_ != BarGrip::none && event->modifiers().testFlag(Qt::AltModifier)) {
    // Nothing is changed: the drag says how far a test strip goes.
    const auto lane = heldLane();
    if (!lane) return;
    if (grip_ == BarGrip::weight || grip_ == BarGrip::point)
      stripTo_ = std::clamp(weightAt(*lane, event->position().y()), 0.0, limits::weight.most);
    else
      stripTo_ = toPercent(x);
    update();
    return;
  }
  if (grip_ != BarGrip::none) {
    drag(event->position());
    update();
    return;
  }
  lit_ = BarGrip::none;
  for (const Lane& lane : lanes())
    if (const BarGrip grip = hit(lane, event->position()); grip != BarGrip::none) {
      lit_ = grip;
      litGuide_ = lane.guide->id;
      if (grip == BarGrip::point) point_ = *pointAt(lane, event->position());
    }
  if (onComfortLine(event->position())) lit_ = BarGrip::comfort;
  if (before != std::tuple(lit_, litGuide_, overStep_)) update();
  switch (lit_) {
    case BarGrip::comfort:
    case BarGrip::weight:
      setCursor(Qt::SizeVerCursor);
      break;
    case BarGrip::none:
      unsetCursor();
      break;
    case BarGrip::body:
    case BarGrip::point:
      setCursor(Qt::OpenHandCursor);
      break;
    default:
      setCursor(Qt::SizeHorCursor);
  }
}

void SpanChart::mouseReleaseEvent(QMouseEvent*) {
  if (grip_ == BarGrip::none) return;
  const BarGrip grip = std::exchange(grip_, BarGrip::none);
  alignedTo_.reset();
  desk_.document.seal();
  update();
  if (const auto to = std::exchange(stripTo_, {})) askStrip(held_, grip, to);
}

void SpanChart::mouseDoubleClickEvent(QMouseEvent* event) {
  if (onComfortLine(event->position())) {
    desk_.document.change("Usual comfort line", [](StudyState& s) { s.comfort = limits::comfort.usual; });
    return;
  }
  for (const Lane& lane : lanes()) {
    if (!lane.area.contains(event->position())) continue;
    const std::string id = lane.guide->id;
    const BarGrip grip = hit(lane, event->position());
    if (!lane.guide->range.shape.empty() && (grip == BarGrip::point || grip == BarGrip::body)) {
      addOrTakePoint(lane, event->position());
      return;
    }
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

void SpanChart::wheelEvent(QWheelEvent* event) {
  const auto count = desk_.document.state().guides.size();
  if (event->angleDelta().y() < 0 && firstLane_ + fittingLanes() < count) ++firstLane_;
  if (event->angleDelta().y() > 0 && firstLane_ > 0) --firstLane_;
  update();
}

bool SpanChart::event(QEvent* event) {
  if (event->type() == QEvent::ToolTip) {
    const Guide* selected = desk_.document.state().selectedGuide();
    const std::string& reason = selected != nullptr ? kindOf(selected->kind).startReason : std::string();
    QToolTip::showText(
        static_cast<QHelpEvent*>(event)->globalPos(),
        (reason.empty() ? QString() : QString::fromStdString(selected->name + ": " + reason) + "\n") +
            "Drag ends, ramps or the top of a bar. Keys: left and right move the lit end (Shift: by 5), up "
            "and down the weight,\n"
            "Space goes to the next end, Page Up and Down to the next guide, double click resets. Alt and a drag, or "
            "T: a\n"
            "test strip over it. H holds the weight when others are rebalanced. The dashed line is dragged, too.\n"
            "F makes a free shape of points: drag them, double click or Insert adds one, Delete takes it away.",
        this);
    return true;
  }
  return QWidget::event(event);
}

}  // namespace hscaffold::app
