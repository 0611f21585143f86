/// Undo and redo over the settings of a study. What is looked at (`Looking`) is never moved by them.
#pragma once

#include <functional>
#include <memory>
#include <optional>
#include <string>
#include <vector>

#include "core/study/study.h"

namespace hscaffold {

/// Steps that can be taken back. What a state has like the one below it (guides, references, the stage, ...) is kept
/// once for both, so a thousand steps of a large study take little more than what they changed.
class HistorySteps {
 public:
  struct Step {
    std::string name;
    StudyState state;  ///< before the change (undo) or after it (redo)
  };
  [[nodiscard]] bool empty() const { return !top_; }
  [[nodiscard]] std::size_t size() const { return below_.size() + (top_ ? 1 : 0); }
  [[nodiscard]] const Step& top() const { return *top_; }
  void push(Step step);
  Step pop();
  void dropOldest();
  /// Changes every state.
  void each(const std::function<void(StudyState&)>& change);

 private:
  /// A state, of which what is listed here is taken out and may be shared.
  struct Folded {
    std::string name;
    StudyState rest;
    std::vector<std::shared_ptr<const Guide>> guides;
    std::vector<std::shared_ptr<const Reference>> references;
    std::vector<std::shared_ptr<const Final>> finals;
    std::shared_ptr<const Brief> brief;
    std::shared_ptr<const std::optional<PullSet>> otherSet;
    std::shared_ptr<const std::string> scene;
    std::shared_ptr<const std::vector<std::int64_t>> discarded, kept;
  };
  static Folded folded(Step step, const Folded* below);
  static Step unfolded(Folded step);
  std::vector<Folded> below_;
  std::optional<Step> top_;
};

class StudyHistory {
 public:
  explicit StudyHistory(StudyState state = {}) : state_(std::move(state)) {}

  [[nodiscard]] const StudyState& state() const { return state_; }
  /// Changes the state in place. Changes of the same non-empty `merge` key that follow each other become one step: the
  /// state is copied when the first of them begins and compared when they end, however many there are between.
  /// @return what is different now from before this change; for merged ones from before the first of them, with what
  /// was different in between: a value that was dragged away and back is shown again as it is. What `edit` throws goes
  /// on to the caller: the state is then as it was before the change, or before the first of those that were merged,
  /// and no step is left.
  Changes change(const std::string& name, const std::function<void(StudyState&)>& edit, const std::string& merge = {});
  /// Part of the state that is there: no step of its own.
  Changes changeQuietly(const std::function<void(StudyState&)>& edit);
  /// The same in every state that undo and redo know: what was made meanwhile (a picture that took its time) is there
  /// whatever is taken back. `edit` finds for itself whether a state has what it is about.
  Changes changeAlways(const std::function<void(StudyState&)>& edit);
  /// What undo does not see: selections, which proof is shown.
  /// @return whether anything is different
  bool look(const std::function<void(Looking&)>& edit);
  /// The next change starts a step of its own, whatever its merge key (a drag ended). A step that changed nothing in
  /// the end is none.
  void seal();

  [[nodiscard]] bool canUndo() const { return !undo_.empty(); }
  [[nodiscard]] bool canRedo() const { return !redo_.empty(); }
  [[nodiscard]] std::string undoName() const { return undo_.empty() ? std::string() : undo_.top().name; }
  [[nodiscard]] std::string redoName() const { return redo_.empty() ? std::string() : redo_.top().name; }
  /// @return what is different; nothing if there was no step.
  Changes undo();
  Changes redo();

  /// How often the whole state was copied so far.
  [[nodiscard]] std::size_t copies() const { return copies_; }

 private:
  Changes swapWith(HistorySteps& from, HistorySteps& to);
  /// The step that was begun last is none.
  void forgetStep();
  /// A step that is whole stays, or is none if it changed nothing in the end.
  void keepStep(bool changed);
  static constexpr std::size_t mostSteps_ = 1000;
  StudyState state_;
  HistorySteps undo_, redo_;
  HistorySteps redoBeforeMerge_;  ///< comes back if the merged changes come to nothing
  std::string merge_;
  Changes merged_;  ///< what the merged changes were said to be so far
  std::size_t copies_ = 0;
};

}  // namespace hscaffold
