/// What both tables have in common: neutral ground, linked zoom and pan, mirrored pointer.
#pragma once

#include <QWidget>

#include "app/desk.h"
#include "app/widgets/linked_view.h"

namespace hscaffold::app {

class Table : public QWidget {
  Q_OBJECT
 public:
  explicit Table(Desk& desk, QWidget* parent = nullptr);
  ~Table() override;
  [[nodiscard]] QPointF toTable(QPointF inFrame) const { return view_.toTable(inFrame, size()); }
  [[nodiscard]] QPointF toFrame(QPointF onTable) const { return view_.toFrame(onTable, size()); }
  [[nodiscard]] QRectF frameOnTable() const;

 protected:
  void wheelEvent(QWheelEvent*) override;
  void mousePressEvent(QMouseEvent*) override;
  void mouseMoveEvent(QMouseEvent*) override;
  void mouseReleaseEvent(QMouseEvent*) override;
  void leaveEvent(QEvent*) override;
  void resizeEvent(QResizeEvent*) override;
  void showEvent(QShowEvent*) override;
  void hideEvent(QHideEvent*) override;
  void keyPressEvent(QKeyEvent*) override;
  /// An empty frame that says what to do first.
  void paintInvitation(QPainter& painter, const QString& title, const QString& how) const;
  /// Cross hairs where the pointer is on the other table.
  void paintPointer(QPainter& painter, bool evenUnderMouse = false) const;
  [[nodiscard]] bool panning() const { return panning_; }
  /// Whether a drag with Alt moves the view; otherwise Alt means something to what is in hand.
  [[nodiscard]] virtual bool altMoves() const { return true; }
  void beginPan(QPointF at);

  Desk& desk_;
  LinkedView& view_;

 private:
  bool panning_ = false;
  QPointF last_;
  std::optional<QPointF> crossAt_;  ///< where the mirrored pointer was painted
};

}  // namespace hscaffold::app
