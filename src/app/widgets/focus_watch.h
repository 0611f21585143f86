/// Who follows the focus of the whole program.
#pragma once

#include <QApplication>
#include <functional>
#include <utility>

namespace hscaffold::app {

/// Tells a widget of it, whose last member this is: so it goes before all else of the widget, and nobody is told who is
/// only half there while the focus leaves what is taken apart.
class FocusWatch : public QObject {
 public:
  /// @param told  who had the focus and who has it; either may be null
  explicit FocusWatch(std::function<void(QWidget* before, QWidget* now)> told) {
    connect(qApp, &QApplication::focusChanged, this, std::move(told));
  }
};

}  // namespace hscaffold::app
