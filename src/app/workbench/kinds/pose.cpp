// Poses: figures with their own tools, found by programs, drawn in inks.
#include <QFileDialog>
#include <QKeyEvent>
#include <QMenu>

#include "app/workbench/kind_tools.h"
#include "app/workbench/own_file.h"
#include "app/workbench/pose/figure_edits.h"
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

std::vector<RowButton> poseButtons(Workbench& bench) {
  PoseWork& pose = bench.pose;
  return {{"fit", nullptr, "Fit",
           "The whole body follows when wrists, ankles, head, neck or hips are dragged (F). Off: the limb alone",
           [&pose] { pose.setFitting(!pose.fitting()); }, [&pose] { return pose.fitting(); }},
          {"poses", nullptr, "Poses", "Pose library (B)", [&bench] { emit bench.libraryAsked(); }}};
}

/// Where the joint is that is selected, if it is one.
std::vector<RowField> jointFields(Workbench& bench) {
  PoseWork& pose = bench.pose;
  const auto one = [&pose]() -> const pose::KeyPoint* {
    const pose::Figure* figure = pose.selectedFigure();
    return figure != nullptr && pose.points().size() == 1 ? &figure->points[*pose.points().begin()] : nullptr;
  };
  if (one() == nullptr) return {};
  const auto field = [&](const char* name, bool across) -> RowField {
    return {name,
            "Where the selected joint is, in frame pixels",
            {-100'000, 100'000, 0, 1, 1},
            [one, across] { return one() == nullptr ? 0
                                   : across         ? one()->at.x
                                                    : one()->at.y; },
            [&pose, one, across](double value) {
              const pose::KeyPoint* now = one();
              if (now == nullptr) return;
              placePoint(pose, *pose.selected(), *pose.points().begin(),
                         across ? QPointF(value, now->at.y) : QPointF(now->at.x, value));
            }};
  };
  return {field("x", true), field("y", false)};
}

bool poseKey(Workbench& bench, const QKeyEvent& event) {
  PoseWork& pose = bench.pose;
  switch (event.key()) {
    case Qt::Key_F:
      pose.setFitting(!pose.fitting());
      return true;
    case Qt::Key_B:
      emit bench.libraryAsked();
      return true;
    case Qt::Key_K:
      if (selectNextDoubt(pose)) emit bench.lookAsked();
      return true;
    case Qt::Key_Return:
    case Qt::Key_Enter:
      confirmPoints(pose);
      if (selectNextDoubt(pose)) emit bench.lookAsked();
      return true;
    case Qt::Key_X:
      if (const auto figure = pose.selected()) swapSides(pose, *figure);
      return true;
    case Qt::Key_N:
      if (pose.selectNext(event.modifiers().testFlag(Qt::ShiftModifier) ? 1 : -1)) emit bench.lookAsked();
      return true;
    default:
      return false;
  }
}

}  // namespace

KindTools poseTools() {
  return {.tools = figureTools(),
          .first = ToolName::joints,
          .poses = true,
          .fields = jointFields,
          .buttons = poseButtons,
          .key = poseKey,
          .fillMenu = fillPoseMenu};
}

}  // namespace hscaffold::app
