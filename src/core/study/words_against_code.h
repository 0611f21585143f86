/// What proofs of a study have shown of words that keep a code from being read.
#pragma once

#include <cstdint>
#include <optional>
#include <span>
#include <string>
#include <vector>

#include "core/study/study.h"

namespace hscaffold {

/// The same code pulled with and without some words to be avoided, all else alike.
struct WordsAgainstCode {
  std::vector<std::string> words;  ///< of what the study avoids now
  double with = 0, without = 0;    ///< scan margins
  std::int64_t proofWith = 0, proofWithout = 0;
};
/// The pair of proofs that differ most, where the code scans clearly worse with words that the study avoids now;
/// nothing where no proofs say so, or no code guide is on.
std::optional<WordsAgainstCode> wordsAgainstCode(const StudyState& state, std::span<const ProofInfo> proofs);

}  // namespace hscaffold
