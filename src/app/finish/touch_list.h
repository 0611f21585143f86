/// The touch-ups of the shown final, in the order in which they lie: chosen, switched, dragged to another place.
#pragma once

#include <QListWidget>

#include "app/desk.h"

namespace hscaffold::app {

class TouchList : public QListWidget {
  Q_OBJECT
 public:
  explicit TouchList(Desk& desk, QWidget* parent = nullptr);
  /// Where the switch of an entry lies, in the viewport.
  [[nodiscard]] QRect switchAt(int row) const;

 signals:
  void removeAsked(const QString& id);

 protected:
  void mousePressEvent(QMouseEvent*) override;
  void keyPressEvent(QKeyEvent*) override;
  void dropEvent(QDropEvent*) override;

 private:
  void refresh();
  void turn(int row);
  Desk& desk_;
  bool filling_ = false;
};

}  // namespace hscaffold::app
