/// Shift: how far colour, texture and contrast of a proof moved from the reference, from the pixels of both.
#pragma once

#include <memory>

#include "core/image/image.h"
#include "core/measure/proof_seen.h"
#include "core/problem.h"

namespace hscaffold {

struct Shift {
  double colour = 0;   ///< mean distance of the colours' distribution, CIELAB units
  double texture = 0;  ///< the same of oriented detail, at three scales and four directions, in natural logarithms
  double total = 0;    ///< [0, 100]: 0 for the same picture, about 60 for another medium in other colours
};

/// Where shift is measured from: what is to be known of one reference, for any number of proofs. May be used by several
/// threads.
class ShiftGround {
 public:
  /// @throws Cancelled
  explicit ShiftGround(const ProofSeen& reference, StopToken stop = {});
  ~ShiftGround();
  struct Distributions;
  [[nodiscard]] const Distributions& distributions() const { return *distributions_; }

 private:
  std::unique_ptr<const Distributions> distributions_;
};

/// Sliced Wasserstein distances (Rabin et al. 2011) of colours, and of the responses of oriented filters (Freeman and
/// Adelson 1991). Both pictures are looked at from one distance: at most 384 pixels on the longer side. Where things
/// are in the picture does not count, so it can be called on pictures of any two sizes.
/// @throws Cancelled
Shift shiftBetween(const ShiftGround& reference, const ProofSeen& proof, StopToken stop = {});
Shift shiftBetween(const ProofSeen& reference, const ProofSeen& proof, StopToken stop = {});

}  // namespace hscaffold
