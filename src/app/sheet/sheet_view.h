/// The Sheet: choose and compare.
#pragma once

#include "app/desk.h"
#include "app/main_view.h"
#include "app/sheet/compare_table.h"
#include "app/sheet/details_panel.h"
#include "app/sheet/sheet_grid.h"
#include "app/sheet/sheet_list.h"

class QComboBox;
class QLabel;
class QPushButton;
class QSlider;
class QStackedWidget;

namespace hscaffold::app {

class ReadingPanel;
class Room;
class ScrubField;

class SheetView : public MainView {
  Q_OBJECT
 public:
  explicit SheetView(Desk& desk, QWidget* parent = nullptr);
  [[nodiscard]] QString title() const override { return "Sheet"; }
  [[nodiscard]] std::vector<QAction*> viewActions() override { return actions_; }
  [[nodiscard]] SheetGrid& grid() { return *grid_; }
  [[nodiscard]] QRect messagePlace() const override;
  [[nodiscard]] SheetModel& model() { return *model_; }
  [[nodiscard]] DetailsPanel& details() { return *details_; }
  [[nodiscard]] CompareTable& compared() { return *compare_; }
  [[nodiscard]] bool comparing() const;
  [[nodiscard]] const SheetReading& reading() const;
  /// The chosen proofs large, or the sheet again.
  void compare(bool large);

 protected:
  void showEvent(QShowEvent*) override;

 private:
  QWidget* head();
  void follow();
  void addActions();
  void pick();
  void tellSheet();
  void fillGuides();
  void showProposal();
  void compareWithChosen(qint64 number);
  void findFromChosen();
  void showMenu(const QPoint& global);
  void exportSheet();
  void setLook(CompareLook look);

  Desk& desk_;
  SheetModel* model_;
  SheetGrid* grid_;
  SheetList* list_;
  CompareTable* compare_;
  DetailsPanel* details_;
  QStackedWidget* middle_;
  ReadingPanel* reading_;
  QLabel *name_, *about_;
  QWidget *compareTools_, *sheetTools_;
  QComboBox *order_, *of_;
  ScrubField* least_;
  QSlider* size_;
  QPushButton* squint_;
  std::vector<QPushButton*> looks_;
  std::vector<QAction*> actions_;
};

}  // namespace hscaffold::app
