/// Zoom, pan and pointer shared by the two tables: both show the same place of the frame at the same size.
#pragma once

#include <QObject>
#include <QPointF>
#include <QSizeF>
#include <map>
#include <optional>

namespace hscaffold::app {

class LinkedView : public QObject {
  Q_OBJECT
 public:
  using QObject::QObject;

  [[nodiscard]] bool fitting() const { return fitting_; }
  /// Screen pixels per frame pixel, for a table of that size.
  [[nodiscard]] double scale(QSizeF table) const;
  /// Where the frame's upper left corner lies in the table.
  [[nodiscard]] QPointF origin(QSizeF table) const;
  [[nodiscard]] QPointF toTable(QPointF inFrame, QSizeF table) const { return origin(table) + inFrame * scale(table); }
  [[nodiscard]] QPointF toFrame(QPointF onTable, QSizeF table) const {
    return (onTable - origin(table)) / scale(table);
  }

  /// Both tables fit and centre the frame in the room that the smaller of them has, so that the pictures lie alike.
  void setTable(const void* table, std::optional<QSizeF> size);
  void setFrame(QSize frame);
  [[nodiscard]] QSize frame() const { return frame_; }
  void fit();
  /// By a factor, with the frame point under `onTable` staying where it is.
  void zoom(double factor, QPointF onTable, QSizeF table);
  void pan(QPointF byPixels, QSizeF table);
  void setActualSize(QSizeF table);
  /// A place in the middle of the table, at a scale.
  void showPlace(QPointF inFrame, double scale, QSizeF table);

  /// Where the pointer is in the frame; shown on both tables.
  void setPointer(std::optional<QPointF> inFrame);
  [[nodiscard]] std::optional<QPointF> pointer() const { return pointer_; }

 signals:
  void moved();
  void pointerMoved();

 private:
  [[nodiscard]] QSizeF room(QSizeF table) const;

  std::map<const void*, QSizeF> tables_;
  QSize frame_{768, 512};
  bool fitting_ = true;
  double scale_ = 1;
  QPointF centre_;  ///< frame point in the middle of the table
  std::optional<QPointF> pointer_;
};

}  // namespace hscaffold::app
