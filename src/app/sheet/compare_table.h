/// Up to four proofs, and the reference, at the same place and zoom: side by side, one after the other (blink), or one
/// laid over the other up to a line (wipe).
#pragma once

#include <QTimer>
#include <QWidget>
#include <vector>

#include "app/desk.h"
#include "app/widgets/linked_view.h"

namespace hscaffold::app {

enum class CompareLook { beside, blink, wipe };

class CompareTable : public QWidget {
  Q_OBJECT
 public:
  explicit CompareTable(Desk& desk, QWidget* parent = nullptr);
  /// At most four; the first is the one that is looked at.
  void setProofs(const std::vector<std::int64_t>& numbers);
  void setLook(CompareLook look);
  [[nodiscard]] CompareLook look() const { return look_; }
  void setReferenceShown(bool shown);
  /// Whose hold is said: a guide's id; empty: the mean of all.
  void setHoldOf(const std::string& guide);
  void setSquint(bool squint);
  void showAll();
  [[nodiscard]] LinkedView& view() { return view_; }
  /// What is seen where, for tests and reading: numbers of proofs, 0 for the reference.
  [[nodiscard]] std::vector<std::int64_t> tiles() const;
  [[nodiscard]] double wipeAt() const { return wipeAt_; }

 signals:
  void closeAsked();

 protected:
  void paintEvent(QPaintEvent*) override;
  void wheelEvent(QWheelEvent*) override;
  void mousePressEvent(QMouseEvent*) override;
  void mouseMoveEvent(QMouseEvent*) override;
  void mouseReleaseEvent(QMouseEvent*) override;
  void mouseDoubleClickEvent(QMouseEvent*) override;
  void keyPressEvent(QKeyEvent*) override;

 private:
  [[nodiscard]] std::vector<QRect> places() const;
  [[nodiscard]] QRect placeAt(QPoint at) const;
  void paintTile(QPainter& painter, const QRect& place, std::int64_t number);
  [[nodiscard]] QImage pictureOf(std::int64_t number);

  Desk& desk_;
  LinkedView view_;
  std::vector<std::int64_t> numbers_;
  std::string holdOf_;
  CompareLook look_ = CompareLook::beside;
  bool reference_ = false, squint_ = false, wiping_ = false;
  double wipeAt_ = 0.5;
  std::size_t blinking_ = 0;
  QTimer blink_;
  QPoint last_;
};

}  // namespace hscaffold::app
