/// What each setting of a search does: a small curve of every hold and of the look over its values, with a band of how
/// sure that is, and the sentence beside it.
#pragma once

#include <QWidget>
#include <vector>

#include "core/find/findings.h"

class QGridLayout;
class QLabel;

namespace hscaffold::app {

/// One setting. Drawn by hand: a plotting library's chart takes longer to lay out than all pictures beside it to paint.
class EffectCurve : public QWidget {
  Q_OBJECT
 public:
  explicit EffectCurve(QWidget* parent = nullptr);
  /// A line over the values: means and how unsure they are, both [0, 100].
  struct Line {
    std::vector<double> means, spreads;
    QColor colour;
    bool dashed = false;
  };
  /// @param at  where on the way from left to right each value stands, [0, 1]
  void show(std::vector<double> at, std::vector<Line> lines);
  [[nodiscard]] const std::vector<Line>& lines() const { return lines_; }

 protected:
  void paintEvent(QPaintEvent*) override;

 private:
  std::vector<double> at_;
  std::vector<Line> lines_;
};

class EffectCurves : public QWidget {
  Q_OBJECT
 public:
  explicit EffectCurves(QWidget* parent = nullptr);
  /// None: nothing is shown.
  void show(const FindPlan& plan, const std::vector<Effect>& effects);
  [[nodiscard]] int shown() const { return shown_; }

 private:
  struct Row {
    EffectCurve* curve;
    QLabel* sentence;
  };
  Row addRow();
  void fill(const Row& row, const Effect& effect);
  void refill();

  QGridLayout* grid_;
  std::vector<Row> rows_;
  int shown_ = 0;
  FindPlan plan_;
  std::vector<Effect> effects_;
};

}  // namespace hscaffold::app
