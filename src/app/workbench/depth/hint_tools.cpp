#include "app/workbench/depth/hint_tools.h"

#include <QKeyEvent>
#include <QMenu>
#include <cmath>

#include "app/theme/theme.h"
#include "app/workbench/depth/depth_work.h"
#include "app/workbench/depth/hint_marks.h"
#include "app/workbench/object_tool.h"
#include "app/workbench/pose/pose_work.h"

namespace hscaffold::app {
namespace {

using depth::Hint;
using depth::Spot;

constexpr double nudge = 0.02, shove = 0.1;

Spot spotOf(QPointF at) { return {at.x(), at.y()}; }

/// Keys that all of them know: nearer, farther, the next doubtful place.
bool commonKey(DepthWork& work, const QKeyEvent& event) {
  const double by = event.modifiers().testFlag(Qt::ShiftModifier) ? shove : nudge;
  switch (event.key()) {
    case Qt::Key_Plus:
    case Qt::Key_Equal:
      work.changeNear(work.near() + by);
      return true;
    case Qt::Key_Minus:
    case Qt::Key_Underscore:
      work.changeNear(work.near() - by);
      return true;
    case Qt::Key_N:
      work.nextDoubt();
      return true;
    default:
      return false;
  }
}

/// Draws one hint by a drag.
class DrawHint : public TableTool {
 public:
  DrawHint(const ToolContext& context, Hint::Form form) : TableTool(context), form_(form) {}

  void press(const ToolPointer& pointer) override {
    // Alt takes the value that the map has there.
    if (pointer.modifiers.testFlag(Qt::AltModifier)) {
      if (const auto near = depth_.nearAt(pointer.at)) depth_.setNear(*near);
      return;
    }
    depth_.select({});
    begun_ = depth_.nearAt(pointer.at).value_or(0.2);
    spots_ = {pointer.at};
  }
  void move(const ToolPointer& pointer) override {
    if (spots_.empty()) return;
    const bool straight = form_ == Hint::Form::front || form_ == Hint::Form::ramp ||
                          (pointer.modifiers.testFlag(Qt::ShiftModifier) && strokes());
    if (straight)
      spots_ = {spots_.front(), pointer.at};
    else if (QLineF(spots_.back(), pointer.at).length() * pointer.scale >= 3 && spots_.size() < depth::mostSpots)
      spots_.push_back(pointer.at);
    else
      return;
    // The map follows under the brush.
    if (const Hint hint = drawn(spots_); hint.spots.size() >= depth::leastSpots(form_))
      depth_.showWith([&](DepthWork::List& list) { list.push_back(hint); });
  }
  void release(const ToolPointer& pointer) override {
    const auto spots = std::exchange(spots_, {});
    if (spots.empty()) return;
    depth_.endShowing();
    const Hint hint = drawn(spots);
    // Beside the frame there is nothing to say anything of.
    const QRectF frame(0, 0, pose_.frame().width, pose_.frame().height);
    if (std::none_of(spots.begin(), spots.end(), [&](QPointF at) { return frame.contains(at); })) return;
    const double length = QLineF(spots.front(), spots.back()).length() * pointer.scale;
    // A click is no arrow, no ramp and no outline.
    if (hint.spots.size() < depth::leastSpots(form_) || (!strokes() && spots.size() == 2 && length < 6)) return;
    depth_.edit(nameOf(form_), [&](DepthWork::List& list) { list.push_back(hint); });
    depth_.endDoubt();
  }
  bool cancel() override {
    const bool any = !spots_.empty() || depth_.doubt().has_value();
    if (!spots_.empty()) depth_.endShowing();
    spots_.clear();
    depth_.endDoubt();
    return any;
  }
  bool key(QKeyEvent* event) override { return commonKey(depth_, *event); }
  void paint(QPainter& painter, const QTransform& toTable, double scale) const override {
    if (!spots_.empty()) paintHint(painter, drawn(spots_), true, toTable, scale);
  }
  [[nodiscard]] double ring() const override { return strokes() ? settings_.size : 0; }
  [[nodiscard]] std::vector<RowField> fields() override {
    std::vector<RowField> out;
    if (strokes()) out.push_back(sizeField());
    if (form_ == Hint::Form::level || form_ == Hint::Form::ramp) out.push_back(nearField(depth_));
    return out;
  }
  [[nodiscard]] bool takesAlt() const override { return true; }

 private:
  [[nodiscard]] bool strokes() const { return form_ == Hint::Form::level || form_ == Hint::Form::same; }

  [[nodiscard]] Hint drawn(const std::vector<QPointF>& spots) const {
    Hint hint;
    hint.form = form_;
    hint.width = settings_.size;
    // A ramp begins where the map was and ends as near as is set.
    hint.near = form_ == Hint::Form::ramp ? begun_ : depth_.near();
    hint.nearEnd = depth_.near();
    for (const QPointF& at : spots) hint.spots.push_back(spotOf(at));
    return hint;
  }

  Hint::Form form_;
  double begun_ = 0.2;  ///< what the map showed where the stroke began
  std::vector<QPointF> spots_;
};

/// Takes hold of hints: selects, moves, removes them, makes them nearer or farther.
class TakeHints : public ObjectTool<> {
 public:
  using ObjectTool::ObjectTool;

  bool cancel() override {
    const bool doubt = depth_.doubt().has_value();
    depth_.endDoubt();
    return ObjectTool::cancel() || doubt;
  }
  bool key(QKeyEvent* event) override {
    if (ObjectTool::key(event)) return true;
    if (event->key() != Qt::Key_J) return commonKey(depth_, *event);
    // From one to the next.
    const auto now = depth_.hints();
    if (!now || now->hints.empty()) return false;
    depth_.select(depth_.selected() ? (*depth_.selected() + 1) % now->hints.size() : 0);
    return true;
  }
  void addToMenu(QMenu& menu) override {
    menu.addAction("Remove this hint", &depth_, [this] { depth_.removeSelected(); })
        ->setEnabled(depth_.selected().has_value());
  }
  void paint(QPainter& painter, const QTransform& toTable, double scale) const override {
    const auto now = depth_.hints();
    if (!depth_.selected() || moved_.isNull()) return;
    if (!now || *depth_.selected() >= now->hints.size()) return;
    Hint hint = now->hints[*depth_.selected()];
    for (Spot& spot : hint.spots) spot = {spot.x + moved_.x(), spot.y + moved_.y()};
    paintHint(painter, hint, true, toTable, scale);
  }
  [[nodiscard]] Qt::CursorShape cursor() const override { return Qt::ArrowCursor; }
  [[nodiscard]] std::vector<RowField> fields() override { return {nearField(depth_)}; }

 protected:
  Chosen hitAt(const ToolPointer& pointer) override {
    const auto hit = nearest(pointer);
    return hit ? Chosen{*hit} : Chosen();
  }
  [[nodiscard]] Chosen chosen() const override { return depth_.selected() ? Chosen{*depth_.selected()} : Chosen(); }
  void choose(const Chosen& which) override {
    depth_.select(which.empty() ? std::nullopt : std::optional(*which.begin()));
  }
  [[nodiscard]] bool several() const override { return false; }
  void drag(QPointF by, const ToolPointer&) override { moved_ = by; }
  void drop() override { moveSelected(std::exchange(moved_, {}), {}); }
  void letGo() override { moved_ = {}; }
  bool nudge(QPointF by) override { return moveSelected(by, "nudge hint "); }
  bool removeChosen() override {
    depth_.removeSelected();
    return true;
  }

 private:
  bool moveSelected(QPointF by, const std::string& merge) {
    const auto which = depth_.selected();
    if (!which) return false;
    depth_.edit(
        "Move a hint",
        [&](DepthWork::List& list) {
          for (Spot& spot : list[*which].spots) spot = {spot.x + by.x(), spot.y + by.y()};
        },
        merge.empty() ? merge : merge + std::to_string(*which));
    return true;
  }
  [[nodiscard]] std::optional<std::size_t> nearest(const ToolPointer& pointer) const {
    const auto now = depth_.hints();
    if (!now) return {};
    double least = 1e18;
    std::optional<std::size_t> found;
    for (std::size_t i = 0; i < now->hints.size(); ++i) {
      const Hint& hint = now->hints[i];
      const double away = distanceTo(hint, pointer.at);
      const bool stroke = hint.form == Hint::Form::level || hint.form == Hint::Form::same;
      if (away > reachOnScreen / pointer.scale + (stroke ? hint.width / 2 : 0) || away >= least) continue;
      least = away;
      found = i;
    }
    return found;
  }
  QPointF moved_;  ///< so far, by the drag that goes on
};

template <Hint::Form form>
std::unique_ptr<TableTool> draws(const ToolContext& context) {
  return std::make_unique<DrawHint>(context, form);
}

}  // namespace

RowField nearField(DepthWork& work) {
  return {"Near",
          "What the hint says: 1 nearest, 0 farthest (+ and -)",
          {0, 1, 0.8, 0.01, 2},
          [&work] { return work.near(); },
          [&work](double near) { work.changeNear(near); }};
}

const std::vector<ToolInfo>& hintTools() {
  static const std::vector<ToolInfo> all = {
      {ToolName::hint, "hint",
       "Near or far: paint over what is so near (H). + and -: nearer, farther. Alt: take the value from the map",
       Qt::Key_H, draws<Hint::Form::level>},
      {ToolName::sameDepth, "same-depth", "One depth: paint over what is equally near (E)", Qt::Key_E,
       draws<Hint::Form::same>},
      {ToolName::inFront, "in-front", "In front of: drag from what is in front to what is behind (A)", Qt::Key_A,
       draws<Hint::Form::front>},
      {ToolName::ramp, "ramp", "Ramp: drag from the far end to the near end (M)", Qt::Key_M, draws<Hint::Form::ramp>},
      {ToolName::plane, "plane", "Plane: a loop round what is flat (P)", Qt::Key_P, draws<Hint::Form::plane>},
      {ToolName::cutOut, "cut-out", "Cut out: a loop round what stands apart (C)", Qt::Key_C, draws<Hint::Form::cut>},
      {ToolName::hints, "strokes", "Hints: take hold of them (S). J: the next one", Qt::Key_S,
       [](const ToolContext& context) -> std::unique_ptr<TableTool> { return std::make_unique<TakeHints>(context); }}};
  return all;
}

}  // namespace hscaffold::app
