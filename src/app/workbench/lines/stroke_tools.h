/// Tools that work on strokes rather than on pixels.
#pragma once

#include <vector>

#include "app/workbench/table_tool.h"

namespace hscaffold::app {

namespace ToolName {
inline constexpr ToolId pen{"pen"};          ///< draws one fitted stroke after the other
inline constexpr ToolId strokes{"strokes"};  ///< takes hold of them: select, move, delete, smooth, join, weight
}  // namespace ToolName

const std::vector<ToolInfo>& strokeTools();

}  // namespace hscaffold::app
