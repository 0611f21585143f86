/// What tests of figures in the window share: a pose guide in an empty study, and a way to its figures.
#pragma once

#include "app/window_fixture.h"

namespace fixtures {

/// The number of a key point of the human skeleton.
std::size_t at(const char* point);

/// A person of the library who stands upright.
hscaffold::pose::Figure standing(double size = 240, hscaffold::Point where = {240, 170});

class PoseWindowTest : public WindowTest {
  Q_OBJECT
 protected:
  void prepare() override;

  [[nodiscard]] hscaffold::app::PoseWork& pose() const { return desk().workbench.pose; }
  [[nodiscard]] const hscaffold::pose::Figure& figure(std::size_t i = 0) const { return *pose().figures()->figures[i]; }
  /// Where a point of a figure is, in frame pixels.
  [[nodiscard]] QPointF place(const char* point, std::size_t i = 0) const;
  void put(std::vector<hscaffold::pose::Figure> figures) const;
  void hover(QPointF onTable) const;
  /// The button goes up at a place of the frame.
  void release(QPointF inFrame) const;
  /// A figure out of the library is let go over the source table.
  void drop(const hscaffold::pose::Figure& figure, QPointF inFrame) const;
  /// An entry of the menu that a right click on the table would show.
  void figureAction(const QString& begins, std::size_t figure = 0) const;
};

}  // namespace fixtures
