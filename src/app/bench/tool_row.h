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
  ToolRow(StudySession& session, SourceTable& table, QWidget* parent = nullptr);

 signals:
  void exportMapAsked();
  void libraryAsked();

 private:
  struct ToolButton {
    ToolName tool;
    QToolButton* button;
  };
  void addTool(QBoxLayout* row, ToolName tool, const char* iconName, const QString& tip);
  ScrubField* addField(QBoxLayout* row, const QString& name, const QString& tip, double minimum, double maximum,
                       double step, const QString& unit);
  void fillMenu(QMenu& menu);
  void fillPoseMenu(QMenu& menu);
  void refreshPose(bool shown);
  void refresh();

  StudySession& session_;
  SourceTable& table_;
  std::vector<ToolButton> tools_;
  QToolButton *specks_, *more_, *region_, *invert_, *clear_;
  QPushButton *fit_, *library_;
  ScrubField *size_, *hardness_, *feather_, *tolerance_, *x_, *y_;
};

}  // namespace hscaffold::app
