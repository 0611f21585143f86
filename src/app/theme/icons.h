/// The application's own icons: 16 px line drawings in one stroke, coloured by the theme.
#pragma once

#include <QIcon>

namespace hscaffold::app {

/// @param name  "plus", "dice", "lock", "unlock", "undo", "redo", "turn", "flip-across", "flip-down", "menu"
QIcon icon(const QString& name);

}  // namespace hscaffold::app
