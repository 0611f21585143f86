/// The span board: one lane a guide over the steps. A bar's ends are the range, its height the weight, its slants the
/// ramps; under the lanes, the load of every step, stacked.
#pragma once

#include <QWidget>
#include <functional>

#include "app/desk.h"

namespace hscaffold::app {

/// What of a bar can be taken hold of.
enum class BarGrip { none, from, to, rampIn, rampOut, weight, body, comfort, point };

/// The lanes and the load, as drawn. `SpanBoard` puts buttons round it.
class SpanChart : public QWidget {
  Q_OBJECT
 public:
  explicit SpanChart(Desk& desk, QWidget* parent = nullptr);
  /// The chosen guide alone, as it would be without the others.
  void setSolo(bool solo);
  /// Where a grip of a guide's bar is, in widget pixels.
  [[nodiscard]] QPointF gripAt(const std::string& guide, BarGrip grip) const;
  /// The same of a point of its free shape.
  [[nodiscard]] QPointF pointOf(const std::string& guide, std::size_t point) const;
  /// Where the comfort line is, in widget pixels.
  [[nodiscard]] double comfortY() const;
  /// What pulls at the step under the pointer: "step 7 of 20: Pose 0.90 + Depth 0.31 = 1.21"; empty elsewhere.
  [[nodiscard]] QString reading() const;
  [[nodiscard]] QSize minimumSizeHint() const override { return {380, 150}; }

 protected:
  void paintEvent(QPaintEvent*) override;
  void mousePressEvent(QMouseEvent*) override;
  void mouseMoveEvent(QMouseEvent*) override;
  void mouseReleaseEvent(QMouseEvent*) override;
  void mouseDoubleClickEvent(QMouseEvent*) override;
  void keyPressEvent(QKeyEvent*) override;
  void wheelEvent(QWheelEvent*) override;
  void leaveEvent(QEvent*) override;
  void contextMenuEvent(QContextMenuEvent*) override;
  bool event(QEvent*) override;

 private:
  struct Lane {
    QRectF area;  ///< where the bar is; its name lies left of it
    const Guide* guide;
  };
  [[nodiscard]] std::vector<Lane> lanes() const;
  [[nodiscard]] QRectF loadArea() const;
  [[nodiscard]] double laneHeight() const;
  [[nodiscard]] std::size_t fittingLanes() const;
  /// Brings the selected guide's lane into sight, once.
  void showSelected();
  [[nodiscard]] double toX(double percent) const;
  [[nodiscard]] double toPercent(double x) const;
  /// @param range  the guide's own, or as the engine understands it.
  [[nodiscard]] QPolygonF barOf(const Lane& lane, const Range& range) const;
  [[nodiscard]] QPointF gripPoint(const Lane& lane, BarGrip grip) const;
  [[nodiscard]] BarGrip hit(const Lane& lane, QPointF at) const;
  /// @param acting  all guides, as the engine takes them.
  void paintLane(QPainter& painter, const Lane& lane, const std::vector<Guide>& acting) const;
  void paintLoad(QPainter& painter) const;
  void paintNumbers(QPainter& painter) const;
  void paintReading(QPainter& painter) const;
  /// Guides that count in the load now.
  [[nodiscard]] std::vector<Guide> counted() const;
  [[nodiscard]] double loadCeiling() const;
  /// A test strip over what this grip changes; with `to`, from its value now up to that one.
  void askStrip(const std::string& guide, BarGrip grip, std::optional<double> to = {});
  void turnLock(const std::string& guide);
  [[nodiscard]] QPointF pointPlace(const Lane& lane, std::size_t point) const;
  [[nodiscard]] std::optional<std::size_t> pointAt(const Lane& lane, QPointF at) const;
  void changeShape(const std::string& guide, const QString& name, const std::function<Range(const Range&)>& change,
                   const std::string& merge = {});
  /// Ramps become points, or points ramps again.
  void turnFreeShape(const std::string& guide);
  void addOrTakePoint(const Lane& lane, QPointF at);
  void dragPoint(const Lane& lane, QPointF to);
  /// Whether the key was one for the points of a free shape.
  bool pointKey(const Guide& guide, int key, double step);
  /// The next thing that keys act on.
  void nextGrip(const Guide& guide);
  [[nodiscard]] bool onComfortLine(QPointF at) const;
  /// What of a guide a grip changes, as it is now.
  [[nodiscard]] static double valueAt(const Guide& guide, BarGrip grip);
  /// The weight that the top of a lane's bar has at this height.
  [[nodiscard]] static double weightAt(const Lane& lane, double y);
  /// The lane of the bar that is held; none if it is not seen.
  [[nodiscard]] std::optional<Lane> heldLane() const;
  void drag(QPointF to);
  void edit(const std::string& id, BarGrip grip, double percent, double weight, const std::string& merge);

  static constexpr double nameWidth = 118, rightMargin = 14, tickHeight = 18;
  Desk& desk_;
  bool solo_ = false;
  std::size_t firstLane_ = 0;
  std::string shownFor_;  ///< guide whose lane was brought into sight
  BarGrip grip_ = BarGrip::none, keyGrip_ = BarGrip::to, lit_ = BarGrip::none;
  std::size_t point_ = 0;  ///< of the free shape that is held or lit
  std::string held_, litGuide_;
  QPointF grabbed_;
  Range startRange_;
  std::optional<int> overStep_;      ///< the step under the pointer
  std::optional<double> stripTo_;    ///< Alt and a drag: how far a test strip goes
  std::optional<double> alignedTo_;  ///< the end of another guide that a dragged end lies on, percent
};

class SpanBoard : public QWidget {
  Q_OBJECT
 public:
  explicit SpanBoard(Desk& desk, QWidget* parent = nullptr);
  [[nodiscard]] SpanChart& chart() { return *chart_; }

 private:
  SpanChart* chart_;
};

}  // namespace hscaffold::app
