/// One of the main views of a window: how it looks, and what it offers to menus and keys. Nothing that must survive it.
#pragma once

#include <QAction>
#include <QWidget>
#include <vector>

namespace hscaffold::app {

class MainView : public QWidget {
  Q_OBJECT
 public:
  using QWidget::QWidget;
  /// One word for the switch in the top strip.
  [[nodiscard]] virtual QString title() const = 0;
  /// What the view offers, with shortcuts, in the order of the menu. The view owns them.
  [[nodiscard]] virtual std::vector<QAction*> viewActions() = 0;

 signals:
  void openAsked();       ///< a picture should be chosen
  void exportAsked();     ///< the shown proof should be written
  void exportMapAsked();  ///< the selected guide's map should be written
  void said(const QString& sentence);
};

}  // namespace hscaffold::app
