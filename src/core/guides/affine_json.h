/// What hand work remembers of where it was done, in files.
#pragma once

#include <nlohmann/json_fwd.hpp>
#include <optional>
#include <string>

#include "core/frame/placement.h"

namespace hscaffold {

class JsonFields;

/// Where the reference lay: six numbers, or null for work without a reference.
nlohmann::json affineToJson(const std::optional<Affine>& placing);
/// @throws Problem (badInput)
std::optional<Affine> affineFromJson(const nlohmann::json& json, const std::string& where);

/// "width" and "height" of the frame. @throws Problem (badInput)
Size workFrameFrom(JsonFields& fields);

}  // namespace hscaffold
