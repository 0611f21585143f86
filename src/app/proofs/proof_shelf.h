/// The proofs of the open study: what is known of each, their pictures, thumbnails and misses. Bounded by memory; what
/// is not at hand is brought in the background and announced.
#pragma once

#include <QImage>
#include <QObject>
#include <QSet>
#include <QTimer>
#include <deque>
#include <filesystem>
#include <functional>
#include <map>
#include <memory>
#include <set>
#include <vector>

#include "core/job/pull.h"
#include "core/measure/missed_places.h"
#include "core/recently_used.h"
#include "core/sheet/sheet.h"
#include "core/study/study_entry.h"

namespace hscaffold::app {

class MapRoom;
class StudyDocument;
class TaskRunner;

class ProofShelf : public QObject {
  Q_OBJECT
 public:
  ProofShelf(StudyDocument& document, MapRoom& maps, TaskRunner& tasks, QObject* parent = nullptr);
  ~ProofShelf() override;  ///< once what is being written is

  [[nodiscard]] const std::vector<ProofInfo>& all() const { return proofs_; }  ///< oldest first
  [[nodiscard]] std::vector<const ProofInfo*> shown() const;                   ///< without those put away, newest first
  [[nodiscard]] const ProofInfo* proof(std::int64_t number) const;
  [[nodiscard]] const ProofInfo* current() const;        ///< the one that is shown large
  [[nodiscard]] bool isKept(std::int64_t number) const;  ///< has a star

  [[nodiscard]] const std::vector<SheetInfo>& sheets() const { return sheets_; }  ///< oldest first
  [[nodiscard]] const SheetInfo* sheet(std::int64_t number) const;
  /// Keeps a new sheet, before any of its proofs is there. @return its number @throws Problem where what was finished
  /// before could not be written yet
  std::int64_t addSheet(SheetInfo info);
  /// More of a search is to be tried: the cells of these choices wait.
  void growSheet(std::int64_t sheet, const std::vector<Choice>& choices);
  /// Nothing more of it is to be pulled, but for cells that may be tried again.
  void endSheet(std::int64_t sheet, const std::vector<int>& again = {});
  /// A cell is there or not wanted any more. Not in the file before the sheet ends: what is there is seen anyway.
  void cellDone(std::int64_t sheet, int cell);

  [[nodiscard]] QImage image(std::int64_t number);
  /// Null while it is being brought; `thumbnailChanged` follows.
  [[nodiscard]] QImage thumbnail(std::int64_t number);
  /// The picture itself, where it is at hand; null while it is being brought, and `thumbnailChanged` follows.
  [[nodiscard]] QImage large(std::int64_t number);
  /// Where the layout of a guide was lost, on nothing. Null while it is being made; `missesChanged` follows.
  [[nodiscard]] QImage misses(std::int64_t number, const std::string& guide);
  /// The same told by place, the largest first; none while it is not known yet.
  [[nodiscard]] std::optional<std::vector<MissedPlace>> missedPlaces(std::int64_t number, const std::string& guide);
  /// By which of the kind's means its hold was told (see `Holding`); empty while it is not known yet.
  [[nodiscard]] QString holdMeans(std::int64_t number, const std::string& guide) const;

  /// Shows a finished proof (cells of a sheet only if nothing else is shown) and keeps it in the study. One that cannot
  /// be written is a proof like the others, only in memory, and is tried again; closing asks.
  void keep(FinishedProof proof);
  /// Tries what waits once more. @return whether all proofs are in the study
  bool keepAll();
  /// As PNG with its recipe. @throws Problem
  [[nodiscard]] Bytes png(std::int64_t number) const;
  /// Gives what `png` does, on any thread, as long as the study is where it is.
  [[nodiscard]] std::function<Bytes(std::int64_t)> reader() const { return reader(&FinishedProof::png); }

 signals:
  void changed();
  void sheetsChanged();
  void thumbnailChanged(qint64 number);
  void missesChanged();
  void problem(const QString& sentence);

 private:
  using Pictures = RecentlyUsed<std::int64_t, QImage>;  ///< by number, bounded by bytes
  void readAll();
  /// Null when the study has it.
  [[nodiscard]] const FinishedProof* waiting(std::int64_t number) const;
  void forgetLooks();
  /// Something new waits: has it noted and written.
  void keepSoon();
  /// Has what waits written as soon as nobody else writes into the file.
  void write();
  /// What is not in the study yet, noted where it outlives this program.
  [[nodiscard]] std::shared_ptr<const StudyEntry> noted() const;
  void giveToWriter();
  /// Says once what is wrong, however often it is tried.
  void ended(std::size_t proofs, const QString& wrong);
  [[nodiscard]] bool allKept() const { return waiting_.empty() && toWrite_.empty(); }
  [[nodiscard]] std::function<Bytes(std::int64_t)> reader(Bytes FinishedProof::*part) const;
  /// Brings a picture in the background, once, and keeps it in `into`.
  void bring(std::int64_t number, const char* what, Pictures& into);

  StudyDocument& document_;
  MapRoom& maps_;
  TaskRunner& tasks_;
  std::vector<ProofInfo> proofs_;
  std::vector<SheetInfo> sheets_;
  Pictures images_, thumbnails_;
  struct Missed {
    QImage image;
    std::vector<MissedPlace> places;
    QString means;
  };
  std::map<std::string, Missed> misses_;                      ///< by guide, of one proof
  std::int64_t missesOf_ = 0;                                 ///< that proof; 0: none
  QSet<QString> asked_;                                       ///< pictures that are being brought
  std::deque<std::shared_ptr<const FinishedProof>> waiting_;  ///< not written yet
  std::set<std::int64_t> toWrite_;       ///< sheets that have grown or ended since they were written
  std::set<std::int64_t> beingWritten_;  ///< those that are with the writer
  std::int64_t last_ = 0;                ///< the largest number of a proof, also of one that cannot be read
  std::int64_t lastSheet_ = 0;           ///< likewise, of a sheet
  bool writing_ = false;                 ///< those, and the first of `waiting_`, are with the writer
  QTimer tryAgain_;
};

}  // namespace hscaffold::app
