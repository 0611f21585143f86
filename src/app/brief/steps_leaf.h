/// Small variations of the seed, and whole briefs that are kept for other studies.
#pragma once

#include <QWidget>
#include <filesystem>

#include "app/desk.h"
#include "app/document/own_list.h"

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
  /// Changes the kept briefs, or says why that cannot be.
  void changeKept(const std::function<void(std::vector<KeptBrief>&)>& edit);
  void keep();
  void offerKept();

  Desk& desk_;
  OwnList<KeptBrief> kept_;
  QLabel* time_;
  ScrubField* vary_;
  QLineEdit* variation_;
  QToolButton* keptButton_;
};

}  // namespace hscaffold::app
