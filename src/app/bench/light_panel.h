/// What lies on the light table of a tone guide, its colours, and where the light comes from. Stands in the guide's
/// plank.
#pragma once

#include <QWidget>
#include <string>

#include "app/desk.h"

class QCheckBox;
class QLabel;
class QListWidget;
class QListWidgetItem;
class QSlider;
class QToolButton;

namespace hscaffold::app {

class HueWheel;
class LightDial;
class ScrubField;

class LightPanel : public QWidget {
  Q_OBJECT
 public:
  LightPanel(Desk& desk, std::string guide, QWidget* parent = nullptr);
  /// Shows what there is, if its guide is the selected one.
  void refresh();

 private:
  void makeList();
  void fillList(const light::LightTable& table);
  void showColours(const light::LightTable& table);
  void setHued(bool hued);
  void setHues(const std::vector<light::Hue>& hues);
  void setAmount(double amount);

  Desk& desk_;
  std::string guide_;
  LightWork& work_;
  QLabel *heading_, *colourOf_, *comesFrom_, *reliefSays_;
  QListWidget* list_;
  HueWheel* wheel_;
  QCheckBox* hued_;
  QSlider* amountSlider_;
  ScrubField* amount_;
  QLabel* amountName_;
  LightDial* dial_;
  QSlider* relight_;
  QToolButton* relief_;
  bool filling_ = false;
};

}  // namespace hscaffold::app
