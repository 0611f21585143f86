/// Where Find looks next: measured choices only, nothing of what an engine does inside. A few well-spread choices come
/// first (Latin hypercube; McKay, Beckman and Conover 1979), then those where most is to be gained: the expectation of
/// what a choice gains over the best one so far, under a Gaussian process for every hold and for the shift (expected
/// improvement, Jones, Schonlau and Welch 1998, of a composite of guesses, Astudillo and Frazier 2019).
#pragma once

#include <span>

#include "core/sheet/find_plan.h"

namespace hscaffold {

/// Of a first round: more settings ask for more.
int firstChoices(const FindPlan& plan);

/// Up to `count` choices to be tried next, none of them tried before. Empty when the budget is used up, or nothing that
/// is worth a proof is to be gained any more. The same plan and results give the same choices.
/// @param pending  choices that are being tried. @throws Cancelled
std::vector<Choice> nextChoices(const FindPlan& plan, std::span<const Tried> tried, int count,
                                std::span<const Choice> pending = {}, StopToken stop = {});

/// What was tried, from the outcomes of a sheet's cells; choices of which no proof is measured are left out.
std::vector<Tried> triedIn(const FindPlan& plan, const std::map<int, Outcome>& cells);

/// What is guessed of any choice from those that were tried.
class Guessed {
 public:
  /// @param tried  not empty.
  Guessed(const FindPlan& plan, std::span<const Tried> tried);
  ~Guessed();
  /// @return mean and deviation of every hold and of the shift
  [[nodiscard]] std::pair<Outcome, Outcome> at(const Choice& choice) const;

 private:
  struct Parts;
  std::unique_ptr<const Parts> parts_;
};

/// The one with the most merit. @param tried  not empty.
std::size_t bestOf(const FindPlan& plan, std::span<const Tried> tried);

}  // namespace hscaffold
