/// The strip along the top: menu, title, undo, chips for frame, engine and checks, the switch between views, pull.
#pragma once

#include <QFrame>
#include <QPointer>
#include <optional>
#include <vector>

#include "core/sheet/axis.h"

class QLineEdit;
class QMenu;
class QPushButton;
class QToolButton;

namespace hscaffold::app {

class Desk;
class MainView;
struct FindFrom;

class TopStrip : public QFrame {
  Q_OBJECT
 public:
  explicit TopStrip(Desk& desk, QWidget* parent = nullptr);
  [[nodiscard]] QMenu& menu() { return *menu_; }
  /// A switch between the views that there are, on keys 1, 2, 3; where there is but one, nothing to choose is shown.
  void setViews(const std::vector<MainView*>& views);
  void showView(int number);
  void openFrame();
  /// From rough to final, or back.
  void changeSet();
  void openChecks();
  /// What a sheet should go through, beginning with this setting.
  void openStrip(const std::optional<Axis>& over);
  void openFind(const FindFrom& from);

 signals:
  void viewAsked(int number);
  void sheetPulled();

 private:
  void refresh();
  void refreshChecks();
  void showEngine();
  /// Goes when something else is pressed.
  void popOver(QWidget* panel, QWidget* under);
  /// Stays until it is closed.
  void putOver(QWidget* panel, QWidget* under);
  void place(QWidget* panel, QWidget* under);

  Desk& desk_;
  QMenu* menu_;
  QLineEdit* title_;
  QToolButton *undo_, *redo_;
  QPushButton *frame_, *engine_, *set_, *checks_, *pull_, *sheet_;
  QWidget* switch_;
  std::vector<QPushButton*> views_;
  QPointer<QWidget> popover_;
};

}  // namespace hscaffold::app
