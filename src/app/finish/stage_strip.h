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

 signals:
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
