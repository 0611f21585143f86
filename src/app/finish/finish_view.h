/// Finish: make the chosen proof large and right.
#pragma once

#include "app/desk.h"
#include "app/finish/final_table.h"
#include "app/finish/touch_panel.h"
#include "app/main_view.h"

class QComboBox;
class QLabel;
class QPushButton;
class QStackedWidget;

namespace hscaffold::app {

class ScrubField;
class StageStrip;
class TouchList;

class FinishView : public MainView {
  Q_OBJECT
 public:
  explicit FinishView(Desk& desk, QWidget* parent = nullptr);
  [[nodiscard]] QString title() const override { return "Finish"; }
  [[nodiscard]] QString exportName() const override { return "Export the final..."; }
  [[nodiscard]] std::vector<QAction*> viewActions() override { return actions_; }
  [[nodiscard]] QRect messagePlace() const override;
  bool exportShown() override;
  bool exportMaps() override;
  [[nodiscard]] FinalTable& table() { return *table_; }
  [[nodiscard]] TouchList& touchUps() { return *list_; }
  [[nodiscard]] TouchPanel& panel() { return *panel_; }
  /// Asks how large a proof should be made. @param proof  0: the one that is shown
  void askFinal(std::int64_t proof);

 private:
  /// Always true: a final is what this view is about.
  bool exportWith(void (*ask)(Desk&, const std::string&, QWidget*));
  QWidget* left();
  QWidget* middle();
  void addActions();
  void refresh();
  /// What changes with every step.
  void tellProgress();
  void setTool(RegionTool tool);
  void draw(const TouchRegion& shapes, const QString& name);
  void newTouchUp();
  void removeTouchUp(const std::string& id);
  void clearRegion();
  void removeFinal();
  void lookAt(const std::string& touchUp);
  [[nodiscard]] const Final* final() const { return desk_.document.state().shownFinal(); }

  Desk& desk_;
  FinalTable* table_;
  TouchPanel* panel_;
  TouchList* list_;
  StageStrip* stages_;
  QStackedWidget* pages_;
  QComboBox* finals_;
  QLabel *size_, *picture_, *about_, *kept_, *foot_, *none_;
  QPushButton *larger_, *again_, *export_, *maps_, *wipe_, *tiles_, *new_, *begin_;
  ScrubField *brush_, *tolerance_;
  QLabel *brushLabel_, *toleranceLabel_;
  std::vector<QPushButton*> tools_;
  std::vector<QAction*> actions_;
};

}  // namespace hscaffold::app
