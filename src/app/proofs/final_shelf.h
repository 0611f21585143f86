/// The finals of the open study: pulling them and their touch-ups, one after the other, and how they look.
#pragma once

#include <QImage>
#include <QObject>
#include <QTimer>
#include <deque>

#include "core/engine/registry.h"
#include "core/finish/final_maps.h"
#include "core/finish/touch_up.h"
#include "core/recently_used.h"
#include "core/study/changes.h"

namespace hscaffold::app {

class MapRoom;
class ProofShelf;
class StudyDocument;
class TaskRunner;

/// A final that is wanted.
struct FinalWish {
  std::int64_t proof = 0;
  Size size;
  double change = limits::finalChange.usual;
  bool enlarged = false;  ///< without an engine
  /// Whose touch-ups come along, by id; empty: none.
  std::string from = {};
};

/// What is made or waits: a final, or a try of a touch-up.
struct FinalWork {
  std::int64_t id = 0;
  std::string final, touchUp;  ///< without a touch-up the final itself
  std::uint32_t seed = 0;
  std::int64_t batch = 0;  ///< tries asked for together have the same
  std::string after;       ///< the picture of the first of those that is there
  bool running = false;
  int step = 0, steps = 0;
  int tile = 0, tiles = 1;  ///< those that are there
  TilePlan plan;
  QImage preview;  ///< of the whole, or of the touch-up's box
  QImage partial;  ///< of a final: the tiles that are there, small
};

class FinalShelf : public QObject {
  Q_OBJECT
 public:
  FinalShelf(StudyDocument& document, MapRoom& maps, ProofShelf& proofs, TaskRunner& tasks,
             const EngineRegistry& engines, QObject* parent = nullptr);

  /// @throws Problem (badInput) if it cannot be made
  [[nodiscard]] FinalPlan planOf(const FinalWish& wish) const;
  [[nodiscard]] FinalNeeds needs(const FinalWish& wish) const;
  /// Puts a final into the study, shows it and begins to pull it. @return its id; empty if it could not be begun,
  /// which is said
  std::string begin(const FinalWish& wish);
  /// One that was left in the middle: tiles that are there are not made again.
  void goOn(const std::string& final);
  /// So many tries of a touch-up, each with another seed.
  void pullTries(const std::string& final, const std::string& touchUp, int count);
  /// Ends what runs and forgets what waits. What is there of a final stays.
  void stop();

  [[nodiscard]] const std::deque<FinalWork>& works() const { return works_; }
  /// What runs or waits for a final itself (without `touchUp`), or for a touch-up of it; null if nothing does.
  [[nodiscard]] const FinalWork* workFor(const std::string& final, const std::string& touchUp = {}) const;

  /// The shown final with its touch-ups; null while it is being made or where there is none.
  [[nodiscard]] const QImage& picture() const { return shown_.picture; }
  /// The same without any touch-up.
  [[nodiscard]] const QImage& base() const { return shown_.base; }
  /// Small: before the first touch-up, and after each of them.
  [[nodiscard]] const std::vector<QImage>& stages() const { return shown_.stages; }
  /// Which state of the final `picture` shows.
  [[nodiscard]] const Final& pictured() const { return shown_.of; }
  /// A picture of the study, at most `longest` on its longer side; null while it is being brought.
  [[nodiscard]] QImage small(const std::string& content);
  static constexpr int longestSmall = 320;

  /// What it is made from. @throws Problem where the study does not know
  [[nodiscard]] Recipe recipeOf(const Final& final) const;
  /// Makes all its maps at its size, on any thread. @throws Problem
  [[nodiscard]] std::function<FinalMaps(const StopToken&)> mapMaker(const Final& final) const;
  /// Decoded pictures by content, for any thread.
  [[nodiscard]] ShownPictures shownPictures() const;

 signals:
  void changed();         ///< what runs and waits
  void progressed();      ///< a step or a tile of what runs
  void pictureChanged();  ///< of the shown final
  void smallChanged();
  void problem(const QString& sentence);
  void notice(const QString& sentence);

 private:
  struct Shown {
    Final of;
    QImage picture, base;
    std::vector<QImage> stages;
  };
  struct FinalOutcome;
  struct TryOutcome;
  void follow(const Changes& changes);
  void compose();
  /// Makes the maps that tries of the chosen touch-up will be cut from, while the artist still draws.
  void prepareMaps();
  void next();
  [[nodiscard]] EngineSink sinkFor(std::int64_t id, const StopToken& stop);
  void startFinal(FinalWork& work);
  void startTry(FinalWork& work);
  void take(std::int64_t id, FinalOutcome outcome);
  void take(std::int64_t id, TryOutcome outcome);
  void remove(std::int64_t id);
  void fail(std::int64_t id, const QString& sentence);
  [[nodiscard]] FinalWork* held(std::int64_t id);
  /// @throws Problem
  [[nodiscard]] std::shared_ptr<Engine> engine() const;

  StudyDocument& document_;
  MapRoom& maps_;
  ProofShelf& proofs_;
  TaskRunner& tasks_;
  const EngineRegistry& engines_;
  std::shared_ptr<MadeMaps> made_;
  using Decoded = RecentlyUsed<std::string, Image<Rgb8>>;
  std::shared_ptr<Decoded> decoded_;
  RecentlyUsed<std::string, QImage> small_;
  std::set<std::string> asked_;
  std::deque<FinalWork> works_;
  std::int64_t lastId_ = 0;
  Shown shown_;
  QTimer prepareLater_;
  std::string prepared_;  ///< for which touch-up and detail
};

}  // namespace hscaffold::app
