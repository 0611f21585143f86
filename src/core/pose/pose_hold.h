/// Hold of poses: whether a proof has bodies where the figures are, limb by limb, from the proof's pixels alone.
#pragma once

#include "core/guides/kind.h"
#include "core/measure/proof_seen.h"
#include "core/pose/figure.h"

namespace hscaffold::pose {

/// A limb is there when its strip stands out from what lies beside it on both sides, more than strips of the same size
/// do that are turned about its joint or moved aside: what is counted is the share of those that stand out less. A
/// whole body counts only as far as it stands out more than when it is put elsewhere in the picture. So a proof
/// without bodies scores near 0 whatever is painted in it, and a limb that strays by its own breadth about half.
/// Where the network that finds people is installed it looks at each figure's place, too: of whom it is sure, joints
/// count by how near they lie to where they should (object key-point similarity, COCO), either way round; of others the
/// pixels alone.
/// Limbs before the own body, and hidden ones, say nothing. Misses are limbs that are not there, `lost` names them.
/// @throws Cancelled
Holding poseHolding(const Figures& figures, const ProofSeen& proof, StopToken stop = {});

}  // namespace hscaffold::pose
