/// An engine at an address: its name, where it is, its token.
#pragma once

#include <QFrame>

class QLabel;
class QLineEdit;
class QPushButton;

namespace hscaffold::app {

class Desk;

class AddressPanel : public QFrame {
  Q_OBJECT
 public:
  explicit AddressPanel(Desk& desk, QWidget* parent = nullptr);

 protected:
  void keyPressEvent(QKeyEvent* event) override;

 private:
  void add();
  Desk& desk_;
  QLineEdit *name_, *address_, *token_;
  QLabel* said_;
  QPushButton* add_;
};

}  // namespace hscaffold::app
