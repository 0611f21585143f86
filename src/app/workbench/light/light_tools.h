/// Tools of the light table: shadow and light by brush, gradients, lamps, rays, areas, and the hand that moves them.
#pragma once

#include <vector>

#include "app/workbench/row_entries.h"
#include "app/workbench/table_tool.h"

namespace hscaffold::app {

class LightWork;

namespace ToolName {
inline constexpr ToolId lights{"lights"}, shadowBrush{"shadow-brush"}, lightBrush{"light-brush"},
    lightAway{"light-away"}, fallOfLight{"fall-of-light"}, lamp{"lamp"}, rays{"rays"}, lightArea{"light-area"};
}  // namespace ToolName

const std::vector<ToolInfo>& lightTools();
/// What else stands in the row: times of day.
std::vector<RowButton> lightButtons(LightWork& work);
/// All lights that lie over the picture, faintly; what is taken hold of in full.
void paintLights(QPainter& painter, const LightWork& work, const QTransform& toTable);

}  // namespace hscaffold::app
