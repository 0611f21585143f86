#include "core/json_text.h"

#include <nlohmann/json.hpp>

namespace hscaffold {

std::string jsonText(const nlohmann::json& json, int indent) {
  return json.dump(indent, ' ', false, nlohmann::json::error_handler_t::replace);
}

}  // namespace hscaffold
