// Poses: figures with their own tools, found by programs, drawn in inks.
#include <QFileDialog>
#include <QMenu>

#include "app/workbench/kind_tools.h"
#include "app/workbench/own_file.h"
#include "app/workbench/pose/pose_tools.h"
#include "app/workbench/workbench.h"
#include "core/pose/find/network_finder.h"
#include "core/pose/find/own_network.h"
#include "files/program_finder.h"

namespace hscaffold::app {

KindTools poseTools();

namespace {

void addFinderEntries(QMenu& menu, FigureSearch& search, QWidget* asking) {
  if (search.finding()) {
    menu.addAction("Stop finding figures", &search, &FigureSearch::stop);
    return;
  }
  if (pose::canFind(pose::Sought::everybody)) {
    auto* everybody = menu.addAction("Find figures", &search, [&search] { search.findFigures(); });
    everybody->setToolTip("People and animals in the reference, by the networks that come with the program");
  }
  addOwnFileEntries(
      menu, &search, asking,
      {"finder",
       "Find figures with",
       "a program",
       "A program that finds figures",
       {},
       "It is given the reference as a PNG and writes COCO key points; use one that you trust"},
      [&search](const std::filesystem::path& program) { search.find(std::make_shared<ProgramFinder>(program)); });
  addOwnFileEntries(
      menu, &search, asking,
      {"figure network", "Find figures with", "a network", "A network that finds key points", "Networks (*.onnx)",
       "An ONNX file of your own with a description beside it"},
      [&search](const std::filesystem::path& onnx) { search.find(std::make_shared<pose::OwnNetworkFinder>(onnx)); });
}

void fillPoseMenu(QMenu& menu, Workbench& bench, QWidget* asking) {
  PoseWork& pose = bench.pose;
  if (const auto selected = pose.selected()) {
    addFigureActions(*menu.addMenu("Figure"), pose, *selected);
    menu.addSeparator();
  }
  const auto load = [&pose](const std::filesystem::path& file) {
    try {
      pose.loadInks(file);
    } catch (const std::exception& error) {
      emit pose.said(error.what());
    }
  };
  addFinderEntries(menu, bench.search, asking);
  menu.addSeparator();
  menu.addAction("Load inks...", &pose, [load, asking] {
    const QString path = QFileDialog::getOpenFileName(asking, "Load inks", {}, "Inks (*.json)");
    if (!path.isEmpty()) load(path.toStdString());
  });
  const Guide* guide = pose.guide();
  menu.addAction("House inks", &pose, [load] { load({}); })
      ->setEnabled(guide != nullptr && guide->work.has(pose::inksSlot));
  menu.addSeparator();
}

}  // namespace

KindTools poseTools() {
  return {.tools = figureTools(), .first = ToolName::joints, .poses = true, .fillMenu = fillPoseMenu};
}

}  // namespace hscaffold::app
