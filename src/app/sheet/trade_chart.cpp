#include "app/sheet/trade_chart.h"

#include <QGraphicsItem>
#include <QGraphicsLayout>
#include <QMouseEvent>
#include <QRubberBand>
#include <QToolTip>
#include <QtCharts/QChart>
#include <QtCharts/QLineSeries>
#include <QtCharts/QValueAxis>
#include <algorithm>
#include <cmath>

#include "app/theme/theme.h"

namespace hscaffold::app {

/// The proofs, each a dot that is drawn once and put down often: series have an item with an outline for each, and two
/// thousand of those keep the window waiting.
class TradeDots : public QGraphicsItem {
 public:
  explicit TradeDots(TradeChart& view) : QGraphicsItem(view.chart()), view_(view) {
    setZValue(100);  // over lines and grid
    setCacheMode(DeviceCoordinateCache);
  }
  [[nodiscard]] QRectF boundingRect() const override { return view_.chart()->plotArea().adjusted(-8, -8, 8, 8); }
  void follow() { prepareGeometryChange(), update(); }

  void paint(QPainter* painter, const QStyleOptionGraphicsItem*, QWidget*) override {
    const double ratio = painter->device()->devicePixelRatioF();
    const Theme& t = theme();
    const auto& chosen = view_.selected();
    const QPixmap plain = dot(7, t.softText, QPen(t.panel, 1), ratio),
                  taken = dot(9, t.accent, QPen(t.panel, 1), ratio),
                  looked = dot(12, Qt::NoBrush, QPen(t.text, 2), ratio);
    const auto put = [&](const QPixmap& mark, const TradePoint& point) {
      const double half = mark.deviceIndependentSize().width() / 2;
      painter->drawPixmap(view_.chart()->mapToPosition({point.shift, point.hold}) - QPointF(half, half), mark);
    };
    std::vector<const TradePoint*> over;
    for (const TradePoint& point : view_.points()) {
      if (std::find(chosen.begin(), chosen.end(), point.number) == chosen.end())
        put(plain, point);
      else
        over.push_back(&point);
    }
    for (const TradePoint* point : over) put(taken, *point);
    for (const TradePoint* point : over)
      if (point->number == chosen.front()) put(looked, *point);
  }

 private:
  static QPixmap dot(int size, const QBrush& brush, const QPen& pen, double ratio) {
    const int room = size + 3;
    QPixmap out(QSize(room, room) * ratio);
    out.setDevicePixelRatio(ratio);
    out.fill(Qt::transparent);
    QPainter painter(&out);
    painter.setRenderHint(QPainter::Antialiasing);
    painter.setBrush(brush);
    painter.setPen(pen);
    painter.drawEllipse(QPointF(room / 2.0, room / 2.0), size / 2.0, size / 2.0);
    return out;
  }
  TradeChart& view_;
};

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
  chart->addSeries(best_);
  best_->attachAxis(across_);
  best_->attachAxis(up_);
  dots_ = new TradeDots(*this);
  connect(chart, &QChart::plotAreaChanged, this, [this] { dots_->follow(); });
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
  QColor line = t.accent;
  line.setAlphaF(0.7f);
  best_->setPen(QPen(line, 1.2, Qt::DashLine));
  dots_->update();
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
  if (numbers == selected_) return;
  selected_ = numbers;
  dots_->update();
}

void TradeChart::fill() {
  QList<QPointF> best;
  std::vector<MeasuredCell> cells;
  for (const TradePoint& point : points_) cells.push_back({static_cast<int>(cells.size()), point.hold, point.shift});
  for (const int cell : bestTradeOffs(cells))
    best << QPointF(points_[static_cast<std::size_t>(cell)].shift, points_[static_cast<std::size_t>(cell)].hold);
  best_->replace(best);
  dots_->follow();
}

QPointF TradeChart::placeOf(const TradePoint& point) const {
  return mapFromScene(chart()->mapToScene(chart()->mapToPosition({point.shift, point.hold})));
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
