/// Looks for figures in the selected guide's reference, in the background.
#pragma once

#include <QObject>
#include <QRectF>
#include <memory>
#include <optional>

#include "core/pose/finder.h"

namespace hscaffold::app {

class MapRoom;
class PoseWork;
class StudyDocument;
class TaskRunner;

class FigureSearch : public QObject {
  Q_OBJECT
 public:
  FigureSearch(PoseWork& work, StudyDocument& document, MapRoom& maps, TaskRunner& tasks, QObject* parent = nullptr);

  /// What is found is added to the figures, the faint ones too; what came of it is said.
  void find(std::shared_ptr<pose::FigureFinder> finder);
  /// With the networks that come with the program: all people and animals, or the one in a part of the frame.
  void findFigures(const std::optional<QRectF>& box = {});
  /// How sure a figure must be, in percent, to be kept when figures are found; remembered.
  [[nodiscard]] static int faintest();
  static void setFaintest(int percent);
  void stop();
  [[nodiscard]] bool finding() const { return finding_; }

 signals:
  void changed();  ///< whether it is looking

 private:
  PoseWork& work_;
  StudyDocument& document_;
  MapRoom& maps_;
  TaskRunner& tasks_;
  bool finding_ = false;
};

}  // namespace hscaffold::app
