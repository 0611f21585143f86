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
  if (event->type() != QEvent::KeyPress) return false;
  const auto* key = static_cast<QKeyEvent*>(event);
  const bool closed = list_ != nullptr && !std::exchange(list_, nullptr)->isVisible();
  held_ = key->key() == key_ && (closed || (held_ && key->isAutoRepeat()));
  if (held_) event->accept();
  return held_;
}

}  // namespace hscaffold::app
