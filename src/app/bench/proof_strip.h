/// The recent proofs under the proof table or beside it; and, as a row above it, the hold of the shown one with what
/// can be done.
#pragma once

#include <QWidget>

#include "app/desk.h"

class QLabel;
class QListView;
class QPushButton;

namespace hscaffold::app {

class ProofModel;

class ProofStrip : public QWidget {
  Q_OBJECT
 public:
  explicit ProofStrip(Desk& desk, QWidget* parent = nullptr);
  /// Stands above the table; whoever places it owns it.
  [[nodiscard]] QWidget* head() { return head_; }
  [[nodiscard]] QListView& list() { return *list_; }
  /// A column rather than a row.
  void setUpright(bool upright);

 signals:
  void exportAsked();

 private:
  void refresh();
  void adopt();
  void showMenu(const QPoint& at);

  Desk& desk_;
  ProofModel* model_;
  QWidget *head_, *bar_;
  QLabel *hold_, *about_;
  QPushButton *adopt_, *save_;
  QListView* list_;
};

}  // namespace hscaffold::app
