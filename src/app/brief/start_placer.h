/// The start picture as it lies in the frame, to be moved, scaled and turned there by hand.
#pragma once

#include <QImage>
#include <QWidget>
#include <optional>

#include "core/frame/placement.h"

namespace hscaffold::app {

class StartPlacer : public QWidget {
  Q_OBJECT
 public:
  explicit StartPlacer(QWidget* parent = nullptr);
  /// @param size  of the picture itself, which `picture` may show smaller; {0, 0}: it is not placed, and fills the
  /// frame
  void show(const QImage& picture, Size size, const Placement& placement, Size frame);
  [[nodiscard]] bool hasPicture() const { return !picture_.isNull(); }

 signals:
  /// @param how  "Move start picture"
  void placed(const QString& how, const hscaffold::Placement& placement);
  void letGo();

 protected:
  void paintEvent(QPaintEvent* event) override;
  void mousePressEvent(QMouseEvent* event) override;
  void mouseMoveEvent(QMouseEvent* event) override;
  void mouseReleaseEvent(QMouseEvent* event) override;
  void wheelEvent(QWheelEvent* event) override;
  void keyPressEvent(QKeyEvent* event) override;

 private:
  [[nodiscard]] bool movable() const { return size_.area() > 0 && frame_.area() > 0; }
  [[nodiscard]] QRectF frameRect() const;
  [[nodiscard]] Placement now() const;
  void scaleBy(double factor);
  void turnBy(double degrees);

  QImage picture_;
  Size size_, frame_;
  Placement placement_;
  std::optional<QPointF> grabbed_;
  Placement begun_;
};

}  // namespace hscaffold::app
