#include "app/engines/panel_parts.h"

#include <QFrame>
#include <QGridLayout>
#include <QKeyEvent>
#include <QLabel>
#include <QLineEdit>
#include <QVBoxLayout>

#include "app/widgets/note_label.h"

namespace hscaffold::app {

QVBoxLayout* panelColumn(QFrame& panel, const char* name, const QString& title, const QString& about) {
  panel.setObjectName(name);
  panel.setProperty("role", "popover");
  panel.setWindowTitle(title);
  auto* column = new QVBoxLayout(&panel);
  column->setContentsMargins(14, 12, 14, 12);
  column->setSpacing(8);
  auto* head = new QLabel(title);
  head->setProperty("role", "title");
  column->addWidget(head);
  if (!about.isEmpty()) {
    auto* note = noteLabel(about);
    note->setWordWrap(true);
    column->addWidget(note);
  }
  return column;
}

QLineEdit* labelledLine(QGridLayout& grid, int row, const QString& label, const char* name, const QString& hint) {
  auto* edit = new QLineEdit;
  edit->setObjectName(name);
  edit->setAccessibleName(label);
  edit->setPlaceholderText(hint);
  grid.addWidget(noteLabel(label), row, 0);
  grid.addWidget(edit, row, 1);
  return edit;
}

bool panelKey(QFrame& panel, const QKeyEvent& event, const std::function<void()>& onReturn) {
  if (event.key() == Qt::Key_Return || event.key() == Qt::Key_Enter)
    onReturn();
  else if (event.key() == Qt::Key_Escape)
    panel.close();
  else
    return false;
  return true;
}

}  // namespace hscaffold::app
