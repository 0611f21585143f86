/// A key that closes the list of a choice does nothing else. Qt closes it before the key is pressed, as it were (at the
/// question whether it is a shortcut), and gives the key itself to what lies below: Return would choose and pull.
#pragma once

#include <QObject>
#include <QPointer>
#include <QWidget>

namespace hscaffold::app {

class ListKeys : public QObject {
  Q_OBJECT
 public:
  /// Watches over all widgets of the application as long as it lives.
  explicit ListKeys(QObject* parent = nullptr);

 protected:
  bool eventFilter(QObject* watched, QEvent* event) override;

 private:
  QPointer<QWidget> list_;  ///< that was open when `key_` came
  int key_ = 0;
  bool held_ = false;  ///< it closed the list, and is still down
};

}  // namespace hscaffold::app
