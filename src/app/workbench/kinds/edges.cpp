// Edges: retouch.
#include <QMenu>

#include "app/workbench/kind_tools.h"
#include "app/workbench/paint/paint_tools.h"
#include "app/workbench/workbench.h"

namespace hscaffold::app {

KindTools edgesTools();

KindTools edgesTools() {
  return {.tools = retouchTools(), .buttons = specksButton, .fillMenu = [](QMenu& menu, Workbench& bench, QWidget*) {
            addRetouchEntries(menu, bench);
            menu.addAction("Loose lines from this", &bench.work, [&work = bench.work] { work.traceLoosely(); });
          }};
}

}  // namespace hscaffold::app
