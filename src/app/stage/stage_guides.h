/// Guides that come from the stage: each map as it is now, whether a guide follows it, freezing.
#pragma once

#include <QImage>
#include <QWidget>

#include "app/stage/stage_work.h"

class QLabel;
class QPushButton;

namespace hscaffold::app {

class StageGuides : public QWidget {
  Q_OBJECT
 public:
  StageGuides(Desk& desk, StageWork& work, QWidget* parent = nullptr);

 protected:
  void showEvent(QShowEvent* event) override;

 private:
  struct Card {
    const stage::StageMap* map;
    QLabel *picture, *name, *state;
    QPushButton *use, *freeze;
  };
  QWidget* card(const stage::StageMap& map);
  void refresh();
  /// Pictures of all maps, of the scene as it is now.
  void makePictures();

  Desk& desk_;
  StageWork& work_;
  std::vector<Card> cards_;
  QLabel* words_;
  QPushButton* join_ = nullptr;
  std::string shown_;  ///< digest of the scene that the pictures show
};

}  // namespace hscaffold::app
