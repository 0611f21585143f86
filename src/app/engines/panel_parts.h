/// What the panels about engines have in common.
#pragma once

#include <functional>

class QFrame;
class QGridLayout;
class QKeyEvent;
class QLineEdit;
class QString;
class QVBoxLayout;

namespace hscaffold::app {

/// Makes a frame one that lies over the window: its name for tests, its title, and below it what it is about, if there
/// is something to say. @return where the rest goes
QVBoxLayout* panelColumn(QFrame& panel, const char* name, const QString& title, const QString& about);
/// A line to be typed into, with its label before it.
QLineEdit* labelledLine(QGridLayout& grid, int row, const QString& label, const char* name, const QString& hint);

/// What keys do in such a panel: Return does what its button does, Escape closes it. @return whether it was one of them
bool panelKey(QFrame& panel, const QKeyEvent& event, const std::function<void()>& onReturn);

}  // namespace hscaffold::app
