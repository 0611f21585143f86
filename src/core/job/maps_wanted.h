/// Maps as an engine wants them: converted on their way to it, never in the study.
#pragma once

#include <nlohmann/json_fwd.hpp>
#include <string>

#include "core/engine/engine.h"

namespace hscaffold {

/// One guide's images as they go out. @param recipeSize  of the picture
GuideInput asWanted(const Kind& kind, const GuideInput& input, const MapsWanted& maps, const Tuning& tuning,
                    Size pictureSize);
/// A whole job: lines turned over, near and far turned over, half tones in eight bits, maps of the picture's own size,
/// poses in the engine's inks (what was retouched stays as it is), and its names of kinds in the recipe.
/// @throws Problem (badInput) if the inks are none
EngineJob asWanted(const EngineJob& job, const MapsWanted& maps);

/// Fields that are as usual are left out.
nlohmann::json mapsWantedToJson(const MapsWanted& maps);
/// @throws Problem (badInput)
MapsWanted mapsWantedFromJson(const nlohmann::json& json, const std::string& where);
/// As given in words on a command line: "dark-lines", "near-dark", "8-bit", "at-frame", "edges=outline" for a name.
/// @throws Problem (badInput)
MapsWanted mapsWantedFrom(std::span<const std::string> words);

/// Why inks cannot be used, as a sentence; empty if they can.
std::string whyNotInks(const std::string& inks);

}  // namespace hscaffold
