// Whole figures: moved, scaled, turned, put on the picture; and everything a menu does to them.
#include <QKeyEvent>
#include <QMenu>
#include <algorithm>
#include <cmath>
#include <numbers>

#include "app/theme/theme.h"
#include "app/workbench/object_tool.h"
#include "app/workbench/pose/figure_edits.h"
#include "app/workbench/pose/figure_hits.h"
#include "app/workbench/pose/pose_tools.h"
#include "app/workbench/pose/pose_work.h"
#include "core/pose/body.h"
#include "app/workbench/pose/tool_marks.h"

namespace hscaffold::app {
namespace {

constexpr double boxMargin = 10;  ///< screen pixels

/// Whole figures: moved, scaled and turned about a centre that can be put anywhere.
class FigureTool : public ObjectTool<> {
 public:
  using ObjectTool::ObjectTool;
  void hover(const ToolPointer& pointer) override {
    grip_ = gripAt(pointer);
    under_ = grip_ == Grip::none ? figureAt(pose_, pointer.at, boxMargin / pointer.scale) : std::nullopt;
  }
  void leave() override { under_.reset(); }
  void press(const ToolPointer& pointer) override {
    grip_ = gripAt(pointer);
    if (grip_ == Grip::none || grip_ == Grip::move) return ObjectTool::press(pointer);
    pressed_ = pointer.at;
    if (grip_ != Grip::centre) pose_.begin(*pose_.selected());
  }
  void move(const ToolPointer& pointer) override {
    if (grip_ == Grip::none || grip_ == Grip::move) return ObjectTool::move(pointer);
    if (grip_ == Grip::centre) {
      centre_ = pointer.at;
      return;
    }
    if (!pose_.active()) return;
    const QPointF about = centreOf(pose_.start());
    const QPointF before = pressed_ - about, now = pointer.at - about;
    const double was = std::max(1e-3, std::hypot(before.x(), before.y()));
    if (grip_ == Grip::scale) {
      const double factor = std::clamp(std::hypot(now.x(), now.y()) / was, 0.02, 50.0);
      pose_.update(pose::scaledAndTurned(pose_.start(), toPoint(about), factor, 0));
    } else {
      double degrees = (std::atan2(now.y(), now.x()) - std::atan2(before.y(), before.x())) * 180 / std::numbers::pi;
      if (pointer.modifiers.testFlag(Qt::ShiftModifier)) degrees = std::round(degrees / 15) * 15;
      pose_.update(pose::scaledAndTurned(pose_.start(), toPoint(about), 1, degrees));
    }
  }
  void release(const ToolPointer& pointer) override {
    if (grip_ == Grip::none || grip_ == Grip::move) return ObjectTool::release(pointer);
    if (pose_.active()) pose_.end(grip_ == Grip::scale ? "Scale figure" : "Turn figure");
  }
  bool cancel() override {
    if (inHand() || !pose_.active()) return ObjectTool::cancel();
    pose_.cancel();
    return true;
  }
  bool key(QKeyEvent* event) override {
    const auto selected = pose_.selected();
    if (!selected) return false;
    pose_.select(selected);
    if (ObjectTool::key(event)) return true;
    switch (event->key()) {
      case Qt::Key_PageUp:
        pose_.bringNearer(*selected, 1);
        return true;
      case Qt::Key_PageDown:
        pose_.bringNearer(*selected, -1);
        return true;
      default:
        return false;
    }
  }
  void addToMenu(QMenu& menu) override {
    if (const auto selected = pose_.selected()) addFigureActions(menu, pose_, *selected);
  }
  void paint(QPainter& painter, const QTransform& toTable, double scale) const override {
    const auto* all = pose_.figures();
    if (all == nullptr) return;
    painter.save();
    painter.setBrush(Qt::NoBrush);
    if (under_ && *under_ < all->figures.size() && under_ != pose_.selected())
      if (const auto box = boxOf(*all->figures[*under_], scale))
        rimmed(painter, paper, 1, [&] { painter.drawRect(toTable.mapRect(*box)); });
    const pose::Figure* figure = pose_.selectedFigure();
    const auto box = figure != nullptr ? boxOf(*figure, scale) : std::nullopt;
    if (box) {
      const QRectF shown = toTable.mapRect(*box);
      rimmed(painter, theme().accent, 1.2, [&] { painter.drawRect(shown); });
      const QPointF knob(shown.center().x(), shown.top() - 20);
      rimmed(painter, theme().accent, 1.2, [&] { painter.drawLine(QPointF(knob.x(), shown.top()), knob); });
      painter.setBrush(paper);
      painter.setPen(QPen(QColor(20, 19, 18), 1.2));
      for (const QPointF corner : {shown.topLeft(), shown.topRight(), shown.bottomRight(), shown.bottomLeft()})
        painter.drawRect(QRectF(corner - QPointF(4.5, 4.5), QSizeF(9, 9)));
      painter.drawEllipse(knob, 5, 5);
      const QPointF centre = toTable.map(centreOf(*figure));
      painter.setBrush(Qt::NoBrush);
      rimmed(painter, paper, 1.2, [&] {
        painter.drawEllipse(centre, 5, 5);
        painter.drawLine(centre - QPointF(9, 0), centre + QPointF(9, 0));
        painter.drawLine(centre - QPointF(0, 9), centre + QPointF(0, 9));
      });
    }
    painter.restore();
  }
  [[nodiscard]] Qt::CursorShape cursor() const override {
    switch (grip_) {
      case Grip::scale:
        return Qt::CrossCursor;
      case Grip::turn:
        return Qt::PointingHandCursor;
      case Grip::centre:
        return Qt::OpenHandCursor;
      default:
        return under_ || grip_ == Grip::move ? Qt::SizeAllCursor : Qt::ArrowCursor;
    }
  }

 protected:
  Chosen hitAt(const ToolPointer& pointer) override {
    if (grip_ == Grip::move) return chosen();
    const auto figure = figureAt(pose_, pointer.at, boxMargin / pointer.scale);
    if (figure) grip_ = Grip::move;
    return figure ? Chosen{*figure} : Chosen();
  }
  [[nodiscard]] Chosen chosen() const override { return pose_.selected() ? Chosen{*pose_.selected()} : Chosen(); }
  void choose(const Chosen& which) override {
    if (which != chosen()) centre_.reset();
    pose_.select(which.empty() ? std::nullopt : std::optional(*which.begin()));
  }
  [[nodiscard]] bool several() const override { return false; }
  void take() override {
    centreStart_ = centre_;
    pose_.begin(*pose_.selected());
  }
  void drag(QPointF by, const ToolPointer&) override {
    pose_.update(pose::moved(pose_.start(), toPoint(by)));
    // The centre goes along with what is moved.
    if (centreStart_) centre_ = *centreStart_ + by;
  }
  void drop() override { pose_.end("Move figure"); }
  void letGo() override {
    centre_ = centreStart_;
    pose_.cancel();
  }
  bool nudge(QPointF by) override {
    nudgeSelected(pose_, by);
    return true;
  }
  bool removeChosen() override {
    pose_.remove(*pose_.selected());
    return true;
  }

 private:
  enum class Grip { none, move, scale, turn, centre };
  static std::optional<QRectF> boxOf(const pose::Figure& figure, double scale) {
    const auto bounds = pose::boundsOf(figure);
    if (!bounds) return {};
    const double margin = boxMargin / scale;
    return QRectF(bounds->left, bounds->top, bounds->width(), bounds->height())
        .adjusted(-margin, -margin, margin, margin);
  }
  [[nodiscard]] QPointF centreOf(const pose::Figure& figure) const {
    if (centre_) return *centre_;
    // Where it stands, until another place is chosen.
    const auto bounds = pose::boundsOf(figure);
    return bounds ? QPointF(bounds->middle().x, bounds->bottom) : QPointF();
  }
  [[nodiscard]] Grip gripAt(const ToolPointer& pointer) const {
    const pose::Figure* figure = pose_.selectedFigure();
    const auto box = figure != nullptr ? boxOf(*figure, pointer.scale) : std::nullopt;
    if (!box) return Grip::none;
    const auto near = [&](QPointF p) {
      return std::hypot(p.x() - pointer.at.x(), p.y() - pointer.at.y()) * pointer.scale <= pointReach;
    };
    if (near({box->center().x(), box->top() - 20 / pointer.scale})) return Grip::turn;
    for (const QPointF corner : {box->topLeft(), box->topRight(), box->bottomRight(), box->bottomLeft()})
      if (near(corner)) return Grip::scale;
    if (near(centreOf(*figure))) return Grip::centre;
    return box->contains(pointer.at) ? Grip::move : Grip::none;
  }
  Grip grip_ = Grip::none;
  QPointF pressed_;
  std::optional<QPointF> centre_, centreStart_;
  std::optional<std::size_t> under_;
};

/// A box is drawn, and something is done with it.
class BoxTool : public TableTool {
 public:
  using TableTool::TableTool;
  void press(const ToolPointer& pointer) override { band_.begin(pointer.at); }
  void move(const ToolPointer& pointer) override { band_.to(pointer.at); }
  void release(const ToolPointer& pointer) override {
    if (const auto box = band_.end()) drawn(*box, Band::isClick(*box, pointer.scale, 8), pointer);
  }
  bool cancel() override { return band_.end().has_value(); }

 protected:
  /// @param click  the box is too small to be meant as one
  virtual void drawn(const QRectF& box, bool click, const ToolPointer& pointer) = 0;
  Band band_;
};

/// A pose from the library: dragged out as a box, or put with a click.
class PutTool : public BoxTool {
 public:
  using BoxTool::BoxTool;
  [[nodiscard]] bool done() const override { return done_; }
  void paint(QPainter& painter, const QTransform& toTable, double) const override {
    if (!band_.drawing() || !settings_.pose) return;
    band_.paint(painter, toTable);
    const auto figure = fitted(band_.box());
    for (const pose::Bone& bone : figure.kind().bones)
      if (figure.points[bone.from].there() && figure.points[bone.to].there())
        rimmed(painter, theme().accent, 1.6, [&] {
          painter.drawLine(toTable.map(toQt(figure.points[bone.from].at)),
                           toTable.map(toQt(figure.points[bone.to].at)));
        });
  }

 private:
  void drawn(const QRectF& box, bool click, const ToolPointer& pointer) override {
    if (!settings_.pose) return;
    // A click: half as high as the frame, standing on the place.
    const double side = 0.5 * pose_.frame().height;
    pose::Figure figure = fitted(click ? QRectF(pointer.at.x() - side / 2, pointer.at.y() - side, side, side) : box);
    pose_.add({std::move(figure)}, "Put " + QString::fromStdString(settings_.pose->name).toLower());
    done_ = true;
  }
  [[nodiscard]] pose::Figure fitted(const QRectF& box) const {
    return pose::fittedInto(*settings_.pose, pose::Bounds{box.left(), box.top(), box.right(), box.bottom()});
  }
  bool done_ = false;
};

/// A box round the figure that is to be found.
class FindTool : public BoxTool {
 public:
  using BoxTool::BoxTool;
  void paint(QPainter& painter, const QTransform& toTable, double) const override {
    if (!band_.drawing()) return;
    painter.setBrush(Qt::NoBrush);
    rimmed(painter, theme().accent, 1.4, [&] { painter.drawRect(toTable.mapRect(band_.box())); });
  }

 private:
  void drawn(const QRectF& box, bool click, const ToolPointer&) override {
    if (!click) emit pose_.findAsked(box);
  }
};

}  // namespace

void addFigureActions(QMenu& menu, PoseWork& work, std::size_t number) {
  const auto* all = work.figures();
  if (all == nullptr || number >= all->figures.size()) return;
  const auto figure = all->figures[number];
  const auto add = [&](QMenu& to, const QString& name, const QString& keys, const std::function<void()>& run) {
    auto* action = to.addAction(keys.isEmpty() ? name : name + "\t" + keys);
    QObject::connect(action, &QAction::triggered, &work, run);
    return action;
  };
  if (const auto points = work.points(); !points.empty()) {
    add(menu, "Right as it is", "Return", [&work] { confirmPoints(work); });
    add(menu, "Pin, or let go", "P", [&work, number, points] { togglePins(work, number, points); });
    add(menu, "Seen", {}, [&work, number, points] { setPresence(work, number, points, pose::Presence::seen); });
    add(menu, "Hidden", {}, [&work, number, points] { setPresence(work, number, points, pose::Presence::hidden); });
    add(menu, "Absent", "Del", [&work, number, points] { setPresence(work, number, points, pose::Presence::absent); });
    menu.addSeparator();
  }
  add(menu, "Mirror", {}, [&work, number] { mirrorFigure(work, number); });
  add(menu, "Swap sides", "X", [&work, number] { swapSides(work, number); });
  add(menu, "Relax", {}, [&work, number] {
    relaxFigure(work, number);
  })->setToolTip("Back to natural proportions with the least movement");
  add(menu, "Fill in missing points", {}, [&work, number] { fillInPoints(work, number); });
  auto* parts = menu.addMenu("Parts");
  for (const auto& part : figure->kind().parts) {
    if (part.id == figure->kind().parts.front().id) continue;
    bool there = false;
    for (std::size_t i = 0; i < figure->points.size(); ++i)
      there |= figure->kind().points[i].part == part.id && figure->points[i].there();
    auto* action = add(*parts, QString::fromStdString(part.name), {},
                       [&work, number, id = part.id, there] { setPart(work, number, id, !there); });
    action->setCheckable(true);
    action->setChecked(there);
  }
  parts->setEnabled(!parts->isEmpty());
  menu.addSeparator();
  add(menu, "Nearer", "Page Up", [&work, number] { work.bringNearer(number, 1); });
  add(menu, "Farther", "Page Down", [&work, number] { work.bringNearer(number, -1); });
  add(menu, figure->on ? "Turn off" : "Turn on", {},
      [&work, number, on = !figure->on] { setFigureOn(work, number, on); });
  menu.addSeparator();
  add(menu, "Copy", "Ctrl+C", [&work, number] { copyFigure(work, number); });
  add(menu, "Paste", "Ctrl+V", [&work] { pasteFigures(work); });
  add(menu, "Remove figure", {}, [&work, number] { work.remove(number); });
}

std::unique_ptr<TableTool> makeFigureTool(const ToolContext& context) { return std::make_unique<FigureTool>(context); }

std::unique_ptr<TableTool> makeFindTool(const ToolContext& context) { return std::make_unique<FindTool>(context); }

std::unique_ptr<TableTool> makePutTool(const ToolContext& context) { return std::make_unique<PutTool>(context); }

}  // namespace hscaffold::app
