/// Fields that leave undo to the study.
#pragma once

#include <QKeyEvent>
#include <QKeySequence>

namespace hscaffold::app {

/// Whether an event asks a field if it wants the keys of undo or redo for itself; it is then told that it does not, and
/// nothing else is to be done with it.
inline bool leavesUndo(QEvent& event) {
  if (event.type() != QEvent::ShortcutOverride) return false;
  const auto& key = static_cast<QKeyEvent&>(event);
  if (!key.matches(QKeySequence::Undo) && !key.matches(QKeySequence::Redo)) return false;
  event.ignore();
  return true;
}

}  // namespace hscaffold::app
