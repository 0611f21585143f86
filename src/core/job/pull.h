/// A job pulled, and its proof measured.
#pragma once

#include <map>
#include <optional>
#include <string>

#include "core/engine/engine.h"
#include "core/measure/proof_seen.h"
#include "core/measure/shift.h"
#include "core/study/study.h"

namespace hscaffold {

/// One proof made and measured, as it will be kept.
struct FinishedProof {
  ProofInfo info;
  Image<Rgb8> picture;
  Bytes png, thumbnail;
};
/// @param reference  from which shift is measured; null: it is not measured. @throws Cancelled, Problem
FinishedProof pullProof(Engine& engine, EngineJob job, const ShiftGround* reference, const EngineSink& sink,
                        StopToken stop);

/// Hold and its means by guide id, and shift, of any picture of the recipe's frame.
struct ProofMeasures {
  std::map<std::string, double> holds;
  std::map<std::string, std::string> means;  ///< by which the hold was told, for kinds that have several
  std::optional<double> shift;
};
/// @throws Cancelled
ProofMeasures measuresOf(const EngineJob& job, const ShiftGround* reference, const ProofSeen& proof,
                         StopToken stop = {});

/// Now, as files have it: ISO 8601, UTC.
std::string timeNow();

}  // namespace hscaffold
