/// The recent proofs under the proof table; and, as a row above it, the hold of the shown one with what can be done.
#pragma once

#include <QWidget>

#include "app/session.h"

class QHBoxLayout;
class QLabel;
class QPushButton;

namespace hscaffold::app {

class ProofStrip : public QWidget {
  Q_OBJECT
 public:
  explicit ProofStrip(StudySession& session, QWidget* parent = nullptr);
  /// Stands above the table; whoever places it owns it.
  [[nodiscard]] QWidget* head() { return head_; }

 signals:
  void exportAsked();

 private:
  void refresh();
  void adopt();

  StudySession& session_;
  QWidget *head_, *bar_;
  QLabel *hold_, *about_;
  QPushButton *adopt_, *save_;
  QHBoxLayout* row_;
  std::string key_;
};

}  // namespace hscaffold::app
