/// Hold against shift: a point a proof, the best trade-offs joined by a line. What is chosen here is chosen in the
/// sheet.
#pragma once

#include <QtCharts/QChartView>
#include <vector>

#include "core/sheet/reading.h"

class QLineSeries;
class QRubberBand;
class QValueAxis;

namespace hscaffold::app {

/// A proof in the chart.
struct TradePoint {
  std::int64_t number = 0;
  double hold = 0, shift = 0;
};

class TradeDots;

class TradeChart : public QChartView {
  Q_OBJECT
 public:
  explicit TradeChart(QWidget* parent = nullptr);
  void setPoints(std::vector<TradePoint> points);
  /// The first of them is drawn as the one that is looked at.
  void setSelected(const std::vector<std::int64_t>& numbers);
  [[nodiscard]] const std::vector<TradePoint>& points() const { return points_; }
  /// The proofs that are chosen, the one that is looked at first.
  [[nodiscard]] const std::vector<std::int64_t>& selected() const { return selected_; }
  /// Where a point is, in widget pixels.
  [[nodiscard]] QPointF placeOf(const TradePoint& point) const;

 signals:
  void picked(const std::vector<std::int64_t>& numbers);

 protected:
  void mousePressEvent(QMouseEvent*) override;
  void mouseMoveEvent(QMouseEvent*) override;
  void mouseReleaseEvent(QMouseEvent*) override;
  void keyPressEvent(QKeyEvent*) override;
  bool viewportEvent(QEvent*) override;

 private:
  void restyle();
  void fill();
  [[nodiscard]] const TradePoint* pointAt(QPointF at) const;

  std::vector<TradePoint> points_;
  std::vector<std::int64_t> selected_;
  QLineSeries* best_;
  TradeDots* dots_;
  QValueAxis *across_, *up_;
  QRubberBand* band_;
  QPoint pressed_;
};

}  // namespace hscaffold::app
