/// How a final came about, step by step: its proof, the final, each of its touch-ups.
#pragma once

#include <QWidget>

#include "app/desk.h"

namespace hscaffold::app {

class StageStrip : public QWidget {
  Q_OBJECT
 public:
  explicit StageStrip(Desk& desk, QWidget* parent = nullptr);
  static constexpr int cellWidth = 124, cellHeight = 104, gap = 18;

  /// The middle of the chosen step, from the left; -1 if none is chosen.
  [[nodiscard]] int chosenAt() const;

 signals:
  void followed();  ///< what there is, or what is chosen, is another
  /// A touch-up was picked; empty: the proof or the final itself.
  void picked(const QString& touchUp);

 protected:
  void paintEvent(QPaintEvent*) override;
  void mousePressEvent(QMouseEvent*) override;

 private:
  struct Cell {
    QString caption;
    QImage picture;
    std::string touchUp;
    bool off = false, chosen = false;
  };
  [[nodiscard]] std::vector<Cell> cells() const;
  void follow();
  Desk& desk_;
};

}  // namespace hscaffold::app
