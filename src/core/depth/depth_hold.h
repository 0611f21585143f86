/// Hold of depth: whether a proof keeps the steps and the order of a depth map, from the proof's pixels alone.
#pragma once

#include "core/guides/kind.h"
#include "core/measure/proof_seen.h"

namespace hscaffold::depth {

/// Where depth leaps: 65535 on one-pixel lines, else 0. Slopes are no leaps.
Map stepsOf(View<std::uint16_t> map);

/// Two parts. Steps: the proof must have a border where the map leaps, and about where something stands out softly
/// before the land (boundary recall, Martin et al. 2004, chance removed as for line maps). Order: the proof's own
/// depth, read by the cues of `depth.h`, must put pairs of points in the map's order, more often than the same reading
/// turned left to right does. A map without leaps and outlines is judged by order alone. Misses are those without a
/// border.
/// @throws Cancelled
Holding depthHolding(View<std::uint16_t> map, const ProofSeen& proof, StopToken stop = {});

}  // namespace hscaffold::depth
