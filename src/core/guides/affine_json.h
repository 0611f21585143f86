/// Where a reference lay, in files: six numbers, or null for work without a reference.
#pragma once

#include <nlohmann/json_fwd.hpp>
#include <optional>
#include <string>

#include "core/frame/placement.h"

namespace hscaffold {

nlohmann::json affineToJson(const std::optional<Affine>& placing);
/// @throws Problem (badInput)
std::optional<Affine> affineFromJson(const nlohmann::json& json, const std::string& where);

}  // namespace hscaffold
