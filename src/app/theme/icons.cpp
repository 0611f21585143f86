#include "app/theme/icons.h"

#include <QAbstractButton>
#include <QApplication>

#include <QHash>
#include <QPainter>
#include <QPixmap>
#include <QSvgRenderer>

#include "app/theme/theme.h"

namespace hscaffold::app {

constexpr const char* iconProperty = "icon-name";
namespace {

const QHash<QString, QString>& paths() {
  static const QHash<QString, QString> all = {
      {"hint", "<path d='M2.500 11c3-5 7-6 11-5' stroke-width='3.200'/><path d='M4 4h.01M7 3h.01' stroke-width='2'/>"},
      {"same-depth", "<path d='M3 6h10M3 10h10'/>"},
      {"in-front", "<rect x='2.500' y='6.500' width='6.500' height='6.500'/><path d='M6.500 4V2.500h7v7H12'/>"},
      {"ramp",
       "<path d='M3 12.500l10-8' stroke-dasharray='2.500 2'/><circle cx='3' cy='12.500' r='1.500'/><circle cx='13' "
       "cy='4.500' r='1.500'/>"},
      {"plane", "<path d='M5.500 4.500h8.500l-3.500 7H2z'/>"},
      {"cut-out",
       "<path d='M4 3l8 8M12 3l-8 8'/><circle cx='3.500' cy='12.500' r='1.600'/><circle cx='12.500' cy='12.500' "
       "r='1.600'/>"},
      {"lighten",
       "<circle cx='8' cy='8' r='2.800'/><path d='M8 1.800v1.700M8 12.500v1.700M1.800 8h1.700M12.500 8h1.700M3.600 "
       "3.600l1.200 1.200M11.200 11.200l1.200 1.200M12.400 3.600l-1.200 1.200M4.800 11.200l-1.200 1.200'/>"},
      {"smudge", "<path d='M3 12.500c4 0 3-4 6-4M5 14c5 .500 4-3 8-3.500M7.500 6.500l4-4 2 2-4 4z'/>"},
      {"shadow-brush", "<path d='M11.500 2.500a6 6 0 100 11 7 7 0 010-11zM6 5.500l1.500 5'/>"},
      {"light-brush",
       "<circle cx='8' cy='8' r='3.300'/><path d='M8 1.800v1.500M8 12.700v1.500M1.800 8h1.500M12.700 8h1.500'/>"},
      {"fall-of-light", "<path d='M3 13L13 3M3 8l5-5M8 13l5-5'/>"},
      {"lamp", "<circle cx='8' cy='8' r='5.500'/><circle cx='8' cy='8' r='2'/>"},
      {"rays",
       "<circle cx='12.500' cy='3.500' r='1.500'/><path d='M10.500 4L2.500 5.500M10.800 5L4 10.500M12 5.800L8 13'/>"},
      {"light-area", "<path d='M3.500 6C5 2.500 11 2 12.500 6S9 13.500 6 12.500 2.500 9 3.500 6z'/>"},
      {"doubt", "<path d='M5.500 6a2.500 2.500 0 114 2c-1 .700-1.500 1.200-1.500 2.200M8 13h.01'/>"},
      {"plus", "<path d='M8 3v10M3 8h10'/>"},
      {"menu", "<path d='M3 4.5h10M3 8h10M3 11.5h10'/>"},
      {"dice",
       "<rect x='2.5' y='2.5' width='11' height='11' rx='2'/><path d='M5.6 5.6h.01M10.4 5.6h.01M8 8h.01M5.6 "
       "10.4h.01M10.4 10.4h.01'/>"},
      {"lock", "<rect x='3.5' y='7.5' width='9' height='6' rx='1'/><path d='M5.5 7.5V5a2.5 2.5 0 015 0v2.5'/>"},
      {"unlock", "<rect x='3.5' y='7.5' width='9' height='6' rx='1'/><path d='M5.5 7.5V4.5a2.5 2.5 0 014.8-1'/>"},
      {"look",
       "<path d='M8 2v12M2 8h12M6.300 3.700L8 2l1.700 1.700M6.300 12.300L8 14l1.700-1.700M3.700 6.300L2 8l1.700 "
       "1.700M12.300 6.300L14 8l-1.700 1.700'/>"},
      {"lay",
       "<path d='M4 4.500h9l-1.500 7.500H2.500z'/><path d='M8.500 4.500V1.800M6 12l1-7.500M10 12l.500-7.500M3.500 "
       "8h9'/>"},
      {"draw", "<path d='M2.500 13.500l1-3.500 7-7 2.500 2.500-7 7zM9 4.500l2.500 2.500'/>"},
      {"rub-out", "<path d='M2.500 10l6-6.500 5 4.500-5 5.500h-3zM5.500 7l5 4.500M8 13.500h5.500'/>"},
      {"restore",
       "<path d='M3 5.500h7a3 3 0 010 6H5M5.500 3L3 5.500 5.500 8'/><path d='M3 14h10' stroke-dasharray='1.500 "
       "2.500'/>"},
      {"keep-loop",
       "<path d='M8 2.500c3.500 0 5.500 2 5.500 4.500S11 11.500 8 11.500 2.500 9.500 2.500 7 4.500 2.500 8 2.500z' "
       "stroke-dasharray='2.500 2'/><path d='M5.500 7l2 2 3.500-4M6 11.500L5 14'/>"},
      {"drop-loop",
       "<path d='M8 2.500c3.500 0 5.500 2 5.500 4.500S11 11.500 8 11.500 2.500 9.500 2.500 7 4.500 2.500 8 2.500z' "
       "stroke-dasharray='2.500 2'/><path d='M6.300 5.300l3.400 3.400M9.700 5.300L6.300 8.700M6 11.500L5 14'/>"},
      {"specks",
       "<path d='M3.500 4h.01M8 3h.01M12.500 5h.01M5 8h.01M10 8.500h.01M3.500 12h.01'/><path d='M8.500 "
       "13.500l5-5M8.500 8.500l5 5' stroke-width='1.200'/>"},
      {"pen",
       "<path d='M2.500 12.500c3-1 1.500-6 4.500-7s3 6 6.500 3'/><path d='M2.500 12.500h.01M13.500 8.500h.01' "
       "stroke-width='3'/>"},
      {"strokes", "<path d='M3 2.500l9 5-4 1.200L6 12.500z'/><path d='M10 12.500c1.500-1.500 2.500 1 4-.500'/>"},
      {"region",
       "<rect x='2.500' y='2.500' width='11' height='11' rx='2' stroke-dasharray='2.500 2'/><circle cx='8' cy='8' "
       "r='2.500'/>"},
      {"paint",
       "<path d='M9 3l4 4-5.500 3.500L6 9zM6 9c-2 0-2.500 1.500-2.500 4.500C6 13.500 7.500 12.500 7.500 10.500'/>"},
      {"take-away", "<path d='M2.500 8a5.500 5.500 0 1011 0 5.500 5.500 0 10-11 0M5.500 8h5'/>"},
      {"add-loop",
       "<path d='M8 2.500c3.500 0 5.500 2 5.500 4.500S11 11.500 8 11.500 2.500 9.500 2.500 7 4.500 2.500 8 2.500z' "
       "stroke-dasharray='2.500 2'/><path d='M8 5v4M6 7h4M6 11.500L5 14'/>"},
      {"colour",
       "<path d='M8 2c2.500 3 4 5 4 7.200a4 4 0 01-8 0C4 7 5.500 5 8 2zM6.200 9.800c.2 1 .9 1.600 1.800 1.700'/>"},
      {"joints",
       "<path d='M4.200 11.300l2.300-3.800M8.800 6.200l2.900-1.700'/><circle cx='3.300' cy='12.700' r='1.600'/><circle "
       "cx='7.300' "
       "cy='6.800' r='1.600'/><circle cx='13' cy='3.700' r='1.600'/>"},
      {"turn-limb",
       "<path d='M3 13L12 8.500M6 3.500a7 7 0 016.500 3M13.300 3.800l-.700 2.900-2.900-.600'/><circle cx='3' cy='13' "
       "r='1'/>"},
      {"figure",
       "<circle cx='8' cy='4' r='1.500'/><path d='M8 5.500v4M5 7.300h6M8 9.500l-2 3.500M8 9.500l2 3.500'/><path d='M2 "
       "4V2h2M12 "
       "2h2v2M14 12v2h-2M4 14H2v-2' stroke-width='1.200'/>"},
      {"find-here",
       "<path d='M2 5V2h3M11 2h3v3M2 11v3h3' stroke-width='1.200'/><circle cx='8' cy='5.500' r='1.500'/><path d='M8 "
       "7v3M5.500 8.500h5'/><circle cx='11.500' cy='11.500' r='2'/><path d='M13 13l1.500 1.500'/>"},
      {"hide",
       "<circle cx='4.500' cy='8' r='2.500'/><circle cx='11.500' cy='8' r='2.500' stroke-dasharray='1.600 1.600'/>"},
      {"more", "<path d='M3.500 8h.01M8 8h.01M12.500 8h.01' stroke-width='2.200'/>"},
      {"undo", "<path d='M6 3.5L3 6.5l3 3M3.5 6.5h6a3.5 3.5 0 010 7H7'/>"},
      {"redo", "<path d='M10 3.5l3 3-3 3M12.500 6.5h-6a3.500 3.500 0 000 7H9'/>"},
      {"turn", "<path d='M12.8 9.500A5 5 0 118 3h3M9 1l2.200 2L9 5'/>"},
      {"flip-across", "<path d='M8 2v12' stroke-dasharray='2 2'/><path d='M6 4.500v7L2 11.500zM10 4.500v7l4 0z'/>"},
      {"flip-down", "<path d='M2 8h12' stroke-dasharray='2 2'/><path d='M4.500 6h7L11.500 2zM4.500 10h7l0 4z'/>"}};
  return all;
}

QPixmap drawn(const QString& name, const QColor& colour, int size) {
  const QString svg =
      QString(
          "<svg xmlns='http://www.w3.org/2000/svg' viewBox='0 0 16 16'><g fill='none' stroke='%1' stroke-width='1.5' "
          "stroke-linecap='round' stroke-linejoin='round'>%2</g></svg>")
          .arg(colour.name(), paths().value(name));
  QSvgRenderer renderer(svg.toUtf8());
  QPixmap pixmap(size, size);
  pixmap.fill(Qt::transparent);
  QPainter painter(&pixmap);
  renderer.render(&painter);
  return pixmap;
}

/// Icons in the colours of the theme, by name; never taken down, since pixmaps must not outlive the application.
QHash<QString, QIcon>& drawnSoFar() {
  static auto* const icons = new QHash<QString, QIcon>;
  return *icons;
}

}  // namespace

QIcon icon(const QString& name) {
  QIcon& out = drawnSoFar()[name];
  if (!out.isNull()) return out;
  for (const int size : {16, 24, 32}) {
    out.addPixmap(drawn(name, theme().text, size), QIcon::Normal);
    out.addPixmap(drawn(name, theme().softText, size), QIcon::Disabled);
  }
  return out;
}

void setIcon(QAbstractButton& button, const QString& name) {
  if (button.property(iconProperty).toString() == name && !button.icon().isNull()) return;
  button.setProperty(iconProperty, name);
  button.setIcon(icon(name));
}

void refreshIcons() {
  drawnSoFar().clear();
  for (QWidget* widget : QApplication::allWidgets())
    if (auto* button = qobject_cast<QAbstractButton*>(widget))
      if (const QString name = button->property(iconProperty).toString(); !name.isEmpty()) button->setIcon(icon(name));
}

}  // namespace hscaffold::app
