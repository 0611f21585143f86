#include "core/study/pull_sets.h"

#include <utility>

#include "core/sheet/sheet.h"

namespace hscaffold {

PullSet pullSet(const StudyState& state, bool rough) {
  if (rough == state.rough) return {state.engine, state.family, state.longest, state.brief.steps};
  if (state.otherSet) return *state.otherSet;
  PullSet other = pullSet(state, state.rough);
  other.longest = rough ? usualRough : 0;
  return other;
}

void setPullSet(StudyState& state, bool rough, const PullSet& set) {
  if (rough != state.rough) {
    state.otherSet = set;
    return;
  }
  state.engine = set.engine;
  state.family = set.family;
  state.longest = set.longest;
  state.brief.steps = set.steps;
}

void changeOver(StudyState& state) {
  const PullSet now = pullSet(state, state.rough), next = pullSet(state, !state.rough);
  state.rough = !state.rough;
  state.otherSet = now;
  setPullSet(state, state.rough, next);
}

Recipe atPullSize(const StudyState& state, Recipe recipe) {
  if (state.longest <= 0) return recipe;
  const Size small = smallSize(recipe.mapsSize(), state.longest, state.sizeStep);
  return small == recipe.mapsSize() ? recipe : atSize(std::move(recipe), small);
}

Recipe pullRecipeOf(const StudyState& state) { return atPullSize(state, recipeOf(state)); }

}  // namespace hscaffold
