/// What tools that take hold of things on the table have in common: a press chooses, Shift adds, a drag moves what is
/// chosen or draws a band round more, arrows nudge, Delete takes away, Ctrl+A chooses all, Esc lets go.
#pragma once

#include <QRectF>
#include <algorithm>
#include <cmath>
#include <optional>
#include <set>
#include <utility>

#include "app/workbench/arrows.h"
#include "app/workbench/table_tool.h"

namespace hscaffold::app {

/// A box that is drawn from a press to a release.
class Band {
 public:
  void begin(QPointF at) { box_ = QRectF(at, QSizeF()); }
  void to(QPointF at) {
    if (box_) box_->setBottomRight(at);
  }
  [[nodiscard]] bool drawing() const { return box_.has_value(); }
  /// As it is now; empty if none is drawn.
  [[nodiscard]] QRectF box() const { return box_ ? box_->normalized() : QRectF(); }
  /// Ends it. @return the box; null if none was drawn
  std::optional<QRectF> end() {
    if (!box_) return {};
    return std::exchange(box_, {})->normalized();
  }
  /// Whether a box is so small that a click was meant. @param least  pixels of the screen
  static bool isClick(const QRectF& box, double scale, double least = 4) {
    return std::max(box.width(), box.height()) * scale < least;
  }
  void paint(QPainter& painter, const QTransform& toTable) const {
    if (!box_) return;
    painter.setBrush(Qt::NoBrush);
    painter.setPen(QPen(QColor("#f6f2ea"), 1, Qt::DashLine));
    painter.drawRect(toTable.mapRect(box()));
  }

 private:
  std::optional<QRectF> box_;
};

/// `Base` is TableTool or a tool that builds on it. Things are known by number.
template <typename Base = TableTool>
class ObjectTool : public Base {
 public:
  using Base::Base;
  using Chosen = std::set<std::size_t>;

  void press(const ToolPointer& pointer) override {
    const Chosen hit = hitAt(pointer);
    const bool more = several() && pointer.modifiers.testFlag(Qt::ShiftModifier);
    if (hit.empty()) {
      missed(pointer, more);
      if (several()) band_.begin(pointer.at);
      return;
    }
    Chosen now = chosen();
    if (more) {
      for (const std::size_t each : hit)
        if (!now.erase(each)) now.insert(each);
    } else if (!std::includes(now.begin(), now.end(), hit.begin(), hit.end())) {
      now = hit;
    }
    choose(now);
    if (more) return;
    grabbed_ = pointer.at;
    moving_ = false;
    take();
  }
  void move(const ToolPointer& pointer) override {
    band_.to(pointer.at);
    if (!grabbed_) return;
    const QPointF by = pointer.at - *grabbed_;
    moving_ = moving_ || std::hypot(by.x(), by.y()) * pointer.scale > leastMove;
    if (moving_) drag(by, pointer);
  }
  void release(const ToolPointer& pointer) override {
    if (const auto box = band_.end(); box && !Band::isClick(*box, pointer.scale))
      chooseWithin(*box, pointer.modifiers.testFlag(Qt::ShiftModifier));
    if (!std::exchange(grabbed_, {})) return;
    if (std::exchange(moving_, false))
      drop();
    else
      letGo();
  }
  bool cancel() override {
    const bool any = grabbed_ || band_.drawing() || !chosen().empty();
    const bool held = std::exchange(grabbed_, {}).has_value();
    moving_ = false;
    band_.end();
    if (held) letGo();
    // What was in hand goes back first; a second Esc lets go of it.
    if (!held) choose({});
    return any;
  }
  bool key(QKeyEvent* event) override {
    if (const QPointF by = nudgeOf(*event); !by.isNull()) return nudge(by);
    switch (event->key()) {
      case Qt::Key_Delete:
      case Qt::Key_Backspace:
        return removeChosen();
      case Qt::Key_A:
        return event->modifiers().testFlag(Qt::ControlModifier) && chooseAll();
      default:
        return false;
    }
  }
  void paint(QPainter& painter, const QTransform& toTable, double scale) const override {
    Base::paint(painter, toTable, scale);
    band_.paint(painter, toTable);
  }

 protected:
  /// What a press there takes hold of; empty: nothing.
  virtual Chosen hitAt(const ToolPointer&) = 0;
  [[nodiscard]] virtual Chosen chosen() const = 0;
  virtual void choose(const Chosen&) = 0;
  /// Whether more than one may be chosen.
  [[nodiscard]] virtual bool several() const { return true; }
  /// A press beside everything.
  virtual void missed(const ToolPointer&, bool more) {
    if (!more) choose({});
  }
  /// A drag of what is chosen begins; goes on, `by` from where it began; ends with it moved; or as if nothing had been.
  virtual void take() {}
  virtual void drag(QPointF by, const ToolPointer&) = 0;
  virtual void drop() = 0;
  virtual void letGo() {}
  virtual void chooseWithin(const QRectF&, bool more) { Q_UNUSED(more) }
  /// @return whether there was something for it to be done with
  virtual bool nudge(QPointF by) = 0;
  virtual bool removeChosen() = 0;
  virtual bool chooseAll() { return false; }
  [[nodiscard]] bool inHand() const { return grabbed_.has_value(); }

  Band band_;

 private:
  static constexpr double leastMove = 3;  ///< pixels of the screen
  std::optional<QPointF> grabbed_;
  bool moving_ = false;
};

}  // namespace hscaffold::app
