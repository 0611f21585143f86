// Loose lines: retouch and strokes.
#include "app/workbench/kind_tools.h"

namespace hscaffold::app {

KindTools looseTools();

KindTools looseTools() { return toolsWithStrokes(); }

}  // namespace hscaffold::app
