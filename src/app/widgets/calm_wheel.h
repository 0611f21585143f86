/// Scrolling a panel must not change what lies under the pointer: numbers, sliders and choices take the wheel only when
/// they were chosen before, by a click or a key.
#pragma once

#include <QObject>

namespace hscaffold::app {

class CalmWheel : public QObject {
  Q_OBJECT
 public:
  /// Watches over all widgets of the application as long as it lives.
  explicit CalmWheel(QObject* parent = nullptr);

 protected:
  bool eventFilter(QObject* watched, QEvent* event) override;
};

}  // namespace hscaffold::app
