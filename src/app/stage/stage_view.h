/// Stage: figures and things on a set, seen by an eye; pose, depth and lines from it are exact.
#pragma once

#include "app/main_view.h"
#include "app/stage/stage_table.h"
#include "app/stage/stage_work.h"
#include "app/stage/thing_panel.h"

class QComboBox;
class QLabel;
class QLineEdit;
class QListWidget;
class QPushButton;
class QSlider;

namespace hscaffold::app {

class StageGuides;

class StageView : public MainView {
  Q_OBJECT
 public:
  explicit StageView(Desk& desk, QWidget* parent = nullptr);
  [[nodiscard]] QString title() const override { return "Stage"; }
  [[nodiscard]] std::vector<QAction*> viewActions() override { return actions_; }
  [[nodiscard]] QRect messagePlace() const override;
  bool copyChosen() override;
  bool pasteHere() override;
  bool takeFile(const std::filesystem::path& file) override;
  bool exportShown() override;
  [[nodiscard]] QString exportName() const override { return "Scene to a file..."; }
  [[nodiscard]] StageWork& work() { return work_; }
  [[nodiscard]] StageTable& table() { return *table_; }

 signals:
  void clipAsked();   ///< a motion clip is to be chosen
  void benchAsked();  ///< guides came from here: they are seen there

 protected:
  void showEvent(QShowEvent* event) override;

 private:
  QWidget* left();
  QWidget* middle();
  QWidget* right();
  void addActions();
  void cut();
  void fillPoses();
  /// Pictures of all poses, made once the stage is gone to.
  void makePictures();
  void takePose(bool fresh);
  void refresh();
  /// The chosen figure goes a share of the way into the marked pose, from how it was when that began.
  void blend(int percent);
  void endBlend();
  void showGhost();
  void fillGhosts();

  Desk& desk_;
  StageWork work_;
  StageTable* table_;
  QLineEdit* search_;
  ThingPanel* panel_;
  StageGuides* guides_;
  QListWidget* poses_;
  QPushButton *onto_, *lift_;
  QLabel *frame_, *outside_;
  QSlider *blend_, *ghostShare_;
  QComboBox* ghost_;
  QPushButton* lines_;
  QTimer blendLater_;
  std::optional<stage::Thing> blendFrom_;  ///< the figure as it was when blending began
  std::vector<QAction*> actions_;
  bool picturesAsked_ = false;
  std::vector<QPixmap> pictures_;  ///< by pose; empty until they are made
};

}  // namespace hscaffold::app
