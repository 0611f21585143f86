/// A plank: one guide, with its map, its switch, its weight and its range in small. The selected one opens its tuning.
#pragma once

#include <QFrame>

#include "app/desk.h"

class QLabel;
class QLineEdit;
class QToolButton;
class QVBoxLayout;

namespace hscaffold::app {

class ScrubField;
class SwitchButton;
class LightPanel;
class TuningPanel;

class Plank : public QFrame {
  Q_OBJECT
 public:
  Plank(Desk& desk, std::string guide, QWidget* parent = nullptr);
  [[nodiscard]] const std::string& guide() const { return guide_; }
  void refresh();
  void refreshHold();
  void refreshCheck();
  void refreshMap();
  /// How often it was painted so far.
  [[nodiscard]] int painted() const { return painted_; }

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
  /// Makes what is seen of the chosen guide only.
  void unfold(const Guide& guide);

  Desk& desk_;
  std::string guide_;
  QPoint pressed_;
  int painted_ = 0;
  QLabel *thumbnail_, *hold_, *stage_, *warning_;
  QLineEdit* name_;
  SwitchButton* on_;
  ScrubField* weight_;
  QWidget* range_;
  QToolButton* fix_;
  QWidget* warningRow_;
  QVBoxLayout* column_;            ///< of what is seen of the chosen guide only, and made when it is first chosen
  TuningPanel* tuning_ = nullptr;  ///< null until then
  LightPanel* light_ = nullptr;    ///< likewise, of guides with a light table
};

}  // namespace hscaffold::app
