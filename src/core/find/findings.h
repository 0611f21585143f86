/// What Find has found, in proposals, curves and sentences.
#pragma once

#include <span>
#include <string>

#include "core/sheet/find_plan.h"

namespace hscaffold {

/// What one setting does, over all that the others may be.
struct Effect {
  std::size_t setting = 0;      ///< of the plan's
  std::vector<int> values;      ///< of its axis
  std::vector<Outcome> mean;    ///< by value
  std::vector<Outcome> spread;  ///< how unsure that is, one standard deviation
  std::string sentence;
};

struct Proposal {
  std::size_t tried = 0;
  std::string sentence;  ///< what speaks for it
};

struct Findings {
  std::string verdict;              ///< whether the goals are met, else by how much not and which of them costs most
  std::vector<Proposal> proposals;  ///< one to three, the best first; none if nothing was tried
  std::vector<std::size_t> line;    ///< the best trade-offs between mean hold and shift, by rising shift
  std::vector<Effect> effects;      ///< by setting; none from fewer than four choices
};

Findings findingsOf(const FindPlan& plan, std::span<const Tried> tried);

}  // namespace hscaffold
