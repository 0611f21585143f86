/// What is wrong or doubtful before a pull, each with its fix.
#pragma once

#include <QFrame>

#include "app/desk.h"

class QVBoxLayout;

namespace hscaffold::app {

class ChecksPanel : public QFrame {
  Q_OBJECT
 public:
  explicit ChecksPanel(Desk& desk, QWidget* parent = nullptr);

 private:
  void refresh();
  Desk& desk_;
  QVBoxLayout* rows_;
  QString shown_;
};

}  // namespace hscaffold::app
