// Patterns: laid by hand, made from a picture, retouched.
#include <QMenu>

#include "app/workbench/kind_tools.h"
#include "app/workbench/paint/paint_tools.h"
#include "app/workbench/pattern/pattern_tools.h"
#include "app/workbench/workbench.h"
#include "core/pattern/pattern.h"

namespace hscaffold::app {

KindTools patternTools();

KindTools patternTools() {
  KindTools out{.tools = layTools(),
                .first = ToolName::layPattern,
                .buttons = [](Workbench& bench) { return layButtons(bench.work); },
                .fillMenu =
                    [](QMenu& menu, Workbench& bench, QWidget*) {
                      HandWork& work = bench.work;
                      menu.addAction("Make it from the picture", &work,
                                     [&work] {
                                       const auto fromPicture = static_cast<double>(pattern::What::picture);
                                       work.takeReference("Pattern from a picture", {{"what", fromPicture}});
                                     })
                          ->setEnabled(work.hasReference());
                      menu.addAction("Back to the middle", &work, [&work] {
                        work.retune("Pattern in the middle", pattern::layInMiddle);
                        work.endTuning();
                      });
                      menu.addAction("On the ground of a depth guide", &work, [&work] { layOnGround(work); })
                          ->setEnabled(work.nearMap() != nullptr);
                      menu.addAction("On four corners", &work, [&work] { pullCorners(work); });
                      menu.addSeparator();
                      addRetouchEntries(menu, bench);
                    }};
  out.tools.insert(out.tools.end(), retouchTools().begin(), retouchTools().end());
  return out;
}

}  // namespace hscaffold::app
