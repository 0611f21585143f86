#include "core/study/history.h"

namespace hscaffold {

bool StudyHistory::change(const std::string& name, StudyState next, const std::string& merge) {
  if (next == state_) return false;
  if (merge.empty() || merge != merge_ || undo_.empty()) {
    undo_.push_back({name, state_});
    if (undo_.size() > mostSteps_) undo_.erase(undo_.begin());
  }
  merge_ = merge;
  redo_.clear();
  state_ = std::move(next);
  return true;
}

bool StudyHistory::undo() {
  if (undo_.empty()) return false;
  Step step = std::move(undo_.back());
  undo_.pop_back();
  redo_.push_back({step.name, std::move(state_)});
  // Ids are never used twice, not even those of undone actions.
  step.state.nextId = std::max(step.state.nextId, redo_.back().state.nextId);
  state_ = std::move(step.state);
  merge_.clear();
  return true;
}

bool StudyHistory::redo() {
  if (redo_.empty()) return false;
  Step step = std::move(redo_.back());
  redo_.pop_back();
  undo_.push_back({step.name, std::move(state_)});
  state_ = std::move(step.state);
  merge_.clear();
  return true;
}

}  // namespace hscaffold
