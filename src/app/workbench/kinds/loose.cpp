// Loose lines: retouch and strokes.
#include <QMenu>

#include "app/workbench/kind_tools.h"
#include "app/workbench/lines/stroke_tools.h"
#include "app/workbench/paint/paint_tools.h"
#include "app/workbench/workbench.h"

namespace hscaffold::app {

KindTools looseTools();

KindTools looseTools() {
  KindTools out{.tools = retouchTools(), .drops = true, .fillMenu = [](QMenu& menu, Workbench& bench, QWidget*) {
                  addRetouchEntries(menu, bench);
                  addStrokeEntries(menu, bench);
                  menu.addAction("Loose lines from this", &bench.work, [&work = bench.work] { work.traceLoosely(); });
                }};
  out.tools.insert(out.tools.end(), strokeTools().begin(), strokeTools().end());
  return out;
}

}  // namespace hscaffold::app
