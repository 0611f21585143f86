/// The references tray and the guide planks.
#pragma once

#include <QWidget>

#include "app/bench/plank.h"

class QLabel;
class QListView;
class QToolButton;
class QScrollArea;
class QVBoxLayout;

namespace hscaffold::app {

class ReferenceModel;
class Room;

class LeftColumn : public QWidget {
  Q_OBJECT
 public:
  explicit LeftColumn(Desk& desk, QWidget* parent = nullptr);
  [[nodiscard]] Room* references() const { return references_; }
  [[nodiscard]] Room* guides() const { return guides_; }
  [[nodiscard]] Plank* plankOf(const std::string& guide) const;

 signals:
  void openAsked();
  void placeAsked();
  void compareAsked();

 private:
  void follow(const Changes& changes);
  void refresh();
  void makeTray();
  /// The tray shows which reference is looked at.
  void followTray();
  void showSelected();
  void showEvent(QShowEvent* event) override;
  void look(const std::string& reference);
  void rebuildPlanks();

  Desk& desk_;
  Room *references_, *guides_;
  ReferenceModel* model_;
  QListView* tray_;
  QVBoxLayout* planks_;
  QScrollArea* scroll_ = nullptr;
  QToolButton* addGuide_;
  QLabel* empty_;
  std::vector<Plank*> shown_;
  std::string selected_;
};

}  // namespace hscaffold::app
