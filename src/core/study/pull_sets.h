/// The two sets "rough" and "final" of a study: what for looking is cheap, and what is kept is dear.
#pragma once

#include "core/study/study.h"

namespace hscaffold {

/// Longer side of rough proofs, in pixels, where nobody chose one.
inline constexpr int usualRough = 512;

/// The set in use, or the other one.
PullSet pullSet(const StudyState& state, bool rough);
void setPullSet(StudyState& state, bool rough, const PullSet& set);
/// Changes over to the other set: what was in use is kept as it is. The first time, rough proofs are small, and final
/// ones of the frame's size; all else stays.
void changeOver(StudyState& state);
/// The recipe that a pull now would have, at the size of the set in use; a small proof is the large one seen small.
Recipe pullRecipeOf(const StudyState& state);
/// A recipe at the size of the set in use.
Recipe atPullSize(const StudyState& state, Recipe recipe);

}  // namespace hscaffold
