/// The open study with everything the window shows of it. Lives on the interface thread; pictures, maps and proofs are
/// computed on two background threads and come back as signals.
#pragma once

#include <QImage>
#include <QObject>
#include <QTimer>
#include <functional>
#include <map>
#include <memory>
#include <optional>

#include "app/latest_worker.h"
#include "app/map_picture.h"
#include "core/engine/standin/standin.h"
#include "core/study/checks.h"
#include "core/study/history.h"
#include "core/study/study_file.h"
#include "files/figure_files.h"

namespace hscaffold::app {

class StudySession : public QObject {
  Q_OBJECT
 public:
  explicit StudySession(QObject* parent = nullptr);
  ~StudySession() override;

  /// Each throws Problem and then leaves the open study as it was.
  void createUntitled();
  void open(const std::filesystem::path& path);
  void saveAs(const std::filesystem::path& path);
  [[nodiscard]] std::filesystem::path path() const;
  [[nodiscard]] bool isUntitled() const;

  [[nodiscard]] const StudyState& state() const { return history_.state(); }
  [[nodiscard]] const StudyHistory& history() const { return history_; }
  /// One named, undoable change. Changes with the same `merge` key join until `seal()`; they are written to the file
  /// when sealed or after a short pause, all others at once.
  void change(const QString& name, const std::function<void(StudyState&)>& edit, const std::string& merge = {});
  /// Selections and the like: kept in the file, not in the undo list.
  void choose(const std::function<void(StudyState&)>& edit);
  void seal();
  void undo();
  void redo();

  /// Brings pictures in: each becomes a reference with an edge guide. Files that are no pictures are reported by
  /// `problem`, the others still come in.
  void bringIn(const std::vector<std::filesystem::path>& files);
  void bringIn(const QImage& picture, const QString& name);
  /// An SVG drawing becomes a guide of line art that stands on its strokes. @throws Problem
  void bringInDrawing(const std::filesystem::path& file);
  /// For the selected reference, unless another one is named.
  void addGuide(const std::string& kind, const Tuning& tuning = {}, const std::string& reference = {});
  /// A pose guide: over the selected reference, or standing alone where there is none. Figures are of the frame.
  void addPoseGuide(const QString& name, pose::Figures figures = {});
  /// Figures from a file, brought to the frame: key points of the selected reference's picture lie on it. With `note`.
  /// @throws Problem
  pose::CocoFigures readFigures(const std::filesystem::path& file) const;
  /// A guide that stands on strokes of its own.
  void addDrawnGuide(const std::string& kind, const QString& name, Drawing drawing);
  void removeGuide(const std::string& id);
  void removeReference(const std::string& id);

  [[nodiscard]] QImage referenceImage(const std::string& id) const;  ///< null until decoded
  [[nodiscard]] QImage placedImage(const std::string& id) const;     ///< frame size, null until made
  [[nodiscard]] const MapPicture* mapOf(const std::string& guide) const;

  /// Hand work of guides, by the names that the state holds.
  [[nodiscard]] EditStore& edits() { return edits_; }
  [[nodiscard]] GuidePlace placeOf(const Guide& guide) const;
  /// The placed reference of a guide as the worker last made it; null if there is none yet.
  [[nodiscard]] std::shared_ptr<const Image<Rgb>> placedPicture(const std::string& reference) const;
  /// Shows unfinished hand work: layers that are not in the state yet, over one part. The maps that come from the
  /// workers are held back until `endLive`.
  void showLive(const std::string& guide, const Layer* retouch, const Layer* region, const Box& part);
  void endLive(const std::string& guide);
  /// The same for figures: they are drawn anew where one of them moves.
  void showLiveFigures(const std::string& guide, View<Rgb8> behind, std::span<const pose::FigureMarks> figures,
                       const Box& part);
  /// A guide's figures as they lie in the frame now; null for other kinds.
  [[nodiscard]] std::shared_ptr<const pose::Figures> figuresOf(const Guide& guide);
  [[nodiscard]] const pose::Inks& inksOf(const Guide& guide);
  /// One computation in the background, the newest of its key; `done` is called here with what it returns.
  void inBackground(const std::string& key, std::function<std::function<void()>(StopToken)> job);

  [[nodiscard]] std::vector<Check> checks() const;

  [[nodiscard]] const std::vector<ProofInfo>& proofs() const { return proofs_; }
  [[nodiscard]] std::vector<const ProofInfo*> shownProofs() const;  ///< without those put away, newest first
  [[nodiscard]] const ProofInfo* proof(std::int64_t number) const;
  [[nodiscard]] const QImage& proofImage(std::int64_t number);
  [[nodiscard]] QImage proofThumbnail(std::int64_t number);
  [[nodiscard]] QImage missesOf(std::int64_t proofNumber, const std::string& guide) const;  ///< null until made
  void wantMisses(std::int64_t proofNumber);
  /// As PNG, as strokes or shapes if the file's name ends in .svg, figures as key points if in .json. @throws Problem
  void writeMap(const std::string& guide, const std::filesystem::path& file);
  void writeProof(std::int64_t number, const std::filesystem::path& file);

  void pull();
  void stopPull();
  [[nodiscard]] bool pulling() const { return pulling_; }
  [[nodiscard]] double estimate() const { return engine_.estimate(recipeOf(state())); }
  [[nodiscard]] EngineInfo engineInfo() const { return engine_.info(); }
  /// Nothing is being computed (tests wait for it).
  [[nodiscard]] bool idle() const { return worker_->idle() && !pulling_; }

 signals:
  void changed();
  void pathChanged();
  void picturesChanged();
  void mapChanged(const QString& guide);
  void mapPartChanged(const QString& guide, const QRect& part);
  void proofsChanged();
  void missesChanged();
  void pullStarted();
  void pullStepped(int step, int steps, const QImage& preview);
  void pullEnded();
  void problem(const QString& sentence);
  void notice(const QString& sentence);

 private:
  struct ReferencePicture {
    std::shared_ptr<const Image<Rgba16>> picture;
    QImage display, placed;
    std::shared_ptr<const Image<Rgb>> placedPicture;
  };
  struct WorkerCaches;
  /// Says what goes wrong in `job` rather than passing it on.
  void guarded(const std::function<void()>& job);
  void adopt(StudyFile file);
  void afterChange();
  void write();
  void refreshPictures();
  void tidyFile();
  void requestReference(const Reference& reference);
  void requestPlacing(const Reference& reference);
  void requestMap(const Guide& guide);
  void requestWords(const std::string& id, const std::shared_ptr<const pose::Figures>& figures,
                    const GuidePlace& place);
  std::string insertReference(StudyState& state, const Bytes& bytes, Image<Rgba16> picture, const std::string& name);
  void finishPull(ProofInfo info, QImage picture, const Bytes& png, const Bytes& thumbnail);

  std::unique_ptr<StudyFile> file_;
  StudyHistory history_;
  EditStore edits_;
  struct PlacedFigures {
    std::string key;
    std::shared_ptr<const pose::Figures> figures;
  };
  std::map<std::string, PlacedFigures> figures_;  ///< by guide
  std::string live_;                              ///< guide on which a stroke is being drawn
  std::uint64_t generation_ = 0;                  ///< of the open study: results for another one are dropped
  QTimer writeLater_;
  bool dirty_ = false;
  std::map<std::string, ReferencePicture> pictures_;
  std::map<std::string, MapPicture> maps_;
  std::map<std::string, std::string> placedKeys_, mapKeys_;  ///< what was last asked for
  std::vector<ProofInfo> proofs_;
  std::map<std::int64_t, QImage> proofImages_, thumbnails_;
  std::map<std::string, QImage> misses_;
  StandinEngine engine_;
  bool pulling_ = false;
  std::shared_ptr<WorkerCaches> caches_;
  std::unique_ptr<LatestWorker> worker_;
  std::jthread puller_;
};

}  // namespace hscaffold::app
