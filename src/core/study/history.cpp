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

/// `value`, or what is like it already.
template <typename T>
std::shared_ptr<const T> shared(T&& value, const std::shared_ptr<const T>& like) {
  if (like != nullptr && *like == value) return like;
  return std::make_shared<const T>(std::move(value));
}

template <typename T>
std::vector<std::shared_ptr<const T>> shared(std::vector<T>&& values,
                                             const std::vector<std::shared_ptr<const T>>* like) {
  std::vector<std::shared_ptr<const T>> out;
  out.reserve(values.size());
  for (T& value : values) {
    // By place, and where something was put in or taken out before it, wherever it is.
    std::shared_ptr<const T> near;
    if (like != nullptr && out.size() < like->size() && (*like)[out.size()]->id == value.id) {
      near = (*like)[out.size()];
    } else if (like != nullptr) {
      const auto found =
          std::find_if(like->begin(), like->end(), [&](const auto& each) { return each->id == value.id; });
      if (found != like->end()) near = *found;
    }
    out.push_back(shared(std::move(value), near));
  }
  values.clear();
  return out;
}

template <typename T>
std::vector<T> copied(const std::vector<std::shared_ptr<const T>>& shared) {
  std::vector<T> out;
  out.reserve(shared.size());
  for (const auto& each : shared) out.push_back(*each);
  return out;
}

}  // namespace

HistorySteps::Folded HistorySteps::folded(Step step, const Folded* below) {
  Folded out;
  StudyState& s = step.state;
  out.name = std::move(step.name);
  out.guides = shared(std::move(s.guides), below != nullptr ? &below->guides : nullptr);
  out.references = shared(std::move(s.references), below != nullptr ? &below->references : nullptr);
  out.finals = shared(std::move(s.finals), below != nullptr ? &below->finals : nullptr);
  const auto fold = [&](auto& part, auto Folded::*place) {
    out.*place = shared(std::exchange(part, {}), below != nullptr ? below->*place : nullptr);
  };
  fold(s.brief, &Folded::brief);
  fold(s.otherSet, &Folded::otherSet);
  fold(s.scene, &Folded::scene);
  fold(s.discarded, &Folded::discarded);
  fold(s.kept, &Folded::kept);
  out.rest = std::move(s);
  return out;
}

HistorySteps::Step HistorySteps::unfolded(Folded step) {
  Step out{std::move(step.name), std::move(step.rest)};
  StudyState& s = out.state;
  s.guides = copied(step.guides);
  s.references = copied(step.references);
  s.finals = copied(step.finals);
  s.brief = *step.brief;
  s.otherSet = *step.otherSet;
  s.scene = *step.scene;
  s.discarded = *step.discarded;
  s.kept = *step.kept;
  return out;
}

void HistorySteps::push(Step step) {
  if (top_) below_.push_back(folded(std::move(*top_), below_.empty() ? nullptr : &below_.back()));
  top_ = std::move(step);
}

HistorySteps::Step HistorySteps::pop() {
  Step out = std::move(*top_);
  top_.reset();
  if (!below_.empty()) {
    top_ = unfolded(std::move(below_.back()));
    below_.pop_back();
  }
  return out;
}

void HistorySteps::dropOldest() {
  if (below_.empty())
    top_.reset();
  else
    below_.erase(below_.begin());
}

void HistorySteps::each(const std::function<void(StudyState&)>& change) {
  for (std::size_t i = 0; i < below_.size(); ++i) {
    Step step = unfolded(std::move(below_[i]));
    change(step.state);
    below_[i] = folded(std::move(step), i > 0 ? &below_[i - 1] : nullptr);
  }
  if (top_) change(top_->state);
}

void StudyHistory::forgetStep() {
  undo_.pop();
  redo_ = std::exchange(redoBeforeMerge_, {});
}

void StudyHistory::keepStep(bool changed) {
  if (!changed)
    forgetStep();
  else if (undo_.size() > mostSteps_)
    undo_.dropOldest();
}

Changes StudyHistory::change(const std::string& name, const std::function<void(StudyState&)>& edit,
                             const std::string& merge) {
  const bool goesOn = !merge.empty() && merge == merge_ && !undo_.empty();
  if (!goesOn) {
    seal();
    undo_.push({name, state_});
    ++copies_;
    redoBeforeMerge_ = std::exchange(redo_, {});
    merge_ = merge;
    merged_ = {};
  }
  try {
    applyTo(state_, edit);
  } catch (...) {
    // Half a change is none.
    state_ = undo_.top().state;
    forgetStep();
    merge_.clear();
    throw;
  }
  const Changes now = changesBetween(undo_.top().state, state_);
  const Changes changes = joined(now, merged_);
  merged_ = now;
  if (merge.empty()) keepStep(changes.settings());
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
  for (HistorySteps* steps : {&undo_, &redo_}) steps->each([&](StudyState& state) { applyTo(state, edit); });
  return changes;
}

void StudyHistory::seal() {
  if (std::exchange(merge_, {}).empty() || undo_.empty()) return;
  keepStep(changesBetween(undo_.top().state, state_).settings());
}

Changes StudyHistory::swapWith(HistorySteps& from, HistorySteps& to) {
  if (from.empty()) return {};
  HistorySteps::Step step = from.pop();
  StudyState before = std::exchange(state_, std::move(step.state));
  // Ids are never used twice, not even those of undone actions.
  state_.nextId = std::max(state_.nextId, before.nextId);
  // What is looked at stays; where that is gone, it is what was looked at then.
  const Looking then = std::exchange(state_.looking, before.looking);
  if (state_.selectedGuide() == nullptr) state_.looking.guide = then.guide;
  if (state_.selectedReference() == nullptr) state_.looking.reference = then.reference;
  state_.lookAtWhatIsThere();
  const Changes changes = changesBetween(before, state_);
  to.push({std::move(step.name), std::move(before)});
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
