/// One of the main views of a window: how it looks, what it offers to menus and keys, and its rooms. Nothing that must
/// survive it.
#pragma once

#include <QAction>
#include <QWidget>
#include <filesystem>
#include <vector>

#include "app/widgets/focus_watch.h"

namespace hscaffold::app {

class Room;

class MainView : public QWidget {
  Q_OBJECT
 public:
  using QWidget::QWidget;
  /// One word for the switch in the top strip.
  [[nodiscard]] virtual QString title() const = 0;
  /// What the view offers, with shortcuts, in the order of the menu. The view owns them.
  [[nodiscard]] virtual std::vector<QAction*> viewActions() = 0;

  /// Writes what the view itself is about, in place of the shown proof. @return whether it has such a thing
  virtual bool exportShown() { return false; }
  /// What menus call that.
  [[nodiscard]] virtual QString exportName() const { return "Export shown proof..."; }
  /// The same for its maps, in place of the selected guide's.
  virtual bool exportMaps() { return false; }

  /// Copies what is chosen in the view. @return whether it has such things; otherwise the figure of a pose guide is
  virtual bool copyChosen() { return false; }
  /// Takes what is on the clipboard. @return whether that is for this view
  virtual bool pasteHere() { return false; }
  /// A file that was dropped or chosen. @return whether the view has taken it
  virtual bool takeFile(const std::filesystem::path&) { return false; }

  /// Where a message may lie, at the lower edge: a picture, not what is pressed or read.
  [[nodiscard]] virtual QRect messagePlace() const { return rect(); }

  /// A room that is not the view's own, the top strip: it comes before the others.
  void addOuterRoom(Room* room);
  /// To the next room that can be entered, or the one before.
  void goToRoom(int by);
  /// The view was gone to: its keys act at once.
  void takeFocus();

 signals:
  void openAsked();       ///< a picture should be chosen
  void exportAsked();     ///< the shown proof should be written
  void exportMapAsked();  ///< the selected guide's map should be written
  void said(const QString& sentence);

 protected:
  /// @param first  where the focus goes when the view is gone to for the first time.
  void setRooms(std::vector<Room*> rooms, Room* first);

 private:
  /// The next room from the one with the focus; null if no other can be entered.
  [[nodiscard]] Room* next(int by) const;
  void listenTo(Room* room);
  void follow(QWidget* now);
  std::vector<Room*> rooms_;
  Room* last_ = nullptr;  ///< had the focus last
  FocusWatch watch_{[this](QWidget*, QWidget* now) { follow(now); }};
};

}  // namespace hscaffold::app
