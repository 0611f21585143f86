/// Colours, type and style of the window: dusk (default) and day.
#pragma once

#include <QApplication>
#include <QColor>
#include <QFont>
#include <QString>

namespace hscaffold::app {

struct Theme {
  QColor ground, panel, raised, table, line, text, softText, accent, onAccent, good, doubt, bad;
};

enum class ThemeName { dusk, day };

const Theme& theme();
ThemeName themeName();
/// Sets palette, style sheet and fonts of the whole application.
void applyTheme(ThemeName name);

/// Inter with tabular figures, or the desktop's sans where it is not installed.
QFont textFont(double points = 10, int weight = QFont::Normal);
/// A guide kind's colour.
QColor kindColour(const std::string& kind);

}  // namespace hscaffold::app
