/// The left table: the reference in its placement with the selected guide's map over it.
#pragma once

#include "app/bench/table.h"
#include "app/bench/tools/table_tool.h"

namespace hscaffold::app {

class SourceTable : public Table {
  Q_OBJECT
 public:
  SourceTable(StudySession& session, LinkedView& view, QWidget* parent = nullptr);
  /// 0 shows the reference alone, 1 the map alone.
  /// The tool in hand; `look` pans.
  void setTool(ToolName tool);
  [[nodiscard]] ToolName tool() const { return toolName_; }
  [[nodiscard]] ToolSettings& toolSettings() { return settings_; }
  [[nodiscard]] HandWork& work() { return work_; }
  [[nodiscard]] PoseWork& pose() { return pose_; }
  /// The next drag over the table puts this pose into the box that is drawn.
  void putPose(pose::Figure figure);
  /// Brings the selected figure into view, large enough to work on.
  void showFigure();
  /// Tools of the region are shown, and the guide's region is tinted.
  void setRegionShown(bool shown);
  [[nodiscard]] bool regionShown() const { return regionShown_; }
  /// Black lines on white where the map is seen alone.
  void setPaper(bool paper);
  /// The extraction without retouch.
  void setBefore(bool before);
  /// Where the extraction moved under retouch since that was done.
  void setMovedShown(bool shown);
  [[nodiscard]] bool movedShown() const { return movedShown_; }
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
  void toolChanged();
  void regionShownChanged();
  void libraryAsked();

 protected:
  void dragEnterEvent(QDragEnterEvent*) override;
  void dragMoveEvent(QDragMoveEvent*) override;
  void dropEvent(QDropEvent*) override;
  void tabletEvent(QTabletEvent*) override;
  void wheelEvent(QWheelEvent*) override;
  void leaveEvent(QEvent*) override;
  void contextMenuEvent(QContextMenuEvent*) override;
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
  void paintMap(QPainter& painter);
  void paintTool(QPainter& painter) const;
  /// A round piece of the table, three times as large, beside what is in hand.
  void paintMagnifier(QPainter& painter);
  [[nodiscard]] std::optional<QPointF> magnifierAt() const;
  void updateFigure();
  void paintEmptyPose(QPainter& painter) const;
  bool poseKey(QKeyEvent* event);
  [[nodiscard]] ToolPointer pointerOf(const QMouseEvent& event) const;
  [[nodiscard]] QRect ringOnTable() const;
  bool toolKey(QKeyEvent* event);
  void scaleTool(double factor);

  HandWork work_;
  PoseWork pose_;
  ToolSettings settings_;
  ToolName toolName_ = ToolName::look;
  QRegion movedOver_;      ///< what the figure in hand was painted over last
  std::string toolGuide_;  ///< guide that the tool was taken for
  std::unique_ptr<TableTool> tool_;
  bool down_ = false;
  double pressure_ = 1;
  std::optional<QPointF> ringAt_;  ///< on the table
  bool regionShown_ = false, paper_ = false, before_ = false, movedShown_ = false;
  QImage derived_;          ///< paper, before or moved picture of `derivedFrom_`
  qint64 derivedFrom_ = 0;  ///< cache key of the map picture it was made from
  QString derivedKind_;
  double ghost_ = 0.5;
  bool placing_ = false;
  Grip grip_ = Grip::none;
  QPointF grabbed_;
  Placement start_;
};

}  // namespace hscaffold::app
