/// Brushes, loops and the like: for retouch over a map, and for the region in which a guide acts.
#pragma once

#include <vector>

#include "app/workbench/table_tool.h"

namespace hscaffold::app {

struct KindTools;

namespace ToolName {
inline constexpr ToolId draw{"draw"}, rubOut{"rub-out"}, restore{"restore"}, keepLoop{"keep-loop"},
    dropLoop{"drop-loop"}, level{"level"}, lighten{"lighten"}, darken{"darken"}, smudge{"smudge"};
inline constexpr ToolId paint{"paint"}, takeAway{"take-away"}, addLoop{"add-loop"}, colour{"colour"};
}  // namespace ToolName

const std::vector<ToolInfo>& retouchTools();
/// For maps in which every value says something: the level brush draws as near as the workbench is set to.
const std::vector<ToolInfo>& halfToneTools();
const std::vector<ToolInfo>& regionTools();
/// All that is offered while a region is worked on.
const KindTools& regionEntries();

}  // namespace hscaffold::app
