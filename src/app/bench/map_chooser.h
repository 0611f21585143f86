/// Maps of one reference side by side, with what tunes them, to choose from before a guide is made.
#pragma once

#include <QDialog>

#include "app/desk.h"
#include "app/widgets/linked_view.h"

class QComboBox;
class QGridLayout;
class QLabel;
class QPushButton;

namespace hscaffold::app {

/// One of them.
class ChooserPane : public QWidget {
  Q_OBJECT
 public:
  ChooserPane(Desk& desk, LinkedView& view, int number, std::string reference, const std::string& kind);
  [[nodiscard]] const QImage& picture() const { return picture_; }
  [[nodiscard]] QPushButton* take() { return take_; }

 signals:
  void taken();

 private:
  class Picture;
  void setKind(const std::string& kind);
  void make();

  Desk& desk_;
  int number_;
  std::string reference_, kind_;
  Tuning tuning_;
  QImage picture_;
  Picture* shown_;
  QComboBox* choice_;
  QWidget* fields_ = nullptr;
  QLabel* found_;
  QPushButton* take_;
  std::shared_ptr<ExtractionCache> cache_;
};

class MapChooser : public QDialog {
  Q_OBJECT
 public:
  MapChooser(Desk& desk, std::string reference, QWidget* parent = nullptr);

 private:
  LinkedView view_;
};

}  // namespace hscaffold::app
