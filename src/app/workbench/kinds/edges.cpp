// Edges: retouch and strokes.
#include "app/workbench/kind_tools.h"

namespace hscaffold::app {

KindTools edgesTools();

KindTools edgesTools() { return toolsWithStrokes(); }

}  // namespace hscaffold::app
