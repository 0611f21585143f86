/// Everything that a window works with: one of each owner, put together in order. Views get the desk and ask whom they
/// need.
#pragma once

#include <QObject>

#include "app/document/check_list.h"
#include "app/document/study_document.h"
#include "app/maps/map_room.h"
#include "app/proofs/final_shelf.h"
#include "app/proofs/finder.h"
#include "app/proofs/proof_shelf.h"
#include "app/proofs/pull_queue.h"
#include "app/proofs/size_trials.h"
#include "app/tasks/task_runner.h"
#include "app/workbench/workbench.h"
#include "core/engine/registry.h"
#include "core/sheet/reading.h"

namespace hscaffold::app {

/// What Find begins with.
struct FindFrom {
  std::string guide = {};  ///< what has to hold; empty: the first one
  std::int64_t proof = 0;  ///< whose settings and holds are kept; 0: the study's own settings
};

class Desk : public QObject {
  Q_OBJECT
 public:
  explicit Desk(QObject* parent = nullptr);
  ~Desk() override;
  /// Nothing is being computed or written, and everything computed has arrived.
  [[nodiscard]] bool idle() const {
    return tasks.idle() && document.writer().idle() && (queue.all().empty() || queue.paused()) &&
           finals.works().empty();
  }

  /// Puts an engine among those that can be chosen, or in the place of the one of its name.
  void addEngine(std::shared_ptr<Engine> engine);
  void removeEngine(const std::string& name);
  /// What an engine's trouble is; empty: it is well again.
  void sayOf(const std::string& engine, const std::string& trouble);

  /// Writes a file on another thread, and says when it is there.
  void write(const QString& path, std::function<void()> job);
  /// The same for one that has something to say: sentences that follow.
  void writeAndTell(const QString& path, std::function<std::vector<std::string>(const StopToken&)> job);

  EngineRegistry engines;
  std::map<std::string, std::string> silent;  ///< remembered engines that did not answer, and what is wrong
  StudyDocument document;
  TaskRunner tasks;
  MapRoom maps;
  ProofShelf proofs;
  PullQueue queue;
  FinalShelf finals;
  Finder finder;
  SizeTrials sizeTrials;
  CheckList checks;
  Workbench workbench;

 signals:
  void enginesChanged();  ///< which there are; what a study asks for may be here now, or not any more
  /// A test strip should be made of this setting; without values they are chosen.
  void stripAsked(const hscaffold::Axis& axis);
  /// A balance should be looked for.
  void findAsked(const hscaffold::app::FindFrom& from);
  /// A proof should be made large; 0: the one that is shown.
  void finalAsked(qint64 proof);
  /// A place of the frame is to be seen, about so large, in pixels.
  void placeAsked(QPointF place, double extent);
  void problem(const QString& sentence);
  void notice(const QString& sentence);
};

}  // namespace hscaffold::app
