// Depth: hints, guesses of networks, retouch.
#include <QMenu>

#include "app/workbench/depth/hint_tools.h"
#include "app/workbench/kind_tools.h"
#include "app/workbench/own_file.h"
#include "app/workbench/paint/paint_tools.h"
#include "app/workbench/workbench.h"
#include "core/depth/hints.h"

namespace hscaffold::app {

KindTools depthTools();

namespace {

void addGuessEntries(QMenu& menu, DepthGuess& guess, QWidget* asking) {
  if (guess.guessing()) {
    menu.addAction("Stop guessing", &guess, &DepthGuess::stop);
    return;
  }
  addOwnFileEntries(menu, &guess, asking,
                    {"depth network", "Guess depth with", "a network", "A network that guesses depth",
                     "Networks (*.onnx)", "An ONNX file of your own with a description beside it; hints stay on top"},
                    [&guess](const std::filesystem::path& onnx) { guess.guess(onnx); });
  menu.addAction("Drop the network's guess", &guess, &DepthGuess::drop)->setEnabled(guess.hasEstimate());
}

}  // namespace

KindTools depthTools() {
  KindTools out{.tools = hintTools(),
                .first = ToolName::hint,
                .buttons =
                    [](Workbench& bench) {
                      return std::vector<RowButton>{
                          {"least sure", "doubt", nullptr,
                           "Least sure: point out where a hint would help most, one place after the other (N)",
                           [&bench] { bench.depth.nextDoubt(); }}};
                    },
                .fillMenu =
                    [](QMenu& menu, Workbench& bench, QWidget* asking) {
                      DepthWork& work = bench.depth;
                      menu.addAction("Point out where it is least sure", &work, [&work] { work.nextDoubt(); });
                      menu.addAction("Hints from figures", &work, [&work] { work.hintFromFigures(); })
                          ->setEnabled(work.hasFigures());
                      menu.addAction("Remove all hints", &work, [&work] { work.removeAll(); })
                          ->setEnabled(work.hints() != nullptr);
                      menu.addSeparator();
                      addGuessEntries(menu, bench.depthGuess, asking);
                      menu.addSeparator();
                      addRetouchEntries(menu, bench);
                    }};
  out.tools.insert(out.tools.end(), halfToneTools().begin(), halfToneTools().end());
  return out;
}

}  // namespace hscaffold::app
