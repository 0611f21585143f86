/// What is wrong or doubtful before a pull, in plain words, each with its fix where there is one.
#pragma once

#include <functional>
#include <map>
#include <optional>
#include <span>
#include <string>
#include <vector>

#include "core/engine/engine.h"
#include "core/guides/kind.h"
#include "core/measure/agreement.h"
#include "core/study/study.h"

namespace hscaffold {

struct Check {
  std::string id;     ///< "no-guide", "few-edges", ...; with the guide's or reference's id behind a colon
  std::string brief;  ///< two or three words for the top strip
  Severity severity = Severity::doubt;
  std::string sentence;  ///< says what is so and what to do
  std::string fixName;   ///< for the button; empty if there is nothing to do at once
  std::function<void(StudyState&)> fix;
  std::string otherName = {};  ///< where there are two ways out
  std::function<void(StudyState&)> other = {};
  std::optional<MissedPlace> place = {};  ///< where in the frame it is so
};

/// What all kinds are asked, then what each kind checks of its own guides.
/// @param facts  of the guides' maps, by guide, as far as they have been made.
/// @param pairs  remembers which maps contradict each other.
/// @param engine  what is to make the proofs, where that is known.
/// @param proofs  that were pulled in the study: they show what hinders what.
/// @return worst first.
std::vector<Check> checksOf(const StudyState& state, const std::map<std::string, MapFacts>& facts, MapPairs& pairs,
                            const EngineInfo* engine = nullptr, std::span<const ProofInfo> proofs = {});
std::vector<Check> checksOf(const StudyState& state, const std::map<std::string, MapFacts>& facts);

}  // namespace hscaffold
