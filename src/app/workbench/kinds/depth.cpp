// Depth: hints and retouch.
#include <QMenu>

#include "app/workbench/depth/hint_tools.h"
#include "app/workbench/kind_tools.h"
#include "app/workbench/paint/paint_tools.h"
#include "app/workbench/workbench.h"
#include "core/depth/hints.h"

namespace hscaffold::app {

KindTools depthTools();

KindTools depthTools() {
  KindTools out{
      .tools = hintTools(), .first = ToolName::hint, .fillMenu = [](QMenu& menu, Workbench& bench, QWidget*) {
        DepthWork& work = bench.depth;
        menu.addAction("Point out where it is least sure", &work, [&work] { work.nextDoubt(); });
        menu.addAction("Remove all hints", &work, [&work] { work.removeAll(); })->setEnabled(work.hints() != nullptr);
        menu.addSeparator();
        addRetouchEntries(menu, bench);
      }};
  out.tools.insert(out.tools.end(), halfToneTools().begin(), halfToneTools().end());
  return out;
}

}  // namespace hscaffold::app
