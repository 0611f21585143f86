/// Whether what small proofs of an engine say holds for large ones: one proof at both sizes, compared.
#pragma once

#include <optional>
#include <string>

#include "core/measure/proof_seen.h"
#include "core/problem.h"

namespace hscaffold {

struct SizeTrial {
  double tone = 0;                          ///< correlation of lightness at 64 px on the longer side, [-1, 1]
  double holdSmall = -1, holdLarge = -1;    ///< [0, 100], mean over the guides; below 0: not measured
  double shiftSmall = -1, shiftLarge = -1;  ///< the same of the look
};
/// @throws Cancelled
double toneAlike(const ProofSeen& a, const ProofSeen& b, StopToken stop = {});

/// What can be taken over from small proofs.
enum class CarriesOver {
  all,       ///< the same picture: numbers and all
  measures,  ///< another picture that holds and moves alike
  nothing    ///< not even the measures: only the settings can be tried at full size
};
CarriesOver carriesOver(const SizeTrial& trial);
/// "A small proof of this engine is the large one seen small (tone agrees 0.97, hold 71 and 74): ..."
std::string sentenceOf(const SizeTrial& trial);

}  // namespace hscaffold
