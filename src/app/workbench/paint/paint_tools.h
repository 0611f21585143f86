/// Brushes, loops and the like: for retouch over a map, and for the region in which a guide acts.
#pragma once

#include <vector>

#include "app/workbench/table_tool.h"

namespace hscaffold::app {

namespace ToolName {
inline constexpr ToolId draw{"draw"}, rubOut{"rub-out"}, restore{"restore"}, keepLoop{"keep-loop"},
    dropLoop{"drop-loop"};
inline constexpr ToolId paint{"paint"}, takeAway{"take-away"}, addLoop{"add-loop"}, colour{"colour"};
}  // namespace ToolName

const std::vector<ToolInfo>& retouchTools();
const std::vector<ToolInfo>& regionTools();

}  // namespace hscaffold::app
