/// A histogram with two draggable thresholds.
#pragma once

#include <QWidget>

#include "core/kinds.h"

namespace hscaffold::app {

class ThresholdHistogram : public QWidget {
  Q_OBJECT
 public:
  /// Rare: the lower half, widened towards zero, as gradients want it. Even: from 0 to 1.
  enum class Scale { rare, even };
  explicit ThresholdHistogram(const QColor& colour, Scale scale = Scale::rare, QWidget* parent = nullptr);
  void show(const ThresholdView& view);
  [[nodiscard]] Scale scale() const { return scale_; }
  [[nodiscard]] QSize sizeHint() const override { return {190, 52}; }
  /// Where a threshold stands, in widget pixels (tests drag from there).
  [[nodiscard]] QPoint handleAt(bool high) const;

 signals:
  void dragged(double low, double high);
  void released();

 protected:
  void paintEvent(QPaintEvent*) override;
  void mousePressEvent(QMouseEvent*) override;
  void mouseMoveEvent(QMouseEvent*) override;
  void mouseReleaseEvent(QMouseEvent*) override;
  void keyPressEvent(QKeyEvent*) override;

 private:
  [[nodiscard]] double toX(double value) const;
  [[nodiscard]] double toValue(double x) const;
  void moveTo(double value);

  QColor colour_;
  Scale scale_;
  ThresholdView view_;
  int held_ = 0;    ///< 0 none, 1 low, 2 high
  int chosen_ = 2;  ///< by keys
};

}  // namespace hscaffold::app
