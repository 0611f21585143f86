#include "core/study/history.h"

#include <algorithm>
#include <utility>

namespace hscaffold {
namespace {

/// Emphasis stays on its words, whoever edits the prompt.
void applyTo(StudyState& state, const std::function<void(StudyState&)>& edit) {
  const std::string prompt = state.brief.prompt;
  const std::vector<Emphasis> emphasis = state.brief.emphasis;
  edit(state);
  if (state.brief.prompt != prompt && state.brief.emphasis == emphasis)
    state.brief.emphasis = followed(emphasis, prompt, state.brief.prompt);
  keepWithinLimits(state);
}

}  // namespace

Changes StudyHistory::change(const std::string& name, const std::function<void(StudyState&)>& edit,
                             const std::string& merge) {
  const bool goesOn = !merge.empty() && merge == merge_ && !undo_.empty();
  if (!goesOn) {
    seal();
    undo_.push_back({name, state_});
    ++copies_;
    redoBeforeMerge_ = std::exchange(redo_, {});
    merge_ = merge;
    merged_ = {};
  }
  try {
    applyTo(state_, edit);
  } catch (...) {
    // Half a change is none.
    state_ = std::move(undo_.back().state);
    undo_.pop_back();
    redo_ = std::exchange(redoBeforeMerge_, {});
    merge_.clear();
    throw;
  }
  const Changes now = changesBetween(undo_.back().state, state_);
  const Changes changes = joined(now, merged_);
  merged_ = now;
  if (merge.empty()) {
    if (!changes.settings()) {
      undo_.pop_back();
      redo_ = std::exchange(redoBeforeMerge_, {});
    } else if (undo_.size() > mostSteps_) {
      undo_.erase(undo_.begin());
    }
  }
  return changes;
}

bool StudyHistory::look(const std::function<void(Looking&)>& edit) {
  Looking next = state_.looking;
  edit(next);
  if (next == state_.looking) return false;
  state_.looking = std::move(next);
  return true;
}

Changes StudyHistory::changeQuietly(const std::function<void(StudyState&)>& edit) {
  seal();
  StudyState before = state_;
  ++copies_;
  try {
    applyTo(state_, edit);
  } catch (...) {
    state_ = std::move(before);
    throw;
  }
  return changesBetween(before, state_);
}

Changes StudyHistory::changeAlways(const std::function<void(StudyState&)>& edit) {
  const Changes changes = changeQuietly(edit);
  for (std::vector<Step>* steps : {&undo_, &redo_})
    for (Step& step : *steps) applyTo(step.state, edit);
  return changes;
}

void StudyHistory::seal() {
  if (std::exchange(merge_, {}).empty() || undo_.empty()) return;
  if (!changesBetween(undo_.back().state, state_).settings()) {
    undo_.pop_back();
    redo_ = std::exchange(redoBeforeMerge_, {});
  } else if (undo_.size() > mostSteps_) {
    undo_.erase(undo_.begin());
  }
}

Changes StudyHistory::swapWith(std::vector<Step>& from, std::vector<Step>& to) {
  if (from.empty()) return {};
  Step step = std::move(from.back());
  from.pop_back();
  StudyState before = std::exchange(state_, std::move(step.state));
  // Ids are never used twice, not even those of undone actions.
  state_.nextId = std::max(state_.nextId, before.nextId);
  // What is looked at stays; where that is gone, it is what was looked at then.
  const Looking then = std::exchange(state_.looking, before.looking);
  if (state_.selectedGuide() == nullptr) state_.looking.guide = then.guide;
  if (state_.selectedReference() == nullptr) state_.looking.reference = then.reference;
  state_.lookAtWhatIsThere();
  const Changes changes = changesBetween(before, state_);
  to.push_back({std::move(step.name), std::move(before)});
  return changes;
}

Changes StudyHistory::undo() {
  seal();
  return swapWith(undo_, redo_);
}

Changes StudyHistory::redo() {
  seal();
  return swapWith(redo_, undo_);
}

}  // namespace hscaffold
