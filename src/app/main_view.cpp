#include "app/main_view.h"

#include "app/widgets/room.h"

namespace hscaffold::app {

void MainView::setRooms(std::vector<Room*> rooms, Room* first) {
  rooms_ = std::move(rooms);
  last_ = first;
  for (Room* room : rooms_) listenTo(room);
}

void MainView::follow(QWidget* now) {
  if (now == nullptr || !isAncestorOf(now)) return;
  for (Room* room : rooms_)
    if (room->holdsFocus()) last_ = room;
}

void MainView::addOuterRoom(Room* room) {
  rooms_.insert(rooms_.begin(), room);
  listenTo(room);
}

void MainView::listenTo(Room* room) {
  connect(room, &Room::left, this, [this, room](int by) {
    if (!isVisible()) return;  // the room is another view's, too
    Room* to = next(by);
    (to != nullptr ? to : room)->enterAtEnd(by > 0);
  });
}

Room* MainView::next(int by) const {
  const auto count = static_cast<int>(rooms_.size());
  int now = by > 0 ? -1 : 0;
  for (int i = 0; i < count; ++i)
    if (rooms_[static_cast<std::size_t>(i)]->holdsFocus()) now = i;
  for (int i = 1; i <= count; ++i) {
    Room* room = rooms_[static_cast<std::size_t>(((now + by * i) % count + count) % count)];
    if (room->canEnter()) return room;
  }
  return nullptr;
}

void MainView::goToRoom(int by) {
  if (Room* room = next(by)) room->enter();
}

void MainView::takeFocus() {
  if (last_ != nullptr && last_->canEnter())
    last_->enter();
  else
    goToRoom(1);
}

}  // namespace hscaffold::app
