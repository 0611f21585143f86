#include "app/widgets/room.h"

#include <QApplication>
#include <QPainter>
#include <QVBoxLayout>

#include "app/theme/theme.h"

namespace hscaffold::app {

Room::Room(const QString& name, QWidget* inside, QWidget* first) : first_(first) {
  setProperty("role", "panel");
  setAccessibleName(name);
  auto* layout = new QVBoxLayout(this);
  layout->setContentsMargins(0, 2, 0, 0);  // for the line that shows the focus
  layout->addWidget(inside);
}

void Room::follow(QWidget* now) {
  const bool here = now != nullptr && isAncestorOf(now);
  if (here) last_ = now;
  if (here != had_) update();
  had_ = here;
}

/// What Tab stops at, in the order of the focus chain.
QList<QWidget*> Room::stops() const {
  QList<QWidget*> all;
  for (QWidget* each = nextInFocusChain(); each != nullptr && each != this; each = each->nextInFocusChain())
    if (isAncestorOf(each) && each->isVisibleTo(window()) && each->isEnabled() &&
        (each->focusPolicy() & Qt::TabFocus) != 0 && each->focusProxy() == nullptr)
      all << each;
  return all;
}

bool Room::canEnter() const { return isVisible() && !stops().isEmpty(); }

bool Room::holdsFocus() const {
  const QWidget* now = QApplication::focusWidget();
  return now != nullptr && isAncestorOf(now);
}

void Room::enter() {
  const auto all = stops();
  if (all.isEmpty()) return;
  QWidget* target = last_ && all.contains(last_.data())         ? last_.data()
                    : first_ != nullptr && all.contains(first_) ? first_
                                                                : all.first();
  target->setFocus(Qt::TabFocusReason);
}

bool Room::focusNextPrevChild(bool next) {
  const auto all = stops();
  if (all.isEmpty()) return false;
  auto at = all.indexOf(QApplication::focusWidget());
  // The focus may be inside of something that is one stop.
  for (QWidget* up = QApplication::focusWidget(); at < 0 && up != nullptr && up != this; up = up->parentWidget())
    at = all.indexOf(up);
  const auto to = at < 0 ? 0 : at + (next ? 1 : -1);
  if (to < 0 || to >= all.size())
    emit left(next ? 1 : -1);
  else
    all[to]->setFocus(next ? Qt::TabFocusReason : Qt::BacktabFocusReason);
  return true;
}

void Room::enterAtEnd(bool first) {
  if (const auto all = stops(); !all.isEmpty())
    (first ? all.first() : all.last())->setFocus(first ? Qt::TabFocusReason : Qt::BacktabFocusReason);
}

void Room::paintEvent(QPaintEvent* event) {
  QFrame::paintEvent(event);
  if (!had_) return;
  // A thin line along the top: the room in which keys act.
  QPainter painter(this);
  painter.fillRect(QRect(0, 0, width(), 2), theme().accent);
}

}  // namespace hscaffold::app
