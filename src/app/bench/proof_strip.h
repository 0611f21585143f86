/// Under the proof table: hold of the shown proof, adopting its settings, and the recent proofs.
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

 signals:
  void exportAsked();

 protected:
  void paintEvent(QPaintEvent*) override;

 private:
  void refresh();
  void adopt();

  StudySession& session_;
  QLabel *hold_, *about_;
  QPushButton* adopt_;
  QHBoxLayout* row_;
  std::string key_;
  double holdValue_ = -1;
};

}  // namespace hscaffold::app
