/// From what cues say cell by cell to one depth: sparse least squares over cells and their borders, which keep apart
/// what differs in colour (affinities after Levin et al. 2004). Hints act on top of that: they move the first depth,
/// and what they move spreads over what they lie on, at several scales. Without hints nothing is moved, to the bit.
#pragma once

#include <memory>
#include <span>

#include "core/depth/cues/cue.h"

namespace hscaffold::depth {

/// What hints come to on cells. Cells that do not exist are not allowed.
struct Constraints {
  /// The cell is that near; `share` of it was marked, [0, 1]. Soft: other hints have the last word.
  struct Level {
    int cell = 0;
    float near = 0, share = 1;
    bool soft = false;
  };
  /// All of these are one depth; which, follows from the rest.
  struct Same {
    std::vector<int> cells;
  };
  /// One is nearer than the other by at least this much.
  struct Before {
    int front = 0, behind = 0;
    float by = 0.08f;
  };
  /// All of these lie on one plane, linear over the picture.
  struct Plane {
    std::vector<int> cells;
  };
  /// Nothing spreads between these and all others.
  struct Cut {
    std::vector<int> cells;
  };
  std::vector<Level> levels;
  std::vector<Same> same;
  std::vector<Before> before;
  std::vector<Plane> planes;
  std::vector<Cut> cuts;
  [[nodiscard]] bool empty() const {
    return levels.empty() && same.empty() && before.empty() && planes.empty() && cuts.empty();
  }
};

struct Solution {
  std::vector<float> near;  ///< one a cell, [0, 1]: 1 nearest
  std::vector<float> sure;  ///< one a cell, [0, 1]
};

/// What all cues come to, without hints. @throws Cancelled
Solution firstSolution(const Seen& seen, const Guess& guess, StopToken stop = {});
/// `first`, moved by hints. Equal to `first` if there are none. @throws Cancelled
Solution withHints(const Seen& seen, const Solution& first, const Constraints& hints, StopToken stop = {});

/// Up to `most` cells where a hint would help most: in pieces that are large and unsure, the worst first.
std::vector<int> leastSure(const Seen& seen, const Solution& solution, int most);

}  // namespace hscaffold::depth
