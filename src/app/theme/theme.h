/// Colours, type and style of the window: dusk (default) and day.
#pragma once

#include <QApplication>
#include <QColor>
#include <QFont>
#include <QObject>
#include <QString>

namespace hscaffold::app {

struct Theme {
  QColor ground, panel, raised, table, line, text, softText, accent, onAccent, good, doubt, bad;
};

enum class ThemeName { dusk, day };

/// Says that the theme is another: for what keeps colours of its own.
class ThemeSignals : public QObject {
  Q_OBJECT
 signals:
  void changed();
};
ThemeSignals& themeSignals();

const Theme& theme();
ThemeName themeName();
/// Sets palette, style sheet and fonts of the whole application; what is open is restyled in place.
void applyTheme(ThemeName name);

/// Gives a widget a sheet of its own. One that it has already costs nothing; a new one looks all its styles up anew and
/// has its surroundings laid out.
void setOwnSheet(QWidget& widget, const QString& sheet);

/// Inter with tabular figures, or the desktop's sans where it is not installed.
QFont textFont(double points = 10, int weight = QFont::Normal);
/// A guide kind's colour.
QColor kindColour(const std::string& kind);

}  // namespace hscaffold::app
