/// Patterns put in their place by hand.
#pragma once

#include <vector>

#include "app/workbench/table_tool.h"

namespace hscaffold::app {

namespace ToolName {
inline constexpr ToolId layPattern{"lay-pattern"};
}  // namespace ToolName

/// A drag moves the pattern, its corners make it larger, the knob above it turns it, the knob in its upper edge leans
/// it away; arrows nudge it.
const std::vector<ToolInfo>& layTools();

}  // namespace hscaffold::app
