/// Pulls: what is asked of the engine, how far it is, what came of it.
#pragma once

#include <QImage>
#include <QObject>

#include "core/engine/standin/standin.h"

namespace hscaffold::app {

class MapRoom;
class ProofShelf;
class StudyDocument;
class TaskRunner;

class PullQueue : public QObject {
  Q_OBJECT
 public:
  PullQueue(StudyDocument& document, MapRoom& maps, ProofShelf& shelf, TaskRunner& tasks, QObject* parent = nullptr);

  void pull();
  void stop();
  [[nodiscard]] bool pulling() const { return pulling_; }
  /// Milliseconds that a pull would take now.
  [[nodiscard]] double estimate() const;
  [[nodiscard]] double estimate(const Recipe& recipe) const { return engine_->estimate(recipe); }
  [[nodiscard]] EngineInfo engineInfo() const { return engine_->info(); }

 signals:
  void started();
  void stepped(int step, int steps, const QImage& preview);
  void ended();
  void notice(const QString& sentence);

 private:
  void end();

  StudyDocument& document_;
  MapRoom& maps_;
  ProofShelf& shelf_;
  TaskRunner& tasks_;
  std::shared_ptr<StandinEngine> engine_;
  bool pulling_ = false;
};

}  // namespace hscaffold::app
