/// A room of the window: Tab goes through it and on to the next, one key goes from room to room at once, and the one
/// with the focus shows it.
#pragma once

#include <QFrame>
#include <QPointer>

#include "app/widgets/focus_watch.h"

namespace hscaffold::app {

class Room : public QFrame {
  Q_OBJECT
 public:
  /// @param first  what gets the focus when the room is entered for the first time; null: what comes first.
  Room(const QString& name, QWidget* inside, QWidget* first = nullptr);
  /// Whether something in it can have the focus now.
  [[nodiscard]] bool canEnter() const;
  /// Gives the focus to what had it last.
  void enter();
  /// Comes in by Tab: to its first stop, or its last.
  void enterAtEnd(bool first);
  [[nodiscard]] bool holdsFocus() const;

 signals:
  /// Tab goes beyond its last stop (1) or, backwards, its first (-1).
  void left(int by);

 protected:
  bool focusNextPrevChild(bool next) override;
  void paintEvent(QPaintEvent* event) override;

 private:
  [[nodiscard]] QList<QWidget*> stops() const;
  void follow(QWidget* now);
  QWidget* first_;
  QPointer<QWidget> last_;
  bool had_ = false;
  FocusWatch watch_{[this](QWidget*, QWidget* now) { follow(now); }};
};

}  // namespace hscaffold::app
