/// The proofs of the open study: what is known of each, their pictures, thumbnails and misses. Bounded by memory; what
/// is not at hand is brought in the background and announced.
#pragma once

#include <QCache>
#include <QImage>
#include <QObject>
#include <QSet>
#include <filesystem>
#include <map>
#include <vector>

#include "core/study/study.h"
#include "files/study_pictures.h"

namespace hscaffold::app {

class MapRoom;
class StudyDocument;
class TaskRunner;

class ProofShelf : public QObject {
  Q_OBJECT
 public:
  ProofShelf(StudyDocument& document, MapRoom& maps, TaskRunner& tasks, QObject* parent = nullptr);

  [[nodiscard]] const std::vector<ProofInfo>& all() const { return proofs_; }  ///< oldest first
  [[nodiscard]] std::vector<const ProofInfo*> shown() const;                   ///< without those put away, newest first
  [[nodiscard]] const ProofInfo* proof(std::int64_t number) const;
  [[nodiscard]] const ProofInfo* current() const;  ///< the one that is shown large

  [[nodiscard]] QImage image(std::int64_t number);
  /// Null while it is being brought; `thumbnailChanged` follows.
  [[nodiscard]] QImage thumbnail(std::int64_t number);
  /// Where the layout of a guide was lost, on nothing. Null while it is being made; `missesChanged` follows.
  [[nodiscard]] QImage misses(std::int64_t number, const std::string& guide);

  /// Keeps a finished proof in the study and shows it. What cannot be written waits and is tried again.
  void keep(FinishedProof proof);
  /// Finished proofs that could not be written yet.
  [[nodiscard]] bool allKept() const { return waiting_.empty(); }
  /// As PNG with its recipe. @throws Problem
  void write(std::int64_t number, const std::filesystem::path& file);

 signals:
  void changed();
  void thumbnailChanged(qint64 number);
  void missesChanged();
  void problem(const QString& sentence);

 private:
  void readAll();
  void putIn(const FinishedProof& proof);
  void keepWaiting();
  void forgetLooks();

  StudyDocument& document_;
  MapRoom& maps_;
  TaskRunner& tasks_;
  std::vector<ProofInfo> proofs_;
  QCache<qint64, QImage> images_, thumbnails_;
  std::map<std::string, QImage> misses_;  ///< by guide, of one proof
  std::int64_t missesOf_ = 0;             ///< that proof; 0: none
  QSet<QString> asked_;                   ///< thumbnails that are being brought
  std::vector<FinishedProof> waiting_;
};

}  // namespace hscaffold::app
