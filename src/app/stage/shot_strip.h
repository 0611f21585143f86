/// Shots of the stage beside one another, each with its picture, and the light.
#pragma once

#include <QImage>
#include <QWidget>

#include "app/stage/stage_work.h"

class QLabel;
class QListWidget;

namespace hscaffold::app {

class LightDial;
class ScrubField;

class ShotStrip : public QWidget {
  Q_OBJECT
 public:
  ShotStrip(Desk& desk, StageWork& work, QWidget* parent = nullptr);

 protected:
  void showEvent(QShowEvent* event) override;

 private:
  void refresh();
  void makePictures();
  void showMenu(const QPoint& at);

  Desk& desk_;
  StageWork& work_;
  QListWidget* shots_;
  LightDial* dial_;
  QLabel* lightWords_;
  ScrubField *soft_, *strength_;
  std::string shown_;  ///< digest of the scene that the pictures show
  bool filling_ = false;
};

}  // namespace hscaffold::app
