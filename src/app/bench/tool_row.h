/// The tools of the selected guide, along the top of the source table, with what they and the kind (or its region) put
/// beside them.
#pragma once

#include <QWidget>
#include <functional>
#include <vector>

#include "app/bench/source_table.h"
#include "app/workbench/row_entries.h"

class QBoxLayout;
class QLabel;
class QMenu;
class QToolButton;

namespace hscaffold::app {

class ScrubField;
struct KindTools;

class ToolRow : public QWidget {
  Q_OBJECT
 public:
  ToolRow(Desk& desk, SourceTable& table, QWidget* parent = nullptr);

  [[nodiscard]] QSize minimumSizeHint() const override;

 signals:
  void exportMapAsked();

 protected:
  void resizeEvent(QResizeEvent* event) override;

 private:
  struct Button {
    QToolButton* button;
    ToolId tool;                            ///< for buttons of tools
    std::function<bool()> pressed, usable;  ///< for others; may be empty
  };
  struct Field {
    ScrubField* field;
    QLabel* label;  ///< its name, where there is room for it
    RowField of;
  };
  bool fillButtons();
  void addButton(const RowButton& entry);
  bool fillFields();
  void placeFields();
  void fillMenu(QMenu& menu);
  void refresh();

  Desk& desk_;
  Workbench& bench_;
  SourceTable& table_;
  QBoxLayout *lines_, *first_, *toolBox_, *buttonBox_, *fieldBox_;
  QWidget* fieldHolder_;
  bool beside_ = true;                ///< the fields stand in the first line
  const KindTools* shown_ = nullptr;  ///< what the buttons are of
  std::vector<Button> buttons_;
  std::vector<Field> fields_;
  QToolButton *more_, *region_;
};

}  // namespace hscaffold::app
