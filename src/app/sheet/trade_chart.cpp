#include "app/sheet/trade_chart.h"

#include <QGraphicsLayout>
#include <QMouseEvent>
#include <QRubberBand>
#include <QToolTip>
#include <QtCharts/QChart>
#include <QtCharts/QLineSeries>
#include <QtCharts/QScatterSeries>
#include <QtCharts/QValueAxis>
#include <algorithm>
#include <cmath>

#include "app/theme/theme.h"

namespace hscaffold::app {

TradeChart::TradeChart(QWidget* parent) : QChartView(parent) {
  setAccessibleName("Hold against shift");
  setFocusPolicy(Qt::StrongFocus);
  setFrameShape(QFrame::NoFrame);
  setRenderHint(QPainter::Antialiasing);
  setMinimumHeight(180);
  auto* chart = this->chart();
  chart->legend()->hide();
  chart->setMargins({0, 0, 0, 0});
  chart->layout()->setContentsMargins(0, 0, 0, 0);
  chart->setBackgroundRoundness(0);
  best_ = new QLineSeries;
  all_ = new QScatterSeries;
  chosen_ = new QScatterSeries;
  current_ = new QScatterSeries;
  across_ = new QValueAxis;
  up_ = new QValueAxis;
  for (QValueAxis* axis : {across_, up_}) {
    axis->setRange(0, 100);
    axis->setTickCount(5);
    axis->setLabelFormat("%.0f");
    axis->setLabelsFont(textFont(8));
    axis->setTitleFont(textFont(8));
  }
  across_->setTitleText("shift: how far the look moved");
  up_->setTitleText("hold: layout kept");
  chart->addAxis(across_, Qt::AlignBottom);
  chart->addAxis(up_, Qt::AlignLeft);
  for (QXYSeries* series : {static_cast<QXYSeries*>(best_), static_cast<QXYSeries*>(all_),
                            static_cast<QXYSeries*>(chosen_), static_cast<QXYSeries*>(current_)}) {
    chart->addSeries(series);
    series->attachAxis(across_);
    series->attachAxis(up_);
  }
  all_->setMarkerSize(7);
  chosen_->setMarkerSize(9);
  current_->setMarkerSize(12);
  band_ = new QRubberBand(QRubberBand::Rectangle, this);
  connect(&themeSignals(), &ThemeSignals::changed, this, &TradeChart::restyle);
  restyle();
}

void TradeChart::restyle() {
  const Theme& t = theme();
  setBackgroundBrush(t.panel);
  chart()->setBackgroundBrush(t.panel);
  for (QValueAxis* axis : {across_, up_}) {
    axis->setLabelsColor(t.softText);
    axis->setTitleBrush(t.softText);
    axis->setLinePenColor(t.line);
    axis->setGridLineColor(t.line);
  }
  all_->setColor(t.softText);
  all_->setBorderColor(t.panel);
  chosen_->setColor(t.accent);
  chosen_->setBorderColor(t.panel);
  current_->setColor(QColor(0, 0, 0, 0));
  current_->setPen(QPen(t.text, 2));
  QColor line = t.accent;
  line.setAlphaF(0.7f);
  best_->setPen(QPen(line, 1.2, Qt::DashLine));
}

void TradeChart::setPoints(std::vector<TradePoint> points) {
  points_ = std::move(points);
  // Room is given to where proofs are; a measure that hardly differs is not blown up.
  const auto fit = [&](QValueAxis& axis, double TradePoint::*value) {
    double low = 0, high = 100;
    if (!points_.empty()) {
      const auto [a, b] =
          std::minmax_element(points_.begin(), points_.end(),
                              [&](const TradePoint& p, const TradePoint& q) { return p.*value < q.*value; });
      low = std::max(0.0, 20 * std::floor(((*a).*value - 4) / 20));
      high = std::min(100.0, 20 * std::ceil(((*b).*value + 4) / 20));
    }
    axis.setRange(low, std::max(high, low + 20));
    axis.setTickCount(static_cast<int>(std::lround((axis.max() - axis.min()) / 20)) + 1);
  };
  fit(*across_, &TradePoint::shift);
  fit(*up_, &TradePoint::hold);
  fill();
}

void TradeChart::setSelected(const std::vector<std::int64_t>& numbers) {
  selected_ = numbers;
  fill();
}

void TradeChart::fill() {
  QList<QPointF> all, chosen, current, best;
  std::vector<MeasuredCell> cells;
  for (const TradePoint& point : points_) {
    const QPointF at(point.shift, point.hold);
    const bool isChosen = std::find(selected_.begin(), selected_.end(), point.number) != selected_.end();
    (isChosen ? chosen : all) << at;
    if (!selected_.empty() && selected_.front() == point.number) current << at;
    cells.push_back({static_cast<int>(cells.size()), point.hold, point.shift});
  }
  for (const int cell : bestTradeOffs(cells))
    best << QPointF(points_[static_cast<std::size_t>(cell)].shift, points_[static_cast<std::size_t>(cell)].hold);
  all_->replace(all);
  chosen_->replace(chosen);
  current_->replace(current);
  best_->replace(best);
}

QPointF TradeChart::placeOf(const TradePoint& point) const {
  return mapFromScene(chart()->mapToScene(chart()->mapToPosition({point.shift, point.hold}, all_)));
}

const TradePoint* TradeChart::pointAt(QPointF at) const {
  const TradePoint* nearest = nullptr;
  double best = 12;
  for (const TradePoint& point : points_) {
    const QPointF by = placeOf(point) - at;
    if (const double away = std::hypot(by.x(), by.y()); away < best) {
      best = away;
      nearest = &point;
    }
  }
  return nearest;
}

void TradeChart::mousePressEvent(QMouseEvent* event) {
  pressed_ = event->pos();
  setFocus();
}

void TradeChart::mouseMoveEvent(QMouseEvent* event) {
  if (!event->buttons().testFlag(Qt::LeftButton)) return;
  if ((event->pos() - pressed_).manhattanLength() > 6) {
    band_->setGeometry(QRect(pressed_, event->pos()).normalized());
    band_->show();
  }
}

void TradeChart::mouseReleaseEvent(QMouseEvent* event) {
  if (event->button() != Qt::LeftButton) return;
  std::vector<std::int64_t> numbers;
  if (event->modifiers().testFlag(Qt::ControlModifier)) numbers = selected_;
  if (band_->isVisible()) {
    const QRectF box = band_->geometry();
    band_->hide();
    for (const TradePoint& point : points_)
      if (box.contains(placeOf(point))) numbers.push_back(point.number);
  } else if (const TradePoint* point = pointAt(event->position())) {
    numbers.insert(numbers.begin(), point->number);
  } else {
    return;
  }
  emit picked(numbers);
}

/// Along the points by rising shift.
void TradeChart::keyPressEvent(QKeyEvent* event) {
  if ((event->key() != Qt::Key_Left && event->key() != Qt::Key_Right) || points_.empty())
    return QChartView::keyPressEvent(event);
  auto order = points_;
  std::stable_sort(order.begin(), order.end(),
                   [](const TradePoint& a, const TradePoint& b) { return a.shift < b.shift; });
  const auto now = std::find_if(order.begin(), order.end(), [this](const TradePoint& point) {
    return !selected_.empty() && selected_.front() == point.number;
  });
  auto index = now == order.end() ? 0 : now - order.begin() + (event->key() == Qt::Key_Right ? 1 : -1);
  index = std::clamp<std::ptrdiff_t>(index, 0, std::ssize(order) - 1);
  emit picked({order[static_cast<std::size_t>(index)].number});
}

bool TradeChart::viewportEvent(QEvent* event) {
  if (event->type() == QEvent::ToolTip) {
    const auto* help = static_cast<QHelpEvent*>(event);
    const TradePoint* point = pointAt(help->pos());
    QToolTip::showText(help->globalPos(),
                       point != nullptr ? QString("Proof %1: hold %2, shift %3")
                                              .arg(point->number)
                                              .arg(std::lround(point->hold))
                                              .arg(std::lround(point->shift))
                                        : QString("Click or draw a box round proofs; left and right go along them.\n"
                                                  "The line joins those that no other beats in both."),
                       this);
    return true;
  }
  return QChartView::viewportEvent(event);
}

}  // namespace hscaffold::app
