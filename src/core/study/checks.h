/// What is wrong or doubtful before a pull, in plain words, each with its fix where there is one.
#pragma once

#include <functional>
#include <span>
#include <string>
#include <vector>

#include "core/pose/pose_words.h"
#include "core/study/study.h"

namespace hscaffold {

enum class Severity { doubt, bad };

struct Check {
  std::string id;  ///< "no-guide", "few-edges", ...; with the guide's or reference's id behind a colon
  Severity severity = Severity::doubt;
  std::string sentence;  ///< says what is so and what to do
  std::string fixName;   ///< for the button; empty if there is nothing to do at once
  std::function<void(StudyState&)> fix;
};

/// What is known of a guide's map, as far as it has been made.
struct MapFacts {
  double edgeShare = -1;                  ///< share of the frame that is edge; negative if not known
  double acts = -1;                       ///< share of the frame in which the guide acts; negative if not known
  double nowHigh = 0, nowLow = 0;         ///< thresholds in force, as magnitudes
  int figures = -1;                       ///< how many are on; negative if not known
  int outside = 0;                        ///< of these, outside the frame
  std::vector<std::string> stances = {};  ///< what they do, each once
  /// Puts in what is to be known of figures. @param words  of each of them
  void tell(const pose::Figures& placed, std::span<const pose::PoseWords> words);
};

/// Worst first.
std::vector<Check> checksOf(const StudyState& state, const std::map<std::string, MapFacts>& facts);

}  // namespace hscaffold
