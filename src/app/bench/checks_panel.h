/// What is wrong or doubtful before a pull, each with its fix.
#pragma once

#include <QFrame>

#include "app/session.h"

class QVBoxLayout;

namespace hscaffold::app {

class ChecksPanel : public QFrame {
  Q_OBJECT
 public:
  explicit ChecksPanel(StudySession& session, QWidget* parent = nullptr);

 private:
  void refresh();
  StudySession& session_;
  QVBoxLayout* rows_;
  QString shown_;
};

}  // namespace hscaffold::app
