/// Menus that are open while everything goes on: nobody waits for them in a nested event loop, so what they were opened
/// from may go meanwhile, and they go with it.
#pragma once

#include <QMenu>

namespace hscaffold::app {

/// An empty menu of `owner`, which deletes itself once it was closed; to be shown by `popup`.
inline QMenu* newMenu(QWidget& owner) {
  auto* menu = new QMenu(&owner);
  menu->setAttribute(Qt::WA_DeleteOnClose);
  return menu;
}

}  // namespace hscaffold::app
