#include "app/widgets/list_keys.h"

#include <QApplication>
#include <QKeyEvent>
#include <utility>

namespace hscaffold::app {

ListKeys::ListKeys(QObject* parent) : QObject(parent) { QApplication::instance()->installEventFilter(this); }

bool ListKeys::eventFilter(QObject*, QEvent* event) {
  if (event->type() == QEvent::ShortcutOverride) {
    QWidget* popup = QApplication::activePopupWidget();
    // It comes to the window first, and then to what has the focus: by then the list may be closed.
    if (popup == nullptr || !popup->inherits("QComboBoxPrivateContainer")) return false;
    list_ = popup;
    key_ = static_cast<QKeyEvent*>(event)->key();
    return false;
  }
  if (event->type() != QEvent::KeyPress || list_ == nullptr) return false;
  const bool closed = !std::exchange(list_, nullptr)->isVisible();
  if (!closed || static_cast<QKeyEvent*>(event)->key() != key_) return false;
  event->accept();
  return true;
}

}  // namespace hscaffold::app
