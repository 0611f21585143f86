/// The registry of guide kinds. Everything above the kinds (study, command line, panels) knows them only through here.
#pragma once

#include <span>
#include <string>
#include <vector>

#include "core/digest.h"
#include "core/guides/kind.h"

namespace hscaffold {

std::span<const Kind> kinds();
/// @throws Problem (badInput) if there is none of that id.
const Kind& kindOf(const std::string& id);

/// Whether the guide stands on its settings or on hand work of its own, and needs no reference.
bool standsAlone(const Guide& guide);
bool standsAlone(const Kind& kind, const Guide& guide);

/// The map as PNG: in colour where it has colours, 16 bits where the kind has half tones, else 8.
/// @param narrow  8 bits also for half tones.
std::vector<std::byte> encodeMap(const Kind& kind, View<std::uint16_t> map, View<Rgb8> colour = {},
                                 bool narrow = false);
/// The format of that ending. Null: there is none, and PNG is meant.
const MapExport* exportFor(const Kind& kind, const std::string& fileName);
/// How much of a guide's layout is in a proof, its misses in the proof's own pixels; empty where the kind has no
/// measure.
std::optional<Holding> holdingOf(const Kind& kind, const GuideInput& input, const ProofSeen& proof,
                                 StopToken stop = {});

}  // namespace hscaffold
