// Detail: retouch.
#include <QMenu>

#include "app/workbench/kind_tools.h"
#include "app/workbench/paint/paint_tools.h"
#include "app/workbench/workbench.h"

namespace hscaffold::app {

KindTools detailTools();

KindTools detailTools() {
  return {.tools = retouchTools(),
          .fillMenu = [](QMenu& menu, Workbench& bench, QWidget*) { addRetouchEntries(menu, bench); }};
}

}  // namespace hscaffold::app
