// Tone: the light table, retouch.
#include <QMenu>

#include "app/workbench/kind_tools.h"
#include "app/workbench/light/light_tools.h"
#include "app/workbench/paint/paint_tools.h"
#include "app/workbench/workbench.h"

namespace hscaffold::app {

KindTools toneTools();

KindTools toneTools() {
  KindTools out{
      .tools = lightTools(),
      .first = ToolName::lights,
      .buttons = [](Workbench& bench) { return lightButtons(bench.light); },
      .fillMenu =
          [](QMenu& menu, Workbench& bench, QWidget*) {
            LightWork& work = bench.light;
            auto* aside = menu.addAction("Rays side by side, as from the sun", &work, [&work](bool on) {
              work.next.aside = on;
              if (const auto* of = work.selectedLight(); of != nullptr && of->form == light::Light::Form::rays)
                work.changeSelected("Rays side by side", [&](light::Light& each) { each.aside = on; }, {});
            });
            const auto* of = work.selectedLight();
            aside->setCheckable(true);
            aside->setChecked(of != nullptr && of->form == light::Light::Form::rays ? of->aside : work.next.aside);
            menu.addAction("Take what is near from depth", &work, [&work] { work.takeRelief(); })
                ->setEnabled(work.canTakeRelief());
            menu.addAction("Clear the light table", &work, [&work] { work.clear(); })
                ->setEnabled(work.kept() != nullptr);
            menu.addSeparator();
            addRetouchEntries(menu, bench);
          }};
  // Light and shadow by brush are what is mostly wanted: retouch of the map itself goes by its keys.
  for (ToolInfo each : retouchTools()) {
    each.icon = nullptr;
    out.tools.push_back(each);
  }
  return out;
}

}  // namespace hscaffold::app
