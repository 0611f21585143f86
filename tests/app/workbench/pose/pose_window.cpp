#include "app/workbench/pose/pose_window.h"

#include <QMenu>
#include <QMimeData>
#include <nlohmann/json.hpp>

#include "app/document/study_edits.h"
#include "app/workbench/pose/pose_tools.h"
#include "core/pose/coco.h"
#include "core/pose/library.h"

using namespace hscaffold;
using namespace hscaffold::app;

namespace fixtures {

std::size_t at(const char* point) { return *pose::skeletonOf("human").find(point); }

pose::Figure standing(double size, Point where) {
  auto figure = pose::figureFrom(pose::skeletonOf("human"), pose::housePoses()[0].pose, {where, size, {}});
  figure.name = "Stander";
  return figure;
}

void PoseWindowTest::prepare() {
  addPoseGuide(document(), "Pose");
  settle();
  bench().showLibrary(false);
}

QPointF PoseWindowTest::place(const char* point, std::size_t i) const {
  const Point p = figure(i).points[at(point)].at;
  return {p.x, p.y};
}

void PoseWindowTest::put(std::vector<pose::Figure> figures) const {
  pose().add(std::move(figures), "Put");
  settle();
}

void PoseWindowTest::hover(QPointF onTable) const {
  QMouseEvent event(QEvent::MouseMove, onTable, table().mapToGlobal(onTable), Qt::NoButton, Qt::NoButton, {});
  QApplication::sendEvent(&table(), &event);
}

void PoseWindowTest::release(QPointF inFrame) const {
  const QPointF at = table().toTable(inFrame);
  QMouseEvent event(QEvent::MouseButtonRelease, at, table().mapToGlobal(at), Qt::LeftButton, Qt::NoButton, {});
  QApplication::sendEvent(&table(), &event);
}

void PoseWindowTest::drop(const pose::Figure& what, QPointF inFrame) const {
  pose::Figures one;
  one.frame = {1024, 1024};
  one.figures = {std::make_shared<const pose::Figure>(what)};
  QMimeData data;
  data.setData(poseMime, QByteArray::fromStdString(pose::figuresToText(one)));
  letGo(table(), table().toTable(inFrame), data);
}

void PoseWindowTest::figureAction(const QString& begins, std::size_t number) const {
  QMenu menu;
  addFigureActions(menu, pose(), number);
  for (QAction* action : menu.actions())
    if (action->text().startsWith(begins)) {
      action->trigger();
      settle();
      return;
    }
  QFAIL(qPrintable("no entry " + begins));
}

}  // namespace fixtures
