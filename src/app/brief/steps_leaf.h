/// Small variations of the seed, and whole briefs that are kept for other studies.
#pragma once

#include <QWidget>
#include <filesystem>

#include "app/desk.h"

class QHBoxLayout;
class QLabel;
class QLineEdit;
class QToolButton;

namespace hscaffold::app {

class ScrubField;

struct KeptBrief {
  std::string name;
  Brief brief;
};

class StepsLeaf : public QWidget {
  Q_OBJECT
 public:
  explicit StepsLeaf(Desk& desk, QWidget* parent = nullptr);

 signals:
  void said(const QString& sentence);

 private:
  void refresh();
  void readKept();
  void writeKept(const std::vector<KeptBrief>& briefs);
  void keep();
  void offerKept();

  Desk& desk_;
  std::filesystem::path file_;
  QString trouble_;
  std::vector<KeptBrief> kept_;
  QLabel* time_;
  ScrubField* vary_;
  QLineEdit* variation_;
  QToolButton* keptButton_;
};

}  // namespace hscaffold::app
