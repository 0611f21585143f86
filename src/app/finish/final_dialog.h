/// How large a proof is made: size, how far it may be left, with an engine or without.
#pragma once

#include <QDialog>

#include "app/desk.h"

class QCheckBox;
class QLabel;
class QPushButton;

namespace hscaffold::app {

class ScrubField;

class FinalDialog : public QDialog {
  Q_OBJECT
 public:
  /// @param from  a final whose touch-ups can come along; empty: none
  FinalDialog(Desk& desk, std::int64_t proof, std::string from = {}, QWidget* parent = nullptr);
  [[nodiscard]] FinalWish wish() const;

 private:
  void setTimes(double times);
  void refresh();

  Desk& desk_;
  std::int64_t proof_;
  std::string from_;
  Size base_;  ///< of which it is so many times
  std::vector<QPushButton*> times_;
  ScrubField *width_, *change_;
  QLabel *size_, *needs_, *picture_;
  QCheckBox *alone_, *along_;
  QPushButton* pull_;
};

}  // namespace hscaffold::app
