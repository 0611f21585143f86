/// Where light comes from: a ball that is lit from there.
#pragma once

#include <QWidget>

namespace hscaffold::app {

class LightDial : public QWidget {
  Q_OBJECT
 public:
  explicit LightDial(QWidget* parent = nullptr);

  /// @param from    degrees in the picture, clockwise from the right; -90 from above
  /// @param height  degrees over the picture, [5, 90]
  void show(double from, double height);
  [[nodiscard]] double from() const { return from_; }
  [[nodiscard]] double lightHeight() const { return height_; }
  [[nodiscard]] QSize sizeHint() const override { return {56, 56}; }

 signals:
  void edited(double from, double height);
  void finished();

 protected:
  void paintEvent(QPaintEvent*) override;
  void mousePressEvent(QMouseEvent*) override;
  void mouseMoveEvent(QMouseEvent*) override;
  void mouseReleaseEvent(QMouseEvent*) override;
  void keyPressEvent(QKeyEvent*) override;

 private:
  void put(double from, double height);
  double from_ = -60, height_ = 40;
};

/// "upper right, low": in words.
QString wordsForLight(double from, double height);

}  // namespace hscaffold::app
