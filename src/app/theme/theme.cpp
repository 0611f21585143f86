#include "app/theme/theme.h"

#include <QFontDatabase>
#include <QPalette>
#include <QStyleFactory>

#include "app/theme/icons.h"
#include "core/kinds.h"

/// Pictures of the style sheet are in the library, which has to be told to bring them.
static void bringPictures() { Q_INIT_RESOURCE(theme); }

namespace hscaffold::app {
namespace {

const Theme dusk{QColor("#242322"), QColor("#2d2c2a"), QColor("#383633"), QColor("#464646"),
                 QColor("#4a4743"), QColor("#ece7dd"), QColor("#a59f93"), QColor("#e59a3c"),
                 QColor("#241a0c"), QColor("#7fb069"), QColor("#e0b84c"), QColor("#e27b6f")};
const Theme day{QColor("#e9e6df"), QColor("#f4f1ea"), QColor("#ffffff"), QColor("#8f8f8f"),
                QColor("#cfc9bd"), QColor("#26241f"), QColor("#655f54"), QColor("#a85a15"),
                QColor("#ffffff"), QColor("#3f7030"), QColor("#7d5f0a"), QColor("#b23c2d")};
ThemeName current = ThemeName::dusk;

QString styleSheet(const Theme& t) {
  QString sheet = R"(
    QWidget { color: @text; }
    QMainWindow, QDialog { background: @ground; }
    QDialog { border: 1px solid @line; }
    QToolTip { background: @raised; color: @text; border: 1px solid @line; padding: 4px; }
    QLabel[role="note"] { color: @soft; }
    QLabel[role="title"] { font-weight: 600; }
    QFrame[role="panel"] { background: @panel; }
    QFrame[role="popover"] { background: @panel; border: 1px solid @line; border-radius: 3px; }
    QFrame[role="hairline"] { background: @line; }
    QPushButton, QToolButton { background: @raised; border: 1px solid @line; border-radius: 3px; padding: 4px 10px; }
    QToolButton { padding: 4px; }
    QPushButton:hover, QToolButton:hover { border-color: @soft; }
    QPushButton:pressed, QToolButton:pressed { background: @ground; }
    QPushButton:checked, QToolButton:checked { border-color: @accent; }
    QPushButton:focus, QToolButton:focus { border-color: @accent; }
    QPushButton:disabled, QToolButton:disabled { color: @soft; background: @panel; }
    QPushButton[role="primary"] { background: @accent; color: @onAccent; border-color: @accent; font-weight: 600; }
    QPushButton[role="primary"]:focus { border: 2px solid @text; padding: 3px 9px; }
    QPushButton[role="primary"]:disabled { background: @raised; color: @soft; border-color: @line; }
    QPushButton[role="link"], QToolButton[role="link"] { background: transparent; border: 1px solid transparent; color: @accent; padding: 2px 4px; }
    QPushButton[role="link"]:hover { text-decoration: underline; }
    QPushButton[role="link"]:focus, QToolButton[role="link"]:focus { border-color: @accent; }
    QPushButton[role="link"]:disabled { color: @soft; }
    QToolButton[role="leaf"] { padding: 2px 9px; color: @soft; background: transparent; }
    QToolButton[role="leaf"]:checked { color: @text; background: @raised; }
    QPushButton[role="tight"], QPushButton[role="primary"][tight="true"] { padding: 4px 7px; }
    QPushButton[role="chip"] { text-align: left; padding: 6px 12px; }
    QPushButton::menu-indicator, QToolButton::menu-indicator { image: none; width: 0; }
    QLineEdit, QPlainTextEdit, QTextEdit, QAbstractSpinBox, QComboBox { background: @raised; border: 1px solid @line; border-radius: 3px;
      padding: 3px 6px; selection-background-color: @accent; selection-color: @onAccent; }
    QLineEdit:focus, QPlainTextEdit:focus, QTextEdit:focus, QAbstractSpinBox:focus, QComboBox:focus { border-color: @accent; }
    QLineEdit[role="bare"] { background: transparent; border: 1px solid transparent; padding: 1px 2px; }
    QLineEdit[role="bare"]:hover { border-color: @line; }
    QLineEdit[role="bare"]:focus { border-color: @accent; background: @raised; }
    QAbstractSpinBox[role="bare"] { background: transparent; border: 1px solid transparent; padding: 0 1px; }
    QAbstractSpinBox[role="bare"]:hover { border-color: @line; }
    QAbstractSpinBox[role="bare"]:focus { border-color: @accent; background: @raised; }
    QComboBox { padding-right: 20px; }
    QComboBox::drop-down { border: none; width: 20px; subcontrol-origin: border; subcontrol-position: center right; }
    QComboBox::down-arrow { image: url(@choice); width: 10px; height: 10px; }
    QComboBox QAbstractItemView, QMenu { background: @raised; border: 1px solid @line; selection-background-color: @accent; selection-color: @onAccent; }
    QMenu::item { padding: 5px 24px 5px 16px; }
    QMenu::item:selected { background: @accent; color: @onAccent; }
    QMenu::item:disabled { color: @soft; }
    QMenu::separator { height: 1px; background: @line; margin: 4px 0; }
    QScrollArea, QScrollArea > QWidget > QWidget { background: transparent; border: none; }
    QScrollBar:vertical { background: transparent; width: 8px; } QScrollBar:horizontal { background: transparent; height: 8px; }
    QScrollBar::handle { background: @line; border-radius: 3px; min-height: 24px; min-width: 24px; }
    QScrollBar::add-line, QScrollBar::sub-line { width: 0; height: 0; }
    QScrollBar::add-page, QScrollBar::sub-page { background: transparent; }
    QSlider::groove:horizontal { background: @ground; height: 3px; border-radius: 1px; }
    QSlider::sub-page:horizontal { background: @soft; height: 3px; border-radius: 1px; }
    QSlider::handle:horizontal { background: @text; width: 10px; height: 10px; margin: -4px 0; border-radius: 5px; }
    QSlider::handle:horizontal:focus { background: @accent; }
    QSlider:disabled { background: transparent; }
    QSlider::handle:horizontal:disabled { background: @soft; }
    QProgressBar { background: @ground; border: none; border-radius: 1px; } QProgressBar::chunk { background: @accent; border-radius: 1px; }
    QTextBrowser { background: @panel; border: none; }
    QListView[role="strip"] { background: transparent; border: none; outline: none; }
    QListView[role="strip"]:focus { border: 1px solid @accent; }
    QPushButton[role="view"] { background: transparent; border: none; border-bottom: 2px solid transparent; border-radius: 0; color: @soft; padding: 7px 9px; }
    QPushButton[role="view"]:checked { color: @text; font-weight: 600; border-bottom-color: @accent; }
    QPushButton[role="view"]:hover { color: @text; }
    QPushButton[role="view"]:focus { border-bottom-color: @soft; }
    QTableView[role="sheet"] { background: @table; border: none; outline: none; selection-background-color: @table; }
    QTableView[role="sheet"] QHeaderView, QTableView[role="sheet"] QHeaderView::section { background: @panel; color: @text; border: none; }
    QTableView[role="sheet"] QTableCornerButton::section { background: @panel; border: none; }
    QTableView[role="plain"] { background: @panel; border: none; outline: none; }
    QFrame[role="card"] { background: @raised; border: 1px solid @line; border-radius: 3px; }
    QFrame[role="reading"] { background: @panel; border: none; border-left: 3px solid @accent; }
    QSplitter::handle { background: @ground; }
    QCheckBox::indicator { width: 14px; height: 14px; border: 1px solid @soft; border-radius: 3px; background: @raised; }
    QCheckBox::indicator:checked { background: @accent; border-color: @accent; }
    QCheckBox:focus { color: @accent; }
  )";
  const std::pair<const char*, QColor> colours[] = {
      {"@table", t.table}, {"@onAccent", t.onAccent}, {"@ground", t.ground},
      {"@panel", t.panel}, {"@raised", t.raised},     {"@line", t.line},
      {"@text", t.text},   {"@soft", t.softText},     {"@accent", t.accent}};
  sheet.replace("@choice", current == ThemeName::dusk ? ":/theme/choice-dusk.svg" : ":/theme/choice-day.svg");
  for (const auto& [token, colour] : colours) sheet.replace(QLatin1String(token), colour.name());
  return sheet;
}

}  // namespace

ThemeSignals& themeSignals() {
  static ThemeSignals all;
  return all;
}

const Theme& theme() { return current == ThemeName::dusk ? dusk : day; }
ThemeName themeName() { return current; }

QFont textFont(double points, int weight) {
  static const QString family = QFontDatabase::families().contains("Inter")
                                    ? QString("Inter")
                                    : QFontDatabase::systemFont(QFontDatabase::GeneralFont).family();
  QFont font(family);
  font.setPointSizeF(points);
  font.setWeight(static_cast<QFont::Weight>(weight));
  return font;
}

void applyTheme(ThemeName name) {
  bringPictures();
  current = name;
  const Theme& t = theme();
  qApp->setStyle(QStyleFactory::create("Fusion"));
  QPalette palette;
  palette.setColor(QPalette::Window, t.ground);
  palette.setColor(QPalette::WindowText, t.text);
  palette.setColor(QPalette::Base, t.raised);
  palette.setColor(QPalette::AlternateBase, t.panel);
  palette.setColor(QPalette::Text, t.text);
  palette.setColor(QPalette::PlaceholderText, t.softText);
  palette.setColor(QPalette::Button, t.raised);
  palette.setColor(QPalette::ButtonText, t.text);
  palette.setColor(QPalette::Highlight, t.accent);
  palette.setColor(QPalette::HighlightedText, t.onAccent);
  palette.setColor(QPalette::Link, t.accent);
  palette.setColor(QPalette::Disabled, QPalette::Text, t.softText);
  palette.setColor(QPalette::Disabled, QPalette::ButtonText, t.softText);
  qApp->setPalette(palette);
  qApp->setFont(textFont());
  qApp->setStyleSheet(styleSheet(t));
  refreshIcons();
  emit themeSignals().changed();
}

void setOwnSheet(QWidget& widget, const QString& sheet) {
  if (widget.styleSheet() != sheet) widget.setStyleSheet(sheet);
}

QColor kindColour(const std::string& kind) { return QColor(QRgb(0xff000000 | kindOf(kind).colour)); }

}  // namespace hscaffold::app
