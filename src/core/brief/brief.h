/// The brief: what to make, in words and numbers.
#pragma once

#include <cstdint>
#include <nlohmann/json.hpp>
#include <string>

namespace hscaffold {

inline constexpr int fewestSteps = 4, mostSteps = 100;
inline constexpr double largestGuidance = 20;
inline constexpr std::size_t longestPrompt = 4000;  ///< characters (bytes of UTF-8)

struct Brief {
  std::string prompt;
  std::string avoid;
  std::uint32_t seed = 1;
  bool seedLocked = true;  ///< otherwise every pull throws a new seed
  int steps = 20;          ///< [4, 100]
  double guidance = 6.5;   ///< how hard the prompt is obeyed, [0, 20]
  nlohmann::json extra = nlohmann::json::object();
  friend bool operator==(const Brief&, const Brief&) = default;
};

}  // namespace hscaffold
