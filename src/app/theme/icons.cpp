#include "app/theme/icons.h"

#include <QHash>
#include <QPainter>
#include <QPixmap>
#include <QSvgRenderer>

#include "app/theme/theme.h"

namespace hscaffold::app {
namespace {

const QHash<QString, QString>& paths() {
  static const QHash<QString, QString> all = {
      {"plus", "<path d='M8 3v10M3 8h10'/>"},
      {"menu", "<path d='M3 4.5h10M3 8h10M3 11.5h10'/>"},
      {"dice",
       "<rect x='2.5' y='2.5' width='11' height='11' rx='2'/><path d='M5.6 5.6h.01M10.4 5.6h.01M8 8h.01M5.6 "
       "10.4h.01M10.4 10.4h.01'/>"},
      {"lock", "<rect x='3.5' y='7.5' width='9' height='6' rx='1'/><path d='M5.5 7.5V5a2.5 2.5 0 015 0v2.5'/>"},
      {"unlock", "<rect x='3.5' y='7.5' width='9' height='6' rx='1'/><path d='M5.5 7.5V4.5a2.5 2.5 0 014.8-1'/>"},
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

}  // namespace

QIcon icon(const QString& name) {
  QIcon out;
  for (const int size : {16, 24, 32}) {
    out.addPixmap(drawn(name, theme().text, size), QIcon::Normal);
    out.addPixmap(drawn(name, theme().softText, size), QIcon::Disabled);
  }
  return out;
}

}  // namespace hscaffold::app
