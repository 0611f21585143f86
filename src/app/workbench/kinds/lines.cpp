// Line art: retouch and strokes.
#include "app/workbench/kind_tools.h"

namespace hscaffold::app {

KindTools linesTools();

KindTools linesTools() { return toolsWithStrokes(); }

}  // namespace hscaffold::app
