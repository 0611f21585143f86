/// The pictures of a sheet in their rows and columns, values at the axes, hold and shift under each.
#pragma once

#include <QTableView>
#include <optional>
#include <set>

#include "app/sheet/sheet_model.h"

namespace hscaffold::app {

/// The part of every picture that is seen: all cells show the same place at the same size.
struct CellLens {
  double zoom = 1;           ///< 1: all of it
  QPointF centre{0.5, 0.5};  ///< shares of width and height
  bool squint = false;       ///< small and blurred, as from afar
};

class SheetGrid : public QTableView {
  Q_OBJECT
 public:
  SheetGrid(Desk& desk, SheetModel& model, QWidget* parent = nullptr);
  static constexpr int narrowest = 48, widest = 1600;
  /// Chosen for the sheet that is shown.
  void setCellWidth(int width);
  [[nodiscard]] int cellWidth() const { return cellWidth_; }
  [[nodiscard]] const CellLens& lens() const { return lens_; }
  void setSquint(bool squint);
  void showAll();
  /// Outlines cells: what a reading rests on.
  void setEvidence(std::set<std::int64_t> proofs);
  [[nodiscard]] const std::set<std::int64_t>& evidence() const { return evidence_; }
  /// What can be pressed on the picture under the pointer.
  enum class Mark { compare, adopt };
  /// None where the picture is too small for it.
  [[nodiscard]] QRectF markPlace(const QModelIndex& index, Mark mark) const;
  [[nodiscard]] QModelIndex hovered() const { return hovered_; }
  [[nodiscard]] std::optional<Mark> pressed() const { return pressed_; }
  /// What stands over each picture besides, in pixels.
  [[nodiscard]] int captionHeight() const;
  /// The cell that the keys are on, chosen or not; 0: none.
  [[nodiscard]] std::int64_t currentProof() const { return model_.numberAt(currentIndex()); }
  /// Selected proofs, the one that is looked at first.
  [[nodiscard]] std::vector<std::int64_t> selectedProofs() const;
  void selectProofs(const std::vector<std::int64_t>& numbers);

 signals:
  void sized(int width);            ///< pictures have another width
  void picked();                    ///< the selection is another
  void openAsked();                 ///< the selected ones large
  void compareAsked(qint64 proof);  ///< that one large, with the one that is chosen
  void adoptAsked(qint64 proof);
  void menuAsked(const QPoint& global);
  void waitingMenuAsked(const QPoint& global, qint64 pull);  ///< on a cell that is still to come

 protected:
  void resizeEvent(QResizeEvent*) override;
  void wheelEvent(QWheelEvent*) override;
  void keyPressEvent(QKeyEvent*) override;
  void mousePressEvent(QMouseEvent*) override;
  void mouseMoveEvent(QMouseEvent*) override;
  void mouseReleaseEvent(QMouseEvent*) override;
  void mouseDoubleClickEvent(QMouseEvent*) override;
  void leaveEvent(QEvent*) override;
  bool viewportEvent(QEvent*) override;
  void contextMenuEvent(QContextMenuEvent*) override;
  void paintEvent(QPaintEvent*) override;
  void selectionChanged(const QItemSelection& selected, const QItemSelection& deselected) override;

 private:
  void fitCells();
  /// Cells as large as the whole matrix leaves room for, or as they were chosen for it.
  void fitMatrix();
  [[nodiscard]] std::int64_t sheetNumber() const { return model_.sheet() != nullptr ? model_.sheet()->number : 0; }
  /// Where in the picture the pointer is, as shares; none beside pictures.
  [[nodiscard]] std::optional<QPointF> placeInPicture(QPoint at) const;
  void moveLens(double zoom, QPointF centre);

  Desk& desk_;
  SheetModel& model_;
  CellLens lens_;
  std::set<std::int64_t> evidence_;
  [[nodiscard]] QRectF picturePlace(const QModelIndex& index) const;
  /// The mark under a place of the viewport.
  [[nodiscard]] std::optional<Mark> markAt(QPoint at) const;
  void hover(QPoint at);

  int cellWidth_ = 132;
  std::optional<QPoint> panFrom_;
  QPersistentModelIndex hovered_;
  std::optional<Mark> pressed_;
  bool quiet_ = false;
};

}  // namespace hscaffold::app
