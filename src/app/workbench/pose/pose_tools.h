/// Tools for posed figures: joints, limbs as hinges, whole figures, what is hidden, and putting a pose on the picture.
#pragma once

#include <memory>
#include <vector>

#include "app/workbench/table_tool.h"

namespace hscaffold::app {

class Workbench;

namespace ToolName {
inline constexpr ToolId joints{"joints"}, turnLimb{"turn-limb"}, figure{"figure"}, hide{"hide"}, putPose{"put-pose"},
    findHere{"find-here"};
}

const std::vector<ToolInfo>& figureTools();

/// The next drag over the table puts this pose into the box that is drawn, whichever guide is selected.
void takePose(Workbench& bench, pose::Figure figure);

/// Everything that can be done to a figure, with its keys.
void addFigureActions(QMenu& menu, PoseWork& work, std::size_t figure);

/// Those for whole figures.
std::unique_ptr<TableTool> makeFigureTool(const ToolContext& context);
std::unique_ptr<TableTool> makePutTool(const ToolContext& context);
std::unique_ptr<TableTool> makeFindTool(const ToolContext& context);

}  // namespace hscaffold::app
