#include "app/workbench/lines/stroke_tools.h"

#include <QKeyEvent>
#include <QMenu>
#include <QPainterPath>

#include "app/theme/theme.h"
#include "app/workbench/hand_work.h"
#include "app/workbench/lines/stroke_edits.h"
#include "app/workbench/object_tool.h"
#include "app/workbench/pose/pose_work.h"

namespace hscaffold::app {
namespace {

QPainterPath pathOf(const Stroke& stroke) {
  QPainterPath path;
  const auto at = [&](std::size_t i) { return QPointF(stroke.points[i].x, stroke.points[i].y); };
  path.moveTo(at(0));
  for (std::size_t i = 1; i + 2 < stroke.points.size(); i += 3) path.cubicTo(at(i), at(i + 1), at(i + 2));
  if (stroke.points.size() == 1) path.lineTo(at(0));
  return path;
}

class PenTool : public TableTool {
 public:
  using TableTool::TableTool;
  void press(const ToolPointer& pointer) override {
    scale_ = pointer.scale;
    path_ = {place(pointer)};
  }
  void move(const ToolPointer& pointer) override {
    if (path_.empty()) return;
    if (pointer.modifiers.testFlag(Qt::ShiftModifier)) {
      path_ = {path_.front(), place(pointer)};
      return;
    }
    if (distanceBetween(path_.back().at, {pointer.at.x(), pointer.at.y()}) * pointer.scale >= 1.2)
      path_.push_back(place(pointer));
  }
  void release(const ToolPointer& pointer) override {
    const auto path = std::exchange(path_, {});
    if (!path.empty()) addStroke(work_, pose_.frame(), path, std::max(0.4, settings_.penCalm / pointer.scale));
  }
  bool cancel() override {
    const bool any = !path_.empty();
    path_.clear();
    return any;
  }
  void paint(QPainter& painter, const QTransform& toTable, double scale) const override {
    for (std::size_t i = 1; i < path_.size(); ++i) {
      painter.setPen(QPen(theme().accent, std::max(1.0, path_[i].width * scale), Qt::SolidLine, Qt::RoundCap));
      painter.drawLine(toTable.map(QPointF(path_[i - 1].at.x, path_[i - 1].at.y)),
                       toTable.map(QPointF(path_[i].at.x, path_[i].at.y)));
    }
  }
  [[nodiscard]] double ring() const override { return settings_.penWidth; }
  [[nodiscard]] std::vector<RowField> fields() override {
    return {{"Size",
             "Width of the pen: [ and ], or Ctrl+wheel over the table",
             {1, 60, 3, 1, 0, "px"},
             [&s = settings_] { return s.penWidth; },
             [&s = settings_](double now) { s.penWidth = now; }}};
  }

 private:
  [[nodiscard]] StrokePlace place(const ToolPointer& pointer) const {
    return {{pointer.at.x(), pointer.at.y()}, settings_.penWidth * (0.25 + 0.75 * pointer.pressure)};
  }
  std::vector<StrokePlace> path_;
  double scale_ = 1;
};

class StrokesTool : public ObjectTool<> {
 public:
  using ObjectTool::ObjectTool;

  void press(const ToolPointer& pointer) override {
    refresh();
    moved_ = {};
    ObjectTool::press(pointer);
  }
  void release(const ToolPointer& pointer) override {
    refresh();
    ObjectTool::release(pointer);
  }
  void hover(const ToolPointer& pointer) override {
    refresh();
    under_ = nearest(pointer);
  }
  bool key(QKeyEvent* event) override {
    refresh();
    if (ObjectTool::key(event)) return true;
    if (selected_.empty()) return false;
    switch (event->key()) {
      case Qt::Key_M:
        smoothSelected();
        return true;
      case Qt::Key_J:
        joinSelected();
        return true;
      case Qt::Key_Period:
        scaleWidths(work_, selected_, 1.25);
        return true;
      case Qt::Key_Comma:
        scaleWidths(work_, selected_, 0.8);
        return true;
      default:
        return false;
    }
  }

  void addToMenu(QMenu& menu) override {
    refresh();
    if (selected_.empty() && under_) selected_ = {*under_};
    const auto add = [&](const QString& name, const QString& keys, bool enabled, const std::function<void()>& run) {
      auto* action = menu.addAction(name + "\t" + keys);
      action->setEnabled(enabled);
      QObject::connect(action, &QAction::triggered, &work_, run);
    };
    const bool any = !selected_.empty();
    add("Delete", "Del", any, [this] { removeSelected(); });
    add("Smooth", "M", any, [this] { smoothSelected(); });
    add("Join the two", "J", selected_.size() == 2, [this] { joinSelected(); });
    add("Heavier", ".", any, [this] { scaleWidths(work_, selected_, 1.25); });
    add("Lighter", ",", any, [this] { scaleWidths(work_, selected_, 0.8); });
  }

  void paint(QPainter& painter, const QTransform& toTable, double) const override {
    if (!drawing_) return;
    painter.setBrush(Qt::NoBrush);
    for (std::size_t i = 0; i < drawing_->strokes.size(); ++i) {
      const bool selected = selected_.contains(i);
      if (!selected && under_ != i) continue;
      QPainterPath path = pathOf(*drawing_->strokes[i]);
      if (selected) path.translate(moved_);
      path = toTable.map(path);
      painter.setPen(QPen(QColor(0, 0, 0, 170), 4));
      painter.drawPath(path);
      painter.setPen(QPen(selected ? theme().accent : QColor("#f6f2ea"), 2));
      painter.drawPath(path);
      if (!selected) continue;
      painter.setPen(QPen(theme().accent, 1.2));
      painter.setBrush(QColor("#f6f2ea"));
      for (const QPointF end : {path.pointAtPercent(0), path.pointAtPercent(1)})
        painter.drawRect(QRectF(end - QPointF(3, 3), QSizeF(6, 6)));
      painter.setBrush(Qt::NoBrush);
    }
    band_.paint(painter, toTable);
  }
  [[nodiscard]] Qt::CursorShape cursor() const override { return under_ ? Qt::PointingHandCursor : Qt::ArrowCursor; }

 protected:
  Chosen hitAt(const ToolPointer& pointer) override {
    const auto hit = nearest(pointer);
    return hit ? Chosen{*hit} : Chosen();
  }
  [[nodiscard]] Chosen chosen() const override { return selected_; }
  void choose(const Chosen& which) override { selected_ = which; }
  void drag(QPointF by, const ToolPointer&) override { moved_ = by; }
  void drop() override { moveStrokes(work_, selected_, std::exchange(moved_, {})); }
  void letGo() override { moved_ = {}; }
  void chooseWithin(const QRectF& box, bool) override {
    for (std::size_t i = 0; drawing_ && i < drawing_->strokes.size(); ++i)
      if (pathOf(*drawing_->strokes[i]).intersects(box)) selected_.insert(i);
  }
  bool nudge(QPointF by) override {
    if (selected_.empty()) return false;
    moveStrokes(work_, selected_, by, true);
    return true;
  }
  bool removeChosen() override {
    if (selected_.empty()) return false;
    removeSelected();
    return true;
  }
  bool chooseAll() override {
    for (std::size_t i = 0; drawing_ && i < drawing_->strokes.size(); ++i) selected_.insert(i);
    return drawing_ != nullptr;
  }

 private:
  /// The strokes may have changed under the tool, by undo for instance.
  void refresh() {
    const auto now = work_.drawing();
    if (now == drawing_) return;
    const bool counted = now && drawing_ && now->strokes.size() == drawing_->strokes.size();
    drawing_ = now;
    under_.reset();
    if (!counted) selected_.clear();
  }
  void removeSelected() { removeStrokes(work_, std::exchange(selected_, {})); }
  void smoothSelected() { smoothStrokes(work_, Chosen(selected_)); }
  void joinSelected() {
    if (selected_.size() == 2) joinStrokes(work_, std::exchange(selected_, {}));
  }
  [[nodiscard]] std::optional<std::size_t> nearest(const ToolPointer& pointer) const {
    if (!drawing_) return {};
    const Point at{pointer.at.x(), pointer.at.y()};
    const double reach = reachOnScreen / pointer.scale;
    double least = reach;
    std::optional<std::size_t> found;
    for (std::size_t i = 0; i < drawing_->strokes.size(); ++i) {
      // Control points enclose the curve: what is far from their box is not looked at closer.
      const Stroke& stroke = *drawing_->strokes[i];
      const auto [left, right] =
          std::minmax_element(stroke.points.begin(), stroke.points.end(), [](Point a, Point b) { return a.x < b.x; });
      const auto [top, bottom] =
          std::minmax_element(stroke.points.begin(), stroke.points.end(), [](Point a, Point b) { return a.y < b.y; });
      if (at.x < left->x - reach || at.x > right->x + reach || at.y < top->y - reach || at.y > bottom->y + reach)
        continue;
      if (const double d = distanceTo(stroke, at); d < least) {
        least = d;
        found = i;
      }
    }
    return found;
  }

  std::shared_ptr<const Drawing> drawing_;
  Chosen selected_;
  std::optional<std::size_t> under_;
  QPointF moved_;  ///< so far, by the drag that goes on
};

}  // namespace

const std::vector<ToolInfo>& strokeTools() {
  static const std::vector<ToolInfo> all = {
      {ToolName::pen, "pen", "Pen: smooth strokes (P). Shift: straight", Qt::Key_P,
       [](const ToolContext& context) -> std::unique_ptr<TableTool> { return std::make_unique<PenTool>(context); }},
      {ToolName::strokes, "strokes", "Strokes: take hold of them (S). Right click for what can be done", Qt::Key_S,
       [](const ToolContext& context) -> std::unique_ptr<TableTool> {
         return std::make_unique<StrokesTool>(context);
       }}};
  return all;
}

}  // namespace hscaffold::app
