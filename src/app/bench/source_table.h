/// The left table: the reference in its placement with the selected guide's map over it.
#pragma once

#include "app/bench/table.h"

namespace hscaffold::app {

class SourceTable : public Table {
  Q_OBJECT
 public:
  SourceTable(StudySession& session, LinkedView& view, QWidget* parent = nullptr);
  /// 0 shows the reference alone, 1 the map alone.
  void setGhost(double share);
  [[nodiscard]] double ghost() const { return ghost_; }
  /// In placing, the reference is moved, scaled by its corners and turned by the knob above it.
  void setPlacing(bool placing);
  [[nodiscard]] bool placing() const { return placing_; }
  /// Corners of the reference in table pixels: upper left, upper right, lower right, lower left; then the turning knob.
  [[nodiscard]] std::array<QPointF, 5> handles() const;

 signals:
  void placingChanged(bool placing);
  void openAsked();

 protected:
  void paintEvent(QPaintEvent*) override;
  void mousePressEvent(QMouseEvent*) override;
  void mouseMoveEvent(QMouseEvent*) override;
  void mouseReleaseEvent(QMouseEvent*) override;
  void mouseDoubleClickEvent(QMouseEvent*) override;
  void keyPressEvent(QKeyEvent*) override;

 private:
  enum class Grip { none, move, corner, turn };
  [[nodiscard]] const Reference* reference() const;
  [[nodiscard]] Grip gripAt(QPointF at) const;
  void drag(QPointF to, Qt::KeyboardModifiers modifiers);
  void paintReference(QPainter& painter, const Reference& reference) const;
  void paintMap(QPainter& painter) const;

  double ghost_ = 0.5;
  bool placing_ = false;
  Grip grip_ = Grip::none;
  QPointF grabbed_;
  Placement start_;
};

}  // namespace hscaffold::app
