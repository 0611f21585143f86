/// The figures of the selected guide, under the source table: every one of them, the far ones too.
#pragma once

#include <QWidget>

#include "app/workbench/pose/figure_search.h"
#include "app/workbench/pose/pose_work.h"

class QLabel;
class QScrollArea;
class QSlider;
class QToolButton;

namespace hscaffold::app {

class FigureStrip : public QWidget {
  Q_OBJECT
 public:
  FigureStrip(PoseWork& work, FigureSearch& search, QWidget* parent = nullptr);
  /// Where a figure's chip is, in this widget.
  [[nodiscard]] QRect chipOf(std::size_t figure) const;

 signals:
  void nextAsked();
  void shown(std::size_t figure);  ///< it should be brought into view
  void libraryAsked();
  void checkAsked();  ///< the next doubtful joint should be shown

 private:
  class Chips;
  void refresh();
  void showDoubts();

  PoseWork& work_;
  FigureSearch& search_;
  Chips* chips_;
  QScrollArea* scroll_;
  QLabel *title_, *words_;
  QToolButton *find_, *next_, *check_, *library_, *stop_;
  QSlider* faintest_;
};

}  // namespace hscaffold::app
