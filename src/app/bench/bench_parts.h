/// Small parts that the rooms of the Bench are put together from.
#pragma once

#include <QFrame>
#include <QHBoxLayout>
#include <QLabel>
#include <QVBoxLayout>

namespace hscaffold::app {

/// A piece of the board's ground, round a widget.
inline QWidget* panel(QWidget* inside = nullptr) {
  auto* frame = new QFrame;
  frame->setProperty("role", "panel");
  if (inside != nullptr) {
    auto* layout = new QVBoxLayout(frame);
    layout->setContentsMargins(0, 0, 0, 0);
    layout->addWidget(inside);
  }
  return frame;
}

/// The line over a table, to be filled.
inline QWidget* headOf(QHBoxLayout*& row) {
  auto* head = panel();
  head->setFixedHeight(36);
  row = new QHBoxLayout(head);
  row->setContentsMargins(12, 3, 12, 3);
  row->setSpacing(6);
  return head;
}

inline QLabel* titleLabel(const QString& text) {
  auto* label = new QLabel(text);
  label->setProperty("role", "title");
  return label;
}

}  // namespace hscaffold::app
