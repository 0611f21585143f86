/// Tools that work on strokes rather than on pixels.
#pragma once

#include "app/bench/tools/table_tool.h"

namespace hscaffold::app {

/// Draws one fitted stroke after the other.
std::unique_ptr<TableTool> makePenTool(const ToolContext& context);
/// Takes hold of strokes: select, move, delete, smooth, join, change their weight.
std::unique_ptr<TableTool> makeStrokesTool(const ToolContext& context);

}  // namespace hscaffold::app
