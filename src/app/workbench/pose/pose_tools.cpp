#include "app/workbench/pose/pose_tools.h"

#include <QKeyEvent>
#include <QMenu>
#include <algorithm>
#include <cmath>
#include <numbers>

#include "app/theme/theme.h"
#include "app/workbench/object_tool.h"
#include "app/workbench/pose/figure_edits.h"
#include "app/workbench/pose/figure_hits.h"
#include "app/workbench/pose/pose_work.h"
#include "app/workbench/pose/tool_marks.h"
#include "app/workbench/workbench.h"
#include "core/pose/find/network_finder.h"

namespace hscaffold::app {
namespace {

constexpr double boneReach = 9;  ///< screen pixels

void label(QPainter& painter, QPointF at, const QString& text) {
  painter.setFont(textFont(9, QFont::DemiBold));
  const QRectF box = painter.fontMetrics().boundingRect(text);
  const QRectF plate(at.x(), at.y() - box.height(), box.width() + 10, box.height() + 2);
  painter.setPen(Qt::NoPen);
  painter.setBrush(QColor(0, 0, 0, 190));
  painter.drawRoundedRect(plate, 3, 3);
  painter.setPen(paper);
  painter.drawText(plate, Qt::AlignCenter, text);
}

/// What the tools for points have in common: what is lit, and how figures are shown in hand.
class PointTool : public TableTool {
 public:
  using TableTool::TableTool;

  void hover(const ToolPointer& pointer) override {
    lit_ = pointAt(pose_, pointer.at, pointReach / pointer.scale);
    litBone_ = lit_ ? std::nullopt : boneAt(pose_, pointer.at, boneReach / pointer.scale);
  }
  void leave() override {
    lit_.reset();
    litBone_.reset();
  }
  bool cancel() override {
    const bool any = pose_.active() || !pose_.points().empty();
    if (pose_.active())
      pose_.cancel();
    else
      pose_.select(pose_.selected());
    dragged_.reset();
    return any;
  }
  void addToMenu(QMenu& menu) override {
    if (lit_ && pose_.figures() != nullptr && lit_->figure < pose_.figures()->figures.size() &&
        (lit_->figure != pose_.selected() || !pose_.points().contains(lit_->point)))
      pose_.select(lit_->figure, {lit_->point});
    if (const auto selected = pose_.selected()) addFigureActions(menu, pose_, *selected);
  }
  [[nodiscard]] Qt::CursorShape cursor() const override {
    return lit_ || litBone_ ? Qt::PointingHandCursor : Qt::ArrowCursor;
  }
  [[nodiscard]] std::optional<QPointF> magnified() const override { return dragged_; }

  void paint(QPainter& painter, const QTransform& toTable, double scale) const override {
    const auto* all = pose_.figures();
    if (all == nullptr) return;
    painter.save();
    if (const auto selected = pose_.selected()) paintFigure(painter, toTable, *all->figures[*selected]);
    // What was lit may be gone, by undo for instance.
    const auto still = [&](const std::optional<PosePoint>& p) {
      return p && p->figure < all->figures.size() && p->point < all->figures[p->figure]->points.size();
    };
    if (still(litBone_)) paintBone(painter, toTable, *all->figures[litBone_->figure], litBone_->point);
    if (still(lit_)) {
      const pose::Figure& figure = *all->figures[lit_->figure];
      const QPointF at = toTable.map(toQt(figure.points[lit_->point].at));
      painter.setBrush(Qt::NoBrush);
      rimmed(painter, theme().accent, 2, [&] { painter.drawEllipse(at, 9, 9); });
      paintLength(painter, toTable, figure, lit_->point, scale);
      if (!pose_.active()) label(painter, at + QPointF(13, -8), nameOf(figure, lit_->point));
    }
    painter.restore();
  }

 protected:
  [[nodiscard]] static QString nameOf(const pose::Figure& figure, std::size_t point) {
    return QString::fromStdString(figure.kind().points[point].name);
  }

  std::optional<PosePoint> lit_, litBone_;
  std::optional<QPointF> dragged_;  ///< the point in hand, in the frame

 private:
  void paintFigure(QPainter& painter, const QTransform& toTable, const pose::Figure& figure) const {
    // Small figures have small handles, so that they are still seen.
    const double large = std::clamp(pose::sizeOf(figure) * toTable.m11() / 140, 0.42, 1.0);
    const auto doubts = pose::doubtfulPoints(figure);
    for (std::size_t i = 0; i < figure.points.size(); ++i) {
      const pose::KeyPoint& p = figure.points[i];
      const QPointF at = toTable.map(toQt(p.at));
      const bool selected = pose_.points().contains(i);
      const double radius = large * (figure.kind().isBody(i) ? 4 : 2.5);
      if (!p.there()) {
        // An absent point can be brought back where it was.
        if (p.at == Point{}) continue;
        rimmed(painter, theme().softText, 1.2, [&] {
          painter.drawLine(at - QPointF(3, 3), at + QPointF(3, 3));
          painter.drawLine(at - QPointF(3, -3), at + QPointF(3, -3));
        });
        continue;
      }
      // Doubtful ones are hollow: a ring in the dark rim that all marks have.
      if (!selected && std::find(doubts.begin(), doubts.end(), i) != doubts.end()) {
        painter.setBrush(Qt::NoBrush);
        rimmed(painter, theme().accent, 1.8, [&] { painter.drawEllipse(at, radius + 1.5, radius + 1.5); });
        continue;
      }
      painter.setBrush(selected ? theme().accent : p.presence == pose::Presence::hidden ? shade : paper);
      painter.setPen(QPen(p.presence == pose::Presence::hidden && !selected ? paper : QColor(20, 19, 18),
                          std::max(0.8, 1.4 * large)));
      if (p.pinned)
        painter.drawRect(QRectF(at - QPointF(radius, radius), QSizeF(2 * radius, 2 * radius)));
      else
        painter.drawEllipse(at, radius, radius);
    }
  }
  void paintBone(QPainter& painter, const QTransform& toTable, const pose::Figure& figure, std::size_t point) const {
    const auto parent = figure.kind().parentOf(point);
    if (!parent) return;
    rimmed(painter, theme().accent, 2.4, [&] {
      painter.drawLine(toTable.map(toQt(figure.points[*parent].at)), toTable.map(toQt(figure.points[point].at)));
    });
  }
  /// How far the limb that ends here is from its natural length, with the length it could have.
  static void paintLength(QPainter& painter, const QTransform& toTable, const pose::Figure& figure, std::size_t point,
                          double scale) {
    std::size_t outer = point;
    for (int piece = 0; piece < 2; ++piece) {
      const int bone = figure.kind().points[outer].bone;
      const auto inner = figure.kind().parentOf(outer);
      if (bone < 0 || !inner || !figure.kind().isBody(outer)) return;
      const auto share = pose::shareOfNatural(figure, static_cast<std::size_t>(bone));
      const double natural = figure.natural[static_cast<std::size_t>(bone)];
      const bool slack = figure.kind().bones[static_cast<std::size_t>(bone)].reach > 1;
      if (share && !slack && *share < 0.97 && natural * scale > 24) {
        const Point a = figure.points[*inner].at, b = figure.points[outer].at;
        const Point way = *share > 1e-3 ? (b - a) * (1 / lengthOf(b - a)) : Point{0, 1};
        painter.setPen(QPen(paper, 1.2, Qt::DotLine));
        painter.drawLine(toTable.map(toQt(b)), toTable.map(toQt(a + way * natural)));
        label(painter, toTable.map(toQt((a + b) * 0.5)) + QPointF(8, 6),
              QString("%1 %").arg(std::lround(*share * 100)));
      }
      if (figure.kind().points[*inner].anchor) return;
      outer = *inner;
    }
  }
};

class JointTool : public ObjectTool<PointTool> {
 public:
  using ObjectTool::ObjectTool;

  bool cancel() override {
    dragged_.reset();
    return ObjectTool::cancel();
  }
  void release(const ToolPointer& pointer) override {
    dragged_.reset();
    ObjectTool::release(pointer);
  }
  bool key(QKeyEvent* event) override {
    const auto selected = pose_.selected();
    if (!selected) return false;
    if (ObjectTool::key(event)) return true;
    if (event->key() != Qt::Key_P || event->modifiers() != Qt::NoModifier || pose_.points().empty()) return false;
    togglePins(pose_, *selected, pose_.points());
    return true;
  }

 protected:
  Chosen hitAt(const ToolPointer& pointer) override {
    hover(pointer);
    const auto hit = lit_ ? lit_ : litBone_;
    if (!hit) return {};
    if (hit->figure != pose_.selected()) pose_.select(hit->figure);
    const pose::Figure& figure = *pose_.selectedFigure();
    Chosen taken{hit->point};
    if (!lit_) taken.insert(*figure.kind().parentOf(hit->point));
    hit_ = hit->point;
    offset_ = lit_ ? toQt(figure.points[hit_].at) - pointer.at : QPointF();
    return taken;
  }
  [[nodiscard]] Chosen chosen() const override { return pose_.points(); }
  void choose(const Chosen& points) override { pose_.select(pose_.selected(), points); }
  void missed(const ToolPointer& pointer, bool more) override {
    if (more) return;
    if (!pose_.points().empty()) choose({});
    if (const auto figure = figureAt(pose_, pointer.at, 0); figure && figure != pose_.selected()) pose_.select(figure);
  }
  void take() override { pose_.begin(*pose_.selected()); }
  void drag(QPointF by, const ToolPointer& pointer) override {
    if (!pose_.active()) return;
    pose::Figure next = pose_.points().size() > 1 ? pose::draggedTogether(pose_.start(), pose_.points(), toPoint(by))
                                                  : pose_.draggedFrom(hit_, pointer.at + offset_,
                                                                      pointer.modifiers.testFlag(Qt::ControlModifier));
    dragged_ = toQt(next.points[hit_].at);
    pose_.update(std::move(next));
  }
  void drop() override {
    if (!pose_.active()) return;
    if (pose_.points().size() == 1) pose_.rememberLed(hit_);
    const QString name = nameOf(pose_.start(), hit_);
    pose_.end(pose_.points().size() > 1 ? QString("Move %1 points").arg(pose_.points().size()) : "Move " + name);
  }
  void letGo() override { pose_.cancel(); }
  bool nudge(QPointF by) override {
    nudgeSelected(pose_, by);
    return true;
  }
  bool removeChosen() override {
    if (pose_.points().empty())
      pose_.remove(*pose_.selected());
    else
      setPresence(pose_, *pose_.selected(), pose_.points(), pose::Presence::absent);
    return true;
  }
  bool chooseAll() override {
    Chosen all;
    const pose::Figure& figure = *pose_.selectedFigure();
    for (std::size_t i = 0; i < figure.points.size(); ++i)
      if (figure.points[i].there()) all.insert(i);
    choose(all);
    return true;
  }
  void chooseWithin(const QRectF& box, bool more) override {
    const auto* all = pose_.figures();
    if (all == nullptr) return;
    // The figure with most points in the band is taken.
    std::optional<std::size_t> best;
    Chosen points;
    for (std::size_t f = 0; f < all->figures.size(); ++f) {
      Chosen inside;
      const auto& figure = *all->figures[f];
      for (std::size_t i = 0; figure.on && i < figure.points.size(); ++i)
        if (figure.points[i].there() && box.contains(toQt(figure.points[i].at))) inside.insert(i);
      if (inside.size() <= points.size()) continue;
      points = std::move(inside);
      best = f;
    }
    if (!best) return;
    if (more && best == pose_.selected()) points.insert(pose_.points().begin(), pose_.points().end());
    pose_.select(best, points);
  }

 private:
  QPointF offset_;       ///< from the pointer to the point in hand
  std::size_t hit_ = 0;  ///< the point in hand
};

class TurnTool : public PointTool {
 public:
  using PointTool::PointTool;
  void hover(const ToolPointer& pointer) override {
    PointTool::hover(pointer);
    if (!lit_) lit_ = litBone_;
    litBone_ = lit_;
  }
  void press(const ToolPointer& pointer) override {
    hover(pointer);
    if (!lit_) return;
    pose_.select(lit_->figure, {lit_->point});
    offset_ = toQt(pose_.figures()->figures[lit_->figure]->points[lit_->point].at) - pointer.at;
    pose_.begin(lit_->figure);
  }
  void move(const ToolPointer& pointer) override {
    if (!pose_.active()) return;
    const std::size_t point = *pose_.points().begin();
    QPointF to = pointer.at + offset_;
    if (const auto hinge = pose_.start().kind().parentOf(point);
        hinge && pointer.modifiers.testFlag(Qt::ShiftModifier)) {
      // By steps of 15 degrees.
      const QPointF way = to - toQt(pose_.start().points[*hinge].at);
      const double step = std::numbers::pi / 12, angle = std::round(std::atan2(way.y(), way.x()) / step) * step;
      to = toQt(pose_.start().points[*hinge].at) + QPointF(std::cos(angle), std::sin(angle)) * 100;
    }
    auto next = pose::dragged(pose_.start(), point, toPoint(to), pose::Drag::turn);
    dragged_ = toQt(next.points[point].at);
    pose_.update(std::move(next));
  }
  void release(const ToolPointer&) override {
    dragged_.reset();
    if (pose_.active()) pose_.end("Turn " + nameOf(pose_.start(), *pose_.points().begin()));
  }

 private:
  QPointF offset_;
};

class HideTool : public PointTool {
 public:
  using PointTool::PointTool;
  void hover(const ToolPointer& pointer) override {
    PointTool::hover(pointer);
    litBone_.reset();
    if (lit_ || !pose_.selectedFigure()) return;
    // Points that are absent can be brought back where they were.
    const pose::Figure& figure = *pose_.selectedFigure();
    for (std::size_t i = 0; i < figure.points.size(); ++i)
      if (!figure.points[i].there() && figure.points[i].at != Point{} &&
          distanceBetween(figure.points[i].at, toPoint(pointer.at)) * pointer.scale < pointReach)
        lit_ = PosePoint{*pose_.selected(), i};
  }
  void press(const ToolPointer& pointer) override {
    hover(pointer);
    if (!lit_) {
      if (const auto figure = figureAt(pose_, pointer.at, 0)) pose_.select(figure);
      return;
    }
    pose_.select(lit_->figure);
    cyclePresence(pose_, lit_->figure, lit_->point);
  }
};

/// The row of tools, with the one that finds a figure where the network for it is installed.
std::vector<ToolInfo> toolsWith(bool finder) {
  std::vector<ToolInfo> all = {
      {ToolName::joints, "joints", "Joints: drag them; limbs keep their lengths (J). Ctrl: this one alone. P: pin",
       Qt::Key_J,
       [](const ToolContext& context) -> std::unique_ptr<TableTool> { return std::make_unique<JointTool>(context); }},
      {ToolName::turnLimb, "turn-limb", "Turn a limb about its joint (T). Shift: by 15 degrees", Qt::Key_T,
       [](const ToolContext& context) -> std::unique_ptr<TableTool> { return std::make_unique<TurnTool>(context); }},
      {ToolName::figure, "figure", "Whole figure: move, scale, turn about the cross (M)", Qt::Key_M, makeFigureTool},
      {ToolName::hide, "hide", "Seen, hidden, absent: click a joint (H)", Qt::Key_H,
       [](const ToolContext& context) -> std::unique_ptr<TableTool> { return std::make_unique<HideTool>(context); }},
      {ToolName::findHere, "find-here", "Find one figure: drag a box round it (S)", Qt::Key_S, makeFindTool},
      {ToolName::putPose, nullptr, "Put a pose on the picture", 0, makePutTool}};
  if (!finder) std::erase_if(all, [](const ToolInfo& info) { return info.id == ToolName::findHere; });
  return all;
}

}  // namespace

void takePose(Workbench& bench, pose::Figure figure) {
  bench.settings.pose = std::move(figure);
  for (const ToolInfo& info : figureTools())
    if (info.id == ToolName::putPose) bench.take(info);
}

const std::vector<ToolInfo>& figureTools() {
  static const std::vector<ToolInfo> withFinder = toolsWith(true), without = toolsWith(false);
  return pose::canFind(pose::Sought::everybody) ? withFinder : without;
}

}  // namespace hscaffold::app
