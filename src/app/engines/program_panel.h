/// A program of the artist's own made an engine: its name, its command, and how it wants its maps.
#pragma once

#include <QFrame>

#include "app/engines/map_wishes.h"
#include "files/program_engine.h"

class QCheckBox;
class QLabel;
class QLineEdit;
class QPushButton;

namespace hscaffold::app {

class Desk;
class ScrubField;

class ProgramPanel : public QFrame {
  Q_OBJECT
 public:
  explicit ProgramPanel(Desk& desk, QWidget* parent = nullptr);
  [[nodiscard]] ProgramSetup setup() const;

 protected:
  void keyPressEvent(QKeyEvent* event) override;

 private:
  void refresh();
  void add();

  Desk& desk_;
  QLineEdit *name_, *command_, *families_;
  std::vector<std::pair<std::string, QCheckBox*>> takes_;  ///< by kind
  MapWishes* wishes_;
  ScrubField *lanes_, *seconds_, *megapixels_;
  QLabel* doubt_;
  QPushButton* add_;
};

}  // namespace hscaffold::app
