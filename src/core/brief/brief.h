/// The brief: what to make, in words and numbers.
#pragma once

#include <cstdint>
#include <string>

#include "core/text.h"

namespace hscaffold {

inline constexpr int fewestSteps = 4, mostSteps = 100;
inline constexpr double largestGuidance = 20;

struct Brief {
  std::string prompt;  ///< UTF-8, up to `longestPrompt` characters; `avoid` too
  std::string avoid;
  std::uint32_t seed = 1;
  bool seedLocked = true;  ///< otherwise every pull throws a new seed
  int steps = 20;          ///< [4, 100]
  double guidance = 6.5;   ///< how hard the prompt is obeyed, [0, 20]
  std::string extra;       ///< fields of newer versions, as JSON; empty: none
  friend bool operator==(const Brief&, const Brief&) = default;
};

}  // namespace hscaffold
