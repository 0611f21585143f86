/// Searches that are going on: as soon as the proofs of a round are there, the next choices are made of them.
#pragma once

#include <QObject>
#include <map>
#include <set>

#include "core/find/search.h"
#include "core/sheet/sheet.h"

namespace hscaffold::app {

class ProofShelf;
class PullQueue;
class StudyDocument;
class TaskRunner;

/// Every choice and every proof lands in a sheet: what is left of a search after a stop or a crash is gone on with from
/// there.
class Finder : public QObject {
  Q_OBJECT
 public:
  Finder(StudyDocument& document, ProofShelf& shelf, PullQueue& queue, TaskRunner& tasks, QObject* parent = nullptr);

  /// @return the number of its sheet; 0 if it could not be begun, which is said by the queue
  std::int64_t begin(const FindPlan& plan);
  /// Goes on with one that was stopped, as far as its budget goes.
  void goOn(std::int64_t sheet);
  /// What runs of it is stopped, and nothing more is tried.
  void stop(std::int64_t sheet);
  [[nodiscard]] bool searching(std::int64_t sheet) const { return going_.contains(sheet); }
  /// Whether its budget has room for another choice.
  [[nodiscard]] bool hasRoom(std::int64_t sheet) const;
  /// What the proofs of a search came to, as far as it is measured. @param info  of a search
  [[nodiscard]] std::vector<Tried> tried(const SheetInfo& info);

 signals:
  void changed(qint64 sheet);  ///< begun, ended, or more of it is measured
  void problem(const QString& sentence);

 private:
  /// Cells without a proof.
  [[nodiscard]] std::vector<int> missingOf(const SheetInfo& info) const;
  void look();
  /// Looks for the next choices of one whose proofs are all there.
  void choose(std::int64_t sheet);
  void end(std::int64_t sheet);
  /// Whether one more choice fits into its time.
  [[nodiscard]] bool hasTime(const SheetInfo& info) const;
  /// How like the proof that is wanted each proof of a search is. @return whether all of it is known
  bool measureLikeness(const SheetInfo& info);

  ProofShelf& shelf_;
  PullQueue& queue_;
  TaskRunner& tasks_;
  std::set<std::int64_t> going_, choosing_;
  std::map<std::pair<std::int64_t, std::int64_t>, double> likeness_;  ///< by the proof that is wanted, and another
  std::set<std::int64_t> unlike_;                                     ///< proofs whose look could not be read
};

}  // namespace hscaffold::app
