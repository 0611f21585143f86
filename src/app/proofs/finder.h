/// Searches that are going on: as soon as the proofs of a round are there, the next choices are made of them.
#pragma once

#include <QObject>
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

 signals:
  void changed(qint64 sheet);  ///< begun, or ended

 private:
  /// Cells without a proof.
  [[nodiscard]] std::vector<int> missingOf(const SheetInfo& info) const;
  void look();
  /// Looks for the next choices of one whose proofs are all there.
  void choose(std::int64_t sheet);
  void end(std::int64_t sheet);

  ProofShelf& shelf_;
  PullQueue& queue_;
  TaskRunner& tasks_;
  std::set<std::int64_t> going_, choosing_;
};

/// What the proofs of a search's sheet came to. @param info  of a search
std::vector<Tried> triedIn(const ProofShelf& shelf, const SheetInfo& info);

}  // namespace hscaffold::app
