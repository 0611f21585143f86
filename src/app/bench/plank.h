/// A plank: one guide, with its map, its switch, its weight and its range in small. The selected one opens its tuning.
#pragma once

#include <QFrame>

#include "app/session.h"

class QLabel;
class QLineEdit;
class QToolButton;

namespace hscaffold::app {

class ScrubField;
class SwitchButton;
class TuningPanel;

class Plank : public QFrame {
  Q_OBJECT
 public:
  Plank(StudySession& session, std::string guide, QWidget* parent = nullptr);
  [[nodiscard]] const std::string& guide() const { return guide_; }
  void refresh();
  void refreshMap();
  [[nodiscard]] TuningPanel& tuning() { return *tuning_; }

 signals:
  /// Dropped so that it should come to stand before `other` (empty: last).
  void movedBefore(const QString& guide, const QString& other);

 protected:
  void paintEvent(QPaintEvent*) override;
  void mousePressEvent(QMouseEvent*) override;
  void mouseMoveEvent(QMouseEvent*) override;
  void dragEnterEvent(QDragEnterEvent*) override;
  void dropEvent(QDropEvent*) override;
  void keyPressEvent(QKeyEvent*) override;
  void contextMenuEvent(QContextMenuEvent*) override;
  bool eventFilter(QObject* watched, QEvent* event) override;

 private:
  void move(int by);

  StudySession& session_;
  std::string guide_;
  QPoint pressed_;
  QLabel *thumbnail_, *hold_, *warning_;
  QLineEdit* name_;
  SwitchButton* on_;
  ScrubField* weight_;
  QWidget* range_;
  QToolButton* fix_;
  QWidget* warningRow_;
  TuningPanel* tuning_;
};

}  // namespace hscaffold::app
