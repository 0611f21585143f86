/// Pulls: what is asked of the engine and in which order, how far each is, what came of it.
#pragma once

#include <QImage>
#include <QObject>
#include <deque>
#include <set>

#include "core/engine/registry.h"
#include "core/job/prepare.h"
#include "core/job/pull.h"
#include "core/sheet/sharing.h"
#include "core/sheet/sheet.h"

namespace hscaffold::app {

class MapRoom;
class ProofShelf;
class StudyDocument;
class TaskRunner;

/// One proof that was asked for and is not there yet.
struct Pull {
  std::int64_t id = 0;
  std::int64_t sheet = 0;  ///< 0: pulled alone
  int cell = 0;
  std::string engine;           ///< by which it is made, by name; of a sheet that several share, once it is begun
  std::set<std::string> tried;  ///< engines that could not make it
  Recipe recipe;
  bool running = false, stopped = false;
  int step = 0, steps = 0;
  QImage preview;
};

class PullQueue : public QObject {
  Q_OBJECT
 public:
  PullQueue(StudyDocument& document, MapRoom& maps, ProofShelf& shelf, TaskRunner& tasks, const EngineRegistry& engines,
            QObject* parent = nullptr);

  /// One proof with the settings as they are, before all that waits.
  void pull();
  /// One proof of this recipe, likewise.
  void pull(Recipe recipe);
  /// A sheet, after all that waits. @return its number; 0 if it could not be begun, which is said
  std::int64_t pullSheet(const SheetPlan& plan);
  /// What is still missing of a sheet that was left.
  void resume(std::int64_t sheet);
  /// Its cells are not wanted any more; those that are there stay.
  void leave(std::int64_t sheet);

  /// Stops the proof that is pulled alone.
  void stop();
  void stopAll();
  void drop(std::int64_t id);
  /// The next one to be begun.
  void putFirst(std::int64_t id);
  /// What runs is finished, nothing else is begun.
  void setPaused(bool paused);
  [[nodiscard]] bool paused() const { return paused_; }

  /// What runs and waits, in the order in which it is begun.
  [[nodiscard]] const std::deque<Pull>& all() const { return pulls_; }
  /// Null if it neither runs nor waits.
  [[nodiscard]] const Pull* find(std::int64_t id) const;
  /// A proof is pulled alone.
  [[nodiscard]] bool pulling() const;
  /// Cells of a sheet that run or wait here.
  [[nodiscard]] int waiting(std::int64_t sheet) const;
  /// Milliseconds until all of it is there.
  [[nodiscard]] double remaining() const;

  /// Milliseconds that a pull would take now.
  [[nodiscard]] double estimate() const;
  [[nodiscard]] double estimate(const Recipe& recipe) const;
  [[nodiscard]] double estimate(const SheetPlan& plan) const;
  /// By one engine: as measured here, where it computes elsewhere; else by its own account. 0 if it is missing.
  [[nodiscard]] double estimate(const std::string& engine, const Recipe& recipe) const;
  /// Whether that was measured here.
  [[nodiscard]] bool isMeasured(const std::string& engine) const;
  void forgetPace(const std::string& engine);
  /// Engines that make the same pictures as the study's own, and could share a sheet with it; by name.
  [[nodiscard]] std::vector<std::string> sharers() const;
  /// Of the study's engine, or that it is missing.
  [[nodiscard]] std::shared_ptr<const EngineInfo> engineInfo() const;
  /// Null if it is missing.
  [[nodiscard]] std::shared_ptr<Engine> engine() const;

 signals:
  void started();                                            ///< a proof pulled alone
  void stepped(int step, int steps, const QImage& preview);  ///< of that proof
  void ended();                                              ///< of that proof
  void changed();                                            ///< what runs and waits
  void progressed(qint64 id);                                ///< a step of one of them
  void notice(const QString& sentence);
  void problem(const QString& sentence);
  /// An engine elsewhere made a proof, or could not.
  void engineHeard(const QString& name, const QString& trouble);

 private:
  /// What a job comes to; a cell that fails does not stop its sheet.
  struct Outcome {
    FinishedProof proof;
    std::string trouble;  ///< empty: there is a proof
    bool passes = false;  ///< whether trying again makes sense
  };
  /// The engines of a sheet; the first is the one that it was pulled with.
  struct Share {
    std::vector<std::string> engines;
    std::set<std::string> leftOut;  ///< since they failed
  };
  [[nodiscard]] bool mayPull();
  /// Who may make it: engines that are here and did not fail. Never empty.
  [[nodiscard]] std::vector<std::string> makersOf(const Pull& pull) const;
  /// Gives it to another engine. @return whether there is one
  bool handOn(Pull& pull, const Outcome& outcome);
  /// Begins what there is room for.
  void begin();
  void start(Pull& pull, std::shared_ptr<Engine> engine);
  void finish(std::int64_t id, Outcome outcome);
  void forget();
  void remove(std::int64_t id);
  [[nodiscard]] Pull* held(std::int64_t id);

  StudyDocument& document_;
  MapRoom& maps_;
  ProofShelf& shelf_;
  TaskRunner& tasks_;
  const EngineRegistry& engines_;
  std::shared_ptr<MadeMaps> made_;
  std::deque<Pull> pulls_;
  std::map<std::int64_t, Share> shares_;  ///< by sheet
  Pace pace_;
  bool isPaceNew_ = false;                          ///< not written down yet
  std::map<std::int64_t, int> failed_;              ///< cells by sheet
  std::map<std::int64_t, std::vector<int>> later_;  ///< cells by sheet that are worth another try
  std::int64_t lastId_ = 0;
  bool paused_ = false;
};

}  // namespace hscaffold::app
