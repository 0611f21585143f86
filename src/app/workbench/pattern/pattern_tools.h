/// Patterns put in their place by hand.
#pragma once

#include <vector>

#include "app/workbench/row_entries.h"
#include "app/workbench/table_tool.h"

namespace hscaffold::app {

namespace ToolName {
inline constexpr ToolId layPattern{"lay-pattern"};
}  // namespace ToolName

class HandWork;

/// A drag moves the pattern, its corners make it larger (with Ctrl one is pulled alone), the knob above it turns it, the
/// knob in its upper edge leans it away; arrows nudge it. On four corners each is pulled alone.
const std::vector<ToolInfo>& layTools();
std::vector<RowButton> layButtons(HandWork& work);
/// Lays the selected guide's pattern on the plane that a depth guide has where it is, or says why that cannot be.
void layOnGround(HandWork& work);
/// Has it lie on its corners as they are now, each to be pulled alone.
void pullCorners(HandWork& work);

}  // namespace hscaffold::app
