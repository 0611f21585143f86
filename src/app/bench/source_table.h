/// The left table: the reference in its placement with the selected guide's map over it.
#pragma once

#include "app/bench/table.h"
#include "app/workbench/table_tool.h"

namespace hscaffold::app {

class ReadyRow;

class SourceTable : public Table {
  Q_OBJECT
 public:
  explicit SourceTable(Desk& desk, QWidget* parent = nullptr);
  /// Brings the selected figure into view, large enough to work on.
  void showFigure();
  /// Where keys have led the tool, in the frame; empty while the mouse leads it.
  [[nodiscard]] const std::optional<QPointF>& penAt() const { return pen_; }
  /// A place of the frame in the middle, with what is round it.
  void showPlace(QPointF place, double extent);
  /// Black lines on white where the map is seen alone.
  void setPaper(bool paper);
  /// The extraction without retouch.
  void setBefore(bool before);
  /// 0 shows the reference alone, 1 the map alone.
  void setGhost(double share);
  [[nodiscard]] double ghost() const { return ghost_; }
  /// Corners of the reference in table pixels: upper left, upper right, lower right, lower left; then the turning knob.
  [[nodiscard]] std::array<QPointF, 5> handles() const;

 signals:
  void openAsked();

 protected:
  void dragEnterEvent(QDragEnterEvent*) override;
  void dragMoveEvent(QDragMoveEvent*) override;
  void dropEvent(QDropEvent*) override;
  void tabletEvent(QTabletEvent*) override;
  void wheelEvent(QWheelEvent*) override;
  void leaveEvent(QEvent*) override;
  void resizeEvent(QResizeEvent*) override;
  void contextMenuEvent(QContextMenuEvent*) override;
  void paintEvent(QPaintEvent*) override;
  [[nodiscard]] bool altMoves() const override { return bench_.placing() || !tool() || !tool()->takesAlt(); }
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
  void paintMap(QPainter& painter);
  void paintTool(QPainter& painter) const;
  /// A round piece of the table, three times as large, beside what is in hand.
  void paintMagnifier(QPainter& painter);
  [[nodiscard]] std::optional<QPointF> magnifierAt() const;
  void updateFigure();
  void paintEmptyPose(QPainter& painter) const;
  [[nodiscard]] ToolPointer pointerOf(const QMouseEvent& event) const;
  [[nodiscard]] QRect ringOnTable() const;
  bool toolKey(QKeyEvent* event);
  bool penKey(QKeyEvent* event);
  void liftTool(const ToolPointer& at);
  [[nodiscard]] TableTool* tool() const { return bench_.toolInHand(); }
  void followTool();
  /// Shown while there is nothing in the study, in the lower part of the frame.
  void placeReady();

  Workbench& bench_;
  ReadyRow* ready_;
  QRegion movedOver_;  ///< what the figure in hand was painted over last
  bool down_ = false;
  double pressure_ = 1;
  std::optional<QPointF> ringAt_;  ///< on the table
  std::optional<QPointF> pen_;
  bool paper_ = false, before_ = false;
  QImage derived_;          ///< paper, before or moved picture of `derivedFrom_`
  qint64 derivedFrom_ = 0;  ///< cache key of the map picture it was made from
  QString derivedKind_;
  double ghost_ = 0.5;
  Grip grip_ = Grip::none;
  QPointF grabbed_;
  Placement start_;
};

}  // namespace hscaffold::app
