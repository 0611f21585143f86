/// What small proofs of each engine are worth: one cell of a small strip is pulled at full size as well, the first time
/// with an engine that may compose anew at each size, and what carries over is remembered.
#pragma once

#include <QObject>
#include <map>
#include <optional>

#include "core/engine/registry.h"
#include "core/sheet/size_trial.h"

namespace hscaffold::app {

class ProofShelf;
class PullQueue;
class StudyDocument;
class TaskRunner;

class SizeTrials : public QObject {
  Q_OBJECT
 public:
  SizeTrials(StudyDocument& document, ProofShelf& shelf, PullQueue& queue, TaskRunner& tasks,
             const EngineRegistry& engines, QObject* parent = nullptr);

  /// Whether it is not known what small proofs of the study's engine are worth.
  [[nodiscard]] bool wanted() const;
  /// Pulls a cell from the middle of a small sheet at the study's size, too, and compares both as soon as they are
  /// there.
  void begin(std::int64_t sheet);
  /// Of the engine that pulled a sheet at less than the study's size: what its numbers are worth. Empty where they hold
  /// as they are, or nothing is known.
  [[nodiscard]] QString about(std::int64_t sheet) const;
  /// Whether a trial of that sheet would tell something that is not known.
  [[nodiscard]] bool wantedFor(std::int64_t sheet) const;

 signals:
  void changed();

 private:
  struct Pending {
    std::int64_t sheet = 0;
    int cell = 0;
    std::string engine;      ///< id
    std::int64_t after = 0;  ///< proofs that were there before have lower numbers
    bool comparing = false;
  };
  [[nodiscard]] std::shared_ptr<const EngineInfo> engineOf(std::int64_t sheet) const;
  [[nodiscard]] static std::optional<SizeTrial> known(const std::string& engine);
  void look();

  StudyDocument& document_;
  ProofShelf& shelf_;
  PullQueue& queue_;
  TaskRunner& tasks_;
  const EngineRegistry& engines_;
  std::optional<Pending> pending_;
};

}  // namespace hscaffold::app
