/// The stage as its eye sees it: the frame always whole, what lies beyond it dimmed. Things are dragged along the
/// ground, joints in the picture's plane; where nothing is, a drag goes round what is chosen.
#pragma once

#include <QImage>
#include <QWidget>
#include <optional>

#include "app/stage/stage_work.h"
#include "core/image/image.h"
#include "core/stage/raster.h"

namespace hscaffold::app {

class StageTable : public QWidget {
  Q_OBJECT
 public:
  StageTable(Desk& desk, StageWork& work, QWidget* parent = nullptr);
  /// Where a place of the stage is on the widget; empty behind the eye.
  [[nodiscard]] std::optional<QPointF> placeOf(const stage::Vec3& at) const;
  /// A key point of the chosen figure, as shown; empty if no figure is chosen.
  [[nodiscard]] std::optional<QPointF> jointPlace(const char* id) const;
  [[nodiscard]] QRectF frameOnTable() const;
  /// What of the scene is not whole in the frame.
  [[nodiscard]] const QStringList& outside() const { return outside_; }
  [[nodiscard]] bool shown() const { return !picture_.isNull(); }

 signals:
  void outsideChanged();

 protected:
  void paintEvent(QPaintEvent* event) override;
  void mousePressEvent(QMouseEvent* event) override;
  void mouseMoveEvent(QMouseEvent* event) override;
  void mouseReleaseEvent(QMouseEvent* event) override;
  void wheelEvent(QWheelEvent* event) override;
  void keyPressEvent(QKeyEvent* event) override;
  void resizeEvent(QResizeEvent* event) override;
  void showEvent(QShowEvent* event) override;

 private:
  enum class Grip { none, thing, joint, orbit, pan };
  struct Joint {
    std::size_t point;
    stage::Vec3 at;
  };
  void request();
  [[nodiscard]] stage::Camera wideCamera() const;
  [[nodiscard]] stage::Vec3 target() const;
  /// Where the line of sight through a place of the widget meets the level of a height.
  [[nodiscard]] std::optional<stage::Vec3> onLevel(QPointF at, float height) const;
  void orbit(double across, double down, const stage::Vec3& about);
  void dolly(double factor);
  void dragJoint(QPointF by);
  [[nodiscard]] std::optional<std::size_t> jointAt(QPointF at) const;
  void paintJoints(QPainter& painter) const;

  Desk& desk_;
  StageWork& work_;
  QImage picture_;
  Image<std::uint16_t> object_;   ///< of the shown picture, at its size; numbers are places in the shown things plus 1
  std::vector<std::string> ids_;  ///< of the shown things
  std::vector<Joint> joints_;     ///< of the chosen figure, as the scene has it now
  QStringList outside_;
  Grip grip_ = Grip::none;
  QPointF pressed_, lift_;  ///< from the pointer to where the dragged thing stands
  stage::Scene begun_;      ///< as it was when the drag began
  stage::Vec3 about_ = stage::Vec3::Zero();
  std::size_t point_ = 0;
  int drags_ = 0;
  bool moved_ = false;
};

}  // namespace hscaffold::app
