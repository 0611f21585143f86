/// JSON as text that others read.
#pragma once

#include <nlohmann/json_fwd.hpp>
#include <string>

namespace hscaffold {

/// In one line, or each field in a line of its own, indented by so many spaces. Bytes of names that are no UTF-8 are
/// replaced (U+FFFD) instead of throwing.
std::string jsonText(const nlohmann::json& json, int indent = -1);

}  // namespace hscaffold
