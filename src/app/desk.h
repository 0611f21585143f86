/// Everything that a window works with: one of each owner, put together in order. Views get the desk and ask whom they
/// need.
#pragma once

#include <QObject>

#include "app/document/check_list.h"
#include "app/document/study_document.h"
#include "app/maps/map_room.h"
#include "app/proofs/proof_shelf.h"
#include "app/proofs/pull_queue.h"
#include "app/tasks/task_runner.h"
#include "app/workbench/workbench.h"

namespace hscaffold::app {

class Desk : public QObject {
  Q_OBJECT
 public:
  explicit Desk(QObject* parent = nullptr);
  ~Desk() override;
  /// Nothing is being computed, and everything computed has arrived.
  [[nodiscard]] bool idle() const { return tasks.idle() && !queue.pulling(); }

  StudyDocument document;
  TaskRunner tasks;
  MapRoom maps;
  ProofShelf proofs;
  PullQueue queue;
  CheckList checks;
  Workbench workbench;

 signals:
  void problem(const QString& sentence);
  void notice(const QString& sentence);
};

}  // namespace hscaffold::app
