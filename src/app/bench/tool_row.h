/// The tools of the selected guide, along the top of the source table: retouch and strokes, or the region.
#pragma once

#include <QWidget>
#include <vector>

#include "app/bench/source_table.h"

class QBoxLayout;
class QLabel;
class QMenu;
class QPushButton;
class QToolButton;

namespace hscaffold::app {

class ScrubField;

class ToolRow : public QWidget {
  Q_OBJECT
 public:
  ToolRow(Desk& desk, SourceTable& table, QWidget* parent = nullptr);

 signals:
  void exportMapAsked();
  void libraryAsked();

 private:
  struct ToolButton {
    ToolId tool;
    QToolButton* button;
  };
  void fillTools();
  ScrubField* addField(QBoxLayout* row, const QString& name, const QString& tip, double minimum, double maximum,
                       double step, const QString& unit);
  void fillMenu(QMenu& menu);
  void refreshPose(bool shown);
  void refresh();

  Desk& desk_;
  Workbench& bench_;
  SourceTable& table_;
  QBoxLayout* toolBox_;
  std::string toolsOf_;  ///< what the buttons are of
  std::vector<ToolButton> tools_;
  QToolButton *specks_, *more_, *region_, *invert_, *clear_;
  QPushButton *fit_, *library_;
  QToolButton* doubt_;
  ScrubField* near_;
  ScrubField *size_, *hardness_, *feather_, *tolerance_, *x_, *y_;
};

}  // namespace hscaffold::app
