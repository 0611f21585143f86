/// The final, large: regions are drawn on it, what the engine sees of them is shown, tiles and tries appear where they
/// belong.
#pragma once

#include <QWidget>
#include <optional>

#include "app/desk.h"
#include "app/widgets/linked_view.h"

namespace hscaffold::app {

enum class RegionTool { look, brush, loop, colour, thing };

class FinalTable : public QWidget {
  Q_OBJECT
 public:
  explicit FinalTable(Desk& desk, QWidget* parent = nullptr);

  void setTool(RegionTool tool);
  [[nodiscard]] RegionTool tool() const { return tool_; }
  /// Width of the brush, in pixels of the final.
  void setBrush(double width);
  [[nodiscard]] double brush() const { return brush_; }
  /// Of colours that count as one, [0, 1].
  void setTolerance(double tolerance) { tolerance_ = tolerance; }
  void setTilesShown(bool shown);
  /// Against the picture before, up to a line; 1: off.
  void setWipe(bool on);
  [[nodiscard]] bool wiping() const { return wipe_; }
  [[nodiscard]] double wipeAt() const { return wipeAt_; }
  [[nodiscard]] LinkedView& view() { return view_; }
  /// Where a place of the final lies on the table, in shares of its sides.
  [[nodiscard]] QPointF onTable(QPointF share) const;
  /// What the engine sees of the selected touch-up; none without a region.
  [[nodiscard]] std::optional<TouchView> seen() const { return seen_; }

 signals:
  /// Something was drawn. @param name  of what was taken from a map; else empty
  void drawn(const hscaffold::TouchRegion& shapes, const QString& name);
  void brushChanged(double width);
  void toolAsked(hscaffold::app::RegionTool tool);
  void touchUpPicked(const QString& id);
  void said(const QString& sentence);

 protected:
  void paintEvent(QPaintEvent*) override;
  void resizeEvent(QResizeEvent*) override;
  void wheelEvent(QWheelEvent*) override;
  void mousePressEvent(QMouseEvent*) override;
  void mouseMoveEvent(QMouseEvent*) override;
  void mouseReleaseEvent(QMouseEvent*) override;
  void mouseDoubleClickEvent(QMouseEvent*) override;
  void leaveEvent(QEvent*) override;
  void keyPressEvent(QKeyEvent*) override;

 private:
  void follow();
  void refreshMask();
  [[nodiscard]] QRectF frameRect() const;
  [[nodiscard]] Point shareAt(QPointF onTable) const;
  void pickColour(Point at, bool takes);
  void pickThing(Point at, bool takes);
  void giveUp();
  void paintRegions(QPainter& painter);
  void paintWork(QPainter& painter);
  [[nodiscard]] QImage before() const;

  Desk& desk_;
  LinkedView view_;
  RegionTool tool_ = RegionTool::look;
  double brush_ = 48, tolerance_ = 0.08, wipeAt_ = 0.5;
  bool tiles_ = false, wipe_ = false, wiping_ = false, panning_ = false;
  std::string final_;
  std::optional<TouchShape> drawing_;
  std::optional<QPointF> pointer_;
  QPointF last_;
  QImage mask_;  ///< of the selected touch-up, tinted, small; shows the whole final
  std::optional<TouchView> seen_;
  TouchUp masked_;  ///< of which the mask is
};

}  // namespace hscaffold::app
