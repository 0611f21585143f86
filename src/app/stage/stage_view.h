/// Stage: figures and things on a set, seen by an eye; pose, depth and lines from it are exact.
#pragma once

#include "app/main_view.h"
#include "app/stage/stage_table.h"
#include "app/stage/stage_work.h"

class QComboBox;
class QGridLayout;
class QLabel;
class QLineEdit;
class QListWidget;
class QPushButton;

namespace hscaffold::app {

class ScrubField;

class StageView : public MainView {
  Q_OBJECT
 public:
  explicit StageView(Desk& desk, QWidget* parent = nullptr);
  [[nodiscard]] QString title() const override { return "Stage"; }
  [[nodiscard]] std::vector<QAction*> viewActions() override { return actions_; }
  [[nodiscard]] QRect messagePlace() const override;
  [[nodiscard]] StageWork& work() { return work_; }
  [[nodiscard]] StageTable& table() { return *table_; }

 signals:
  void benchAsked();  ///< guides came from here: they are seen there

 protected:
  void showEvent(QShowEvent* event) override;

 private:
  /// A number of what is chosen, or of the eye and the light, and how it is set.
  struct Number {
    QLabel* name;
    ScrubField* field;
    std::function<std::optional<double>(const stage::Scene&, const stage::Thing*)> get;
  };
  QWidget* left();
  QWidget* middle();
  QWidget* right();
  void addActions();
  void fillPoses();
  /// Pictures of all poses, made once the stage is gone to.
  void makePictures();
  void takePose(bool fresh);
  void refresh();
  using Get = std::function<std::optional<double>(const stage::Scene&, const stage::Thing*)>;
  void addNumber(QGridLayout& grid, const char* objectName, const QString& name, const Limits& limits, Get get,
                 std::function<void(stage::Scene&, stage::Thing*, double)> set);

  Desk& desk_;
  StageWork work_;
  StageTable* table_;
  QLineEdit* search_;
  QListWidget *poses_, *things_;
  QPushButton *onto_, *lift_;
  QLabel *frame_, *outside_, *chosen_;
  QComboBox* shots_;
  std::vector<Number> numbers_;
  std::vector<QAction*> actions_;
  bool filling_ = false, picturesAsked_ = false;
  std::vector<QPixmap> pictures_;  ///< by pose; empty until they are made
};

}  // namespace hscaffold::app
