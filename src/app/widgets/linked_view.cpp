#include "app/widgets/linked_view.h"

#include <algorithm>

namespace hscaffold::app {
namespace {

constexpr double margin = 8, smallest = 0.02, largest = 32;

}  // namespace

QSizeF LinkedView::room(QSizeF table) const {
  for (const auto& [id, size] : tables_) table = table.boundedTo(size);
  return table;
}

void LinkedView::setTable(const void* table, std::optional<QSizeF> size) {
  if (size)
    tables_[table] = *size;
  else
    tables_.erase(table);
  emit moved();
}

double LinkedView::scale(QSizeF table) const {
  if (!fitting_) return scale_;
  table = room(table);
  return std::max(smallest, std::min((table.width() - 2 * margin) / frame_.width(),
                                     (table.height() - 2 * margin) / frame_.height()));
}

QPointF LinkedView::origin(QSizeF table) const {
  table = room(table);
  const QPointF middle(table.width() / 2, table.height() / 2);
  const QPointF centre = fitting_ ? QPointF(frame_.width() / 2.0, frame_.height() / 2.0) : centre_;
  return middle - centre * scale(table);
}

void LinkedView::setFrame(QSize frame) {
  if (frame == frame_) return;
  frame_ = frame;
  fit();
}

void LinkedView::fit() {
  fitting_ = true;
  emit moved();
}

void LinkedView::zoom(double factor, QPointF onTable, QSizeF table) {
  const QPointF held = toFrame(onTable, table);
  const double next = std::clamp(scale(table) * factor, smallest, largest);
  table = room(table);
  const QPointF middle(table.width() / 2, table.height() / 2);
  fitting_ = false;
  scale_ = next;
  centre_ = held + (middle - onTable) / next;
  emit moved();
}

void LinkedView::pan(QPointF byPixels, QSizeF table) {
  const double now = scale(table);
  const QSizeF shared = room(table);
  const QPointF centre = toFrame({shared.width() / 2, shared.height() / 2}, table);
  fitting_ = false;
  scale_ = now;
  centre_ = centre - byPixels / now;
  emit moved();
}

void LinkedView::setActualSize(QSizeF table) { zoom(1 / scale(table), {table.width() / 2, table.height() / 2}, table); }

void LinkedView::showPlace(QPointF inFrame, double scale, QSizeF table) {
  fitting_ = false;
  scale_ = std::clamp(scale, smallest, largest);
  const QSizeF shared = room(table);
  centre_ = inFrame + QPointF((shared.width() - table.width()) / 2, (shared.height() - table.height()) / 2) / scale_;
  emit moved();
}

void LinkedView::setPointer(std::optional<QPointF> inFrame) {
  if (inFrame == pointer_) return;
  pointer_ = inFrame;
  emit pointerMoved();
}

}  // namespace hscaffold::app
