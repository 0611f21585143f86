/// Undo and redo over the settings of a study.
#pragma once

#include <string>
#include <vector>

#include "core/study/study.h"

namespace hscaffold {

class StudyHistory {
 public:
  explicit StudyHistory(StudyState state = {}) : state_(std::move(state)) {}

  [[nodiscard]] const StudyState& state() const { return state_; }
  /// Makes `next` the state. Changes of the same non-empty `merge` key that follow each other become one step.
  /// @return false if nothing changed.
  bool change(const std::string& name, StudyState next, const std::string& merge = {});
  /// A state that undo does not see: selections, which proof is shown.
  void changeQuietly(StudyState next) { state_ = std::move(next); }
  /// The next change starts a step of its own, whatever its merge key (a drag ended).
  void seal() { merge_.clear(); }

  [[nodiscard]] bool canUndo() const { return !undo_.empty(); }
  [[nodiscard]] bool canRedo() const { return !redo_.empty(); }
  [[nodiscard]] std::string undoName() const { return undo_.empty() ? std::string() : undo_.back().name; }
  [[nodiscard]] std::string redoName() const { return redo_.empty() ? std::string() : redo_.back().name; }
  bool undo();
  bool redo();

 private:
  struct Step {
    std::string name;
    StudyState state;  ///< before the change (undo) or after it (redo)
  };
  static constexpr std::size_t mostSteps_ = 500;
  StudyState state_;
  std::vector<Step> undo_, redo_;
  std::string merge_;
};

}  // namespace hscaffold
