/// Tools for posed figures: joints, limbs as hinges, whole figures, what is hidden, and putting a pose on the picture.
#pragma once

#include <memory>

#include "app/bench/tools/table_tool.h"

namespace hscaffold::app {

/// Everything that can be done to a figure, with its keys.
void addFigureActions(QMenu& menu, PoseWork& work, std::size_t figure);

/// Those for whole figures.
std::unique_ptr<TableTool> makeFigureTool(ToolName name, const ToolContext& context);
std::unique_ptr<TableTool> makePoseTool(ToolName name, const ToolContext& context);

}  // namespace hscaffold::app
