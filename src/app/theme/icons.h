/// The application's own icons: 16 px line drawings in one stroke, coloured by the theme.
#pragma once

#include <QIcon>

class QAbstractButton;

namespace hscaffold::app {

/// @param name  "plus", "dice", "lock", "unlock", "undo", "redo", "turn", "flip-across", "flip-down", "menu"
QIcon icon(const QString& name);
/// The same on a button, which keeps it through changes of the theme.
void setIcon(QAbstractButton& button, const QString& name);
/// Draws all of them anew.
void refreshIcons();

}  // namespace hscaffold::app
