/// Small parts that the rooms of the Bench are put together from.
#pragma once

#include <QFrame>
#include <QHBoxLayout>
#include <QLabel>
#include <QPushButton>
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

/// A button with all that it has. @param role  of the style sheet; null: plain
inline QPushButton* namedButton(const char* name, const QString& text, const QString& tip, const char* role = nullptr) {
  auto* made = new QPushButton(text);
  made->setObjectName(name);
  made->setToolTip(tip);
  if (role != nullptr) made->setProperty("role", role);
  return made;
}

}  // namespace hscaffold::app
