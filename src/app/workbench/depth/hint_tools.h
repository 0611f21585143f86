/// Tools that say something of depth: strokes that are near or far, one depth, in front of, ramps, planes, cuts.
#pragma once

#include <vector>

#include "app/workbench/table_tool.h"

namespace hscaffold::app {

class DepthWork;

namespace ToolName {
inline constexpr ToolId hint{"hint"}, sameDepth{"same-depth"}, inFront{"in-front"}, ramp{"ramp"}, plane{"plane"},
    cutOut{"cut-out"}, hints{"hints"};
}  // namespace ToolName

const std::vector<ToolInfo>& hintTools();

/// How near what is painted or said will be.
RowField nearField(DepthWork& work);

/// All hints of the selected guide, and the doubtful place that is pointed out.
/// @param toTable  brings frame coordinates to the table.
void paintHints(QPainter& painter, const DepthWork& work, const QTransform& toTable, double scale);

}  // namespace hscaffold::app
