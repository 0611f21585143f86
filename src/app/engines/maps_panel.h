/// How an engine wants its maps, and the study's maps as they go out to it.
#pragma once

#include <QFrame>
#include <QPointer>
#include <string>

#include "app/engines/map_wishes.h"

class QHBoxLayout;
class QLabel;

namespace hscaffold::app {

class Desk;

class MapsPanel : public QFrame {
  Q_OBJECT
 public:
  MapsPanel(Desk& desk, std::string engine, QWidget* parent = nullptr);

 protected:
  void keyPressEvent(QKeyEvent* event) override;

 private:
  void preview();
  void keep();

  Desk& desk_;
  std::string engine_;
  MapWishes* wishes_;
  QHBoxLayout* shown_;
  QLabel* said_;
};

}  // namespace hscaffold::app
