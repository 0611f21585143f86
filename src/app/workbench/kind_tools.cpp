#include "app/workbench/kind_tools.h"

#include <QMenu>
#include <map>

#include "app/workbench/lines/stroke_tools.h"
#include "app/workbench/paint/paint_tools.h"
#include "app/workbench/workbench.h"
#include "core/kind_list.h"
#include "core/kinds.h"
#include "core/strokes/drawing.h"

namespace hscaffold::app {

#define DECLARE_KIND(name) KindTools name##Tools();
HSCAFFOLD_KINDS(DECLARE_KIND)
#undef DECLARE_KIND

const KindTools& toolsOf(const std::string& kind) {
#define LIST_KIND(name) {#name, name##Tools()},
  static const std::map<std::string, KindTools> all = {HSCAFFOLD_KINDS(LIST_KIND)};
#undef LIST_KIND
  return all.at(kind);
}

void addRetouchEntries(QMenu& menu, Workbench& bench) {
  const Guide* guide = bench.guide();
  HandWork& work = bench.work;
  const bool retouched = guide->work.has(retouchSlot);
  auto* hide = menu.addAction("Hide retouch", &work, [&work](bool on) { work.setRetouchHidden(on); });
  hide->setCheckable(true);
  hide->setChecked(guide->retouchHidden);
  hide->setEnabled(retouched);
  menu.addAction("Clear retouch", &work, [&work] { work.clearRetouch(); })->setEnabled(retouched);
  menu.addAction("Merge into a new map", &work, [&work] { work.mergeRetouch(); })
      ->setToolTip("A guide with the map as it is now; this one is turned off");
  menu.addSeparator();
  const int moved = retouched ? bench.movedUnder() : 0;
  auto* show = menu.addAction(
      moved > 0 ? QString("Show what moved under retouch (%1 px)").arg(moved) : QString("Nothing moved under retouch"),
      &bench, [&bench](bool on) { bench.setMovedShown(on); });
  show->setCheckable(true);
  show->setChecked(bench.movedShown() && moved > 0);
  show->setEnabled(moved > 0);
  menu.addAction("Restore there", &work, [&work] { work.releaseMoved(); })->setEnabled(moved > 0);
  menu.addSeparator();
}

std::vector<RowButton> specksButton(Workbench& bench) {
  RowButton drop{"drop specks", "specks", nullptr, "Drop specks", {}};
  for (const int area : {8, 24, 60, 150, 400})
    drop.choices.push_back({QString("Pieces below %1 px").arg(area), [&bench, area] { bench.work.dropSpecks(area); }});
  return {std::move(drop)};
}

namespace {

void addStrokeEntries(QMenu& menu, Workbench& bench) {
  const Guide* guide = bench.guide();
  HandWork& work = bench.work;
  menu.addAction("Trace to strokes", &bench, [&bench] {
    bench.work.trace();
    bench.setTool(ToolName::strokes);
  });
  menu.addAction("Back to the extraction", &work, [&work] { work.dropDrawing(); })
      ->setEnabled(guide->work.has(drawingSlot) && !guide->reference.empty());
}

}  // namespace

KindTools toolsWithStrokes() {
  KindTools out{
      .tools = retouchTools(), .buttons = specksButton, .fillMenu = [](QMenu& menu, Workbench& bench, QWidget*) {
        addRetouchEntries(menu, bench);
        addStrokeEntries(menu, bench);
        menu.addAction("Loose lines from this", &bench.work, [&work = bench.work] { work.traceLoosely(); });
      }};
  out.tools.insert(out.tools.end(), strokeTools().begin(), strokeTools().end());
  return out;
}

}  // namespace hscaffold::app
