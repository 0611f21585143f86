/// What differs between two recipes, in words and numbers.
#pragma once

#include <string>
#include <vector>

#include "core/brief/recipe.h"

namespace hscaffold {

struct Difference {
  std::string what;           ///< "Kite flyer, weight"
  std::string first, second;  ///< how it is in either
  friend bool operator==(const Difference&, const Difference&) = default;
};

/// Everything that is not the same, the frame and the guides first, then the brief; empty for equal recipes. The engine
/// counts, digests and file names do not. Guides are the same by id.
std::vector<Difference> differences(const Recipe& first, const Recipe& second);

}  // namespace hscaffold
