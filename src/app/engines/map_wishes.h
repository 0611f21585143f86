/// What an engine wants of its maps, set by hand: which way round they are, bits, size, inks of poses, names of kinds.
#pragma once

#include <QWidget>
#include <map>
#include <string>
#include <vector>

#include "core/engine/engine.h"

class QCheckBox;
class QLabel;
class QLineEdit;
class QPushButton;

namespace hscaffold::app {

class MapWishes : public QWidget {
  Q_OBJECT
 public:
  explicit MapWishes(QWidget* parent = nullptr);
  [[nodiscard]] MapsWanted wanted() const;
  void show(const MapsWanted& maps);

 signals:
  void changed();
  void problem(const QString& sentence);

 private:
  void chooseInks();
  void showInks();

  QCheckBox *dark_, *near_, *eight_, *atFrame_;
  QLabel* inksName_;
  QPushButton* none_;
  std::string inks_;
  std::map<std::string, QLineEdit*> called_;  ///< by kind
};

}  // namespace hscaffold::app
