/// The right table while a depth map is read: as a relief that is turned by dragging, in grey, in colours, or with its
/// doubt over the picture.
#pragma once

#include "app/bench/table.h"
#include "core/depth/reading.h"

namespace hscaffold::app {

class DepthTable : public Table {
  Q_OBJECT
 public:
  enum class Look { relief, grey, colours, doubt };
  explicit DepthTable(Desk& desk, QWidget* parent = nullptr);
  void setLook(Look look);
  [[nodiscard]] Look look() const { return look_; }
  void setContours(bool on);
  [[nodiscard]] bool contours() const { return contours_; }
  /// From where the relief is seen, degrees.
  [[nodiscard]] QPointF turned() const { return {relief_.across, relief_.down}; }
  /// The map as it is shown: nothing until there is one.
  [[nodiscard]] const MapPicture* map() const;

 protected:
  void paintEvent(QPaintEvent*) override;
  void mousePressEvent(QMouseEvent*) override;
  void mouseMoveEvent(QMouseEvent*) override;
  void mouseReleaseEvent(QMouseEvent*) override;
  void mouseDoubleClickEvent(QMouseEvent*) override;
  void wheelEvent(QWheelEvent*) override;
  void keyPressEvent(QKeyEvent*) override;

 private:
  void turn(double across, double down);
  [[nodiscard]] QImage drawn(const MapPicture& map);
  [[nodiscard]] QImage reliefImage(const MapPicture& map);

  Look look_ = Look::relief;
  bool contours_ = false;
  depth::ReliefLook relief_;
  std::optional<QPointF> grabbed_;
  QImage drawn_;          ///< of `drawnOf_`
  QString drawnOf_;       ///< map, look and contours
  ColourMap colours_;     ///< the reference at the map's size, for the relief
  qint64 coloursOf_ = 0;  ///< cache key of the picture they were taken from
};

}  // namespace hscaffold::app
