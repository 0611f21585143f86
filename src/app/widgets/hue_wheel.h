/// Hues on a disc: the angle is the hue, the distance from the middle the chroma, as eyes grade both (OKLCH). One
/// handle for each hue that it shows.
#pragma once

#include <QImage>
#include <QWidget>
#include <vector>

#include "core/tone/light_table.h"

namespace hscaffold::app {

class HueWheel : public QWidget {
  Q_OBJECT
 public:
  explicit HueWheel(QWidget* parent = nullptr);

  /// @param names  of the handles, for reading.
  void show(const std::vector<light::Hue>& hues, const QStringList& names);
  [[nodiscard]] const std::vector<light::Hue>& hues() const { return hues_; }
  [[nodiscard]] QSize sizeHint() const override { return {92, 92}; }

  /// Where a hue lies on it.
  [[nodiscard]] QPointF placeOf(const light::Hue& hue) const;

 signals:
  /// By hand; with Shift both stay opposite of each other.
  void edited(const std::vector<hscaffold::light::Hue>& hues);
  void finished();

 protected:
  void paintEvent(QPaintEvent*) override;
  void mousePressEvent(QMouseEvent*) override;
  void mouseMoveEvent(QMouseEvent*) override;
  void mouseReleaseEvent(QMouseEvent*) override;
  void keyPressEvent(QKeyEvent*) override;

 private:
  [[nodiscard]] double radius() const;
  void put(std::size_t handle, light::Hue hue, bool opposite);

  std::vector<light::Hue> hues_;
  QStringList names_;
  std::size_t handle_ = 0;
  bool dragged_ = false;
  QImage disc_;
};

}  // namespace hscaffold::app
