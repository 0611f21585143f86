#include "app/bench/tools/pose_tools.h"

#include <QKeyEvent>
#include <QMenu>
#include <algorithm>
#include <cmath>
#include <numbers>

#include "app/theme/theme.h"

namespace hscaffold::app {
namespace {

constexpr double pointReach = 14, boneReach = 9, boxMargin = 10;  ///< screen pixels
const QColor paper("#f6f2ea"), shade(0, 0, 0, 170);

QPointF toQt(Point p) { return {p.x, p.y}; }
Point toPoint(QPointF p) { return {p.x(), p.y()}; }

/// A line or shape with a dark rim, so that it is seen on any picture.
template <typename Draw>
void rimmed(QPainter& painter, const QColor& colour, double width, Draw&& draw) {
  painter.setPen(QPen(shade, width + 2.4, Qt::SolidLine, Qt::RoundCap));
  draw();
  painter.setPen(QPen(colour, width, Qt::SolidLine, Qt::RoundCap));
  draw();
}

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

/// By an arrow key: a pixel, or ten with Shift. @return whether it was one
bool nudged(PoseWork& pose, const QKeyEvent& event) {
  const double step = event.modifiers().testFlag(Qt::ShiftModifier) ? 10 : 1;
  switch (event.key()) {
    case Qt::Key_Left:
      pose.nudge({-step, 0});
      return true;
    case Qt::Key_Right:
      pose.nudge({step, 0});
      return true;
    case Qt::Key_Up:
      pose.nudge({0, -step});
      return true;
    case Qt::Key_Down:
      pose.nudge({0, step});
      return true;
    default:
      return false;
  }
}

/// What the tools for points have in common: what is lit, and how figures are shown in hand.
class PointTool : public TableTool {
 public:
  using TableTool::TableTool;

  void hover(const ToolPointer& pointer) override {
    lit_ = pose_.pointAt(pointer.at, pointReach / pointer.scale);
    litBone_ = lit_ ? std::nullopt : pose_.boneAt(pointer.at, boneReach / pointer.scale);
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

class JointTool : public PointTool {
 public:
  using PointTool::PointTool;

  void press(const ToolPointer& pointer) override {
    hover(pointer);
    moved_ = false;
    const bool more = pointer.modifiers.testFlag(Qt::ShiftModifier);
    const auto hit = lit_ ? lit_ : litBone_;
    if (!hit) {
      if (!more && !pose_.points().empty()) pose_.select(pose_.selected());
      if (const auto figure = pose_.figureAt(pointer.at, 0); figure && !more && figure != pose_.selected())
        pose_.select(figure);
      band_ = QRectF(pointer.at, QSizeF());
      return;
    }
    std::set<std::size_t> points = hit->figure == pose_.selected() ? pose_.points() : std::set<std::size_t>();
    const auto* all = pose_.figures();
    std::set<std::size_t> grabbed{hit->point};
    if (!lit_) grabbed.insert(*all->figures[hit->figure]->kind().parentOf(hit->point));
    if (more) {
      for (const std::size_t i : grabbed)
        if (!points.erase(i)) points.insert(i);
    } else if (!std::includes(points.begin(), points.end(), grabbed.begin(), grabbed.end())) {
      points = grabbed;
    }
    pose_.select(hit->figure, points);
    if (more) return;
    grabbed_ = pointer.at;
    hit_ = hit->point;
    offset_ = lit_ ? toQt(all->figures[hit->figure]->points[hit->point].at) - pointer.at : QPointF();
    pose_.begin(hit->figure);
  }

  void move(const ToolPointer& pointer) override {
    if (band_) {
      band_->setBottomRight(pointer.at);
      return;
    }
    if (!pose_.active()) return;
    if (!moved_ && std::hypot(pointer.at.x() - grabbed_.x(), pointer.at.y() - grabbed_.y()) * pointer.scale < 2.5)
      return;
    moved_ = true;
    const QPointF to = pointer.at + offset_;
    pose::Figure next = pose_.points().size() > 1
                            ? pose::draggedTogether(pose_.start(), pose_.points(), toPoint(pointer.at - grabbed_))
                            : pose_.draggedFrom(hit_, to, pointer.modifiers.testFlag(Qt::ControlModifier));
    dragged_ = toQt(next.points[hit_].at);
    pose_.update(std::move(next));
  }

  void release(const ToolPointer& pointer) override {
    dragged_.reset();
    if (band_) {
      takeBand(pointer);
      return;
    }
    if (!pose_.active()) return;
    if (!moved_) return pose_.cancel();
    if (pose_.points().size() == 1) pose_.rememberLed(hit_);
    const pose::Figure& figure = pose_.start();
    pose_.end(pose_.points().size() > 1 ? QString("Move %1 points").arg(pose_.points().size())
                                        : "Move " + nameOf(figure, hit_));
  }

  bool cancel() override {
    const bool band = band_.has_value();
    band_.reset();
    return PointTool::cancel() || band;
  }

  bool key(QKeyEvent* event) override {
    const auto selected = pose_.selected();
    if (!selected) return false;
    if (nudged(pose_, *event)) return true;
    switch (event->key()) {
      case Qt::Key_P:
        if (event->modifiers() != Qt::NoModifier || pose_.points().empty()) return false;
        pose_.togglePins(*selected, pose_.points());
        return true;
      case Qt::Key_Delete:
      case Qt::Key_Backspace:
        if (pose_.points().empty())
          pose_.remove(*selected);
        else
          pose_.setPresence(*selected, pose_.points(), pose::Presence::absent);
        return true;
      case Qt::Key_A: {
        if (!event->modifiers().testFlag(Qt::ControlModifier)) return false;
        std::set<std::size_t> all;
        const pose::Figure& figure = *pose_.selectedFigure();
        for (std::size_t i = 0; i < figure.points.size(); ++i)
          if (figure.points[i].there()) all.insert(i);
        pose_.select(selected, all);
        return true;
      }
      default:
        return false;
    }
  }

  void paint(QPainter& painter, const QTransform& toTable, double scale) const override {
    PointTool::paint(painter, toTable, scale);
    if (!band_) return;
    painter.setBrush(Qt::NoBrush);
    painter.setPen(QPen(paper, 1, Qt::DashLine));
    painter.drawRect(toTable.mapRect(band_->normalized()));
  }

 private:
  void takeBand(const ToolPointer& pointer) {
    const QRectF box = std::exchange(band_, {})->normalized();
    if (std::max(box.width(), box.height()) * pointer.scale < 4) return;
    const auto* all = pose_.figures();
    if (all == nullptr) return;
    // The figure with most points in the band is taken.
    std::optional<std::size_t> best;
    std::set<std::size_t> points;
    for (std::size_t f = 0; f < all->figures.size(); ++f) {
      std::set<std::size_t> inside;
      const auto& figure = *all->figures[f];
      for (std::size_t i = 0; figure.on && i < figure.points.size(); ++i)
        if (figure.points[i].there() && box.contains(toQt(figure.points[i].at))) inside.insert(i);
      if (inside.size() <= points.size()) continue;
      points = std::move(inside);
      best = f;
    }
    if (!best) return;
    if (pointer.modifiers.testFlag(Qt::ShiftModifier) && best == pose_.selected())
      points.insert(pose_.points().begin(), pose_.points().end());
    pose_.select(best, points);
  }

  std::optional<QRectF> band_;
  QPointF grabbed_, offset_;
  std::size_t hit_ = 0;
  bool moved_ = false;
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
      if (const auto figure = pose_.figureAt(pointer.at, 0)) pose_.select(figure);
      return;
    }
    pose_.select(lit_->figure);
    pose_.cyclePresence(lit_->figure, lit_->point);
  }
};

/// Whole figures: moved, scaled and turned about a centre that can be put anywhere.
class FigureTool : public TableTool {
 public:
  using TableTool::TableTool;
  void hover(const ToolPointer& pointer) override {
    grip_ = gripAt(pointer);
    under_ = grip_ == Grip::none ? pose_.figureAt(pointer.at, boxMargin / pointer.scale) : std::nullopt;
  }
  void leave() override { under_.reset(); }
  void press(const ToolPointer& pointer) override {
    grip_ = gripAt(pointer);
    grabbed_ = pointer.at;
    if (grip_ == Grip::none) {
      const auto figure = pose_.figureAt(pointer.at, boxMargin / pointer.scale);
      centre_.reset();
      pose_.select(figure);
      if (!figure) return;
      grip_ = Grip::move;
    }
    if (grip_ == Grip::centre) return;
    if (const auto selected = pose_.selected()) pose_.begin(*selected);
  }
  void move(const ToolPointer& pointer) override {
    if (grip_ == Grip::centre) {
      centre_ = pointer.at;
      return;
    }
    if (!pose_.active()) return;
    const QPointF by = pointer.at - grabbed_;
    const QPointF about = centreOf(pose_.start());
    const QPointF before = grabbed_ - about, now = pointer.at - about;
    const double was = std::max(1e-3, std::hypot(before.x(), before.y()));
    if (grip_ == Grip::move) {
      pose_.update(pose::moved(pose_.start(), toPoint(by)));
    } else if (grip_ == Grip::scale) {
      const double factor = std::clamp(std::hypot(now.x(), now.y()) / was, 0.02, 50.0);
      pose_.update(pose::scaledAndTurned(pose_.start(), toPoint(about), factor, 0));
    } else {
      double degrees = (std::atan2(now.y(), now.x()) - std::atan2(before.y(), before.x())) * 180 / std::numbers::pi;
      if (pointer.modifiers.testFlag(Qt::ShiftModifier)) degrees = std::round(degrees / 15) * 15;
      pose_.update(pose::scaledAndTurned(pose_.start(), toPoint(about), 1, degrees));
    }
    // The centre goes along with what is moved.
    if (grip_ == Grip::move && centre_ && !centreStart_) centreStart_ = centre_;
    if (grip_ == Grip::move && centreStart_) centre_ = *centreStart_ + by;
  }
  void release(const ToolPointer&) override {
    centreStart_.reset();
    if (!pose_.active()) return;
    pose_.end(grip_ == Grip::move ? "Move figure" : grip_ == Grip::scale ? "Scale figure" : "Turn figure");
  }
  bool cancel() override {
    if (!pose_.active()) return false;
    pose_.cancel();
    return true;
  }
  bool key(QKeyEvent* event) override {
    const auto selected = pose_.selected();
    if (!selected) return false;
    pose_.select(selected);
    if (nudged(pose_, *event)) return true;
    switch (event->key()) {
      case Qt::Key_Delete:
      case Qt::Key_Backspace:
        pose_.remove(*selected);
        return true;
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
  QPointF grabbed_;
  std::optional<QPointF> centre_, centreStart_;
  std::optional<std::size_t> under_;
};

/// A pose from the library: dragged out as a box, or put with a click.
class PutTool : public TableTool {
 public:
  using TableTool::TableTool;
  void press(const ToolPointer& pointer) override { box_ = QRectF(pointer.at, QSizeF()); }
  void move(const ToolPointer& pointer) override {
    if (box_) box_->setBottomRight(pointer.at);
  }
  void release(const ToolPointer& pointer) override {
    if (!box_ || !settings_.pose) return;
    QRectF box = std::exchange(box_, {})->normalized();
    if (std::max(box.width(), box.height()) * pointer.scale < 8) {
      // A click: half as high as the frame, standing on the place.
      const double side = 0.5 * pose_.frame().height;
      box = QRectF(pointer.at.x() - side / 2, pointer.at.y() - side, side, side);
    }
    put(box);
    done_ = true;
  }
  bool cancel() override {
    const bool any = box_.has_value();
    box_.reset();
    return any;
  }
  [[nodiscard]] bool done() const override { return done_; }
  void paint(QPainter& painter, const QTransform& toTable, double) const override {
    if (!box_ || !settings_.pose) return;
    painter.setBrush(Qt::NoBrush);
    painter.setPen(QPen(paper, 1, Qt::DashLine));
    painter.drawRect(toTable.mapRect(box_->normalized()));
    const auto figure = fitted(box_->normalized());
    for (const pose::Bone& bone : figure.kind().bones)
      if (figure.points[bone.from].there() && figure.points[bone.to].there())
        rimmed(painter, theme().accent, 1.6, [&] {
          painter.drawLine(toTable.map(toQt(figure.points[bone.from].at)),
                           toTable.map(toQt(figure.points[bone.to].at)));
        });
  }

 private:
  [[nodiscard]] pose::Figure fitted(const QRectF& box) const {
    return pose::fittedInto(*settings_.pose, pose::Bounds{box.left(), box.top(), box.right(), box.bottom()});
  }
  void put(const QRectF& box) {
    pose::Figure figure = fitted(box);
    pose_.add({std::move(figure)}, "Put " + QString::fromStdString(settings_.pose->name).toLower());
  }
  std::optional<QRectF> box_;
  bool done_ = false;
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
    add(menu, "Pin, or let go", "P", [&work, number, points] { work.togglePins(number, points); });
    add(menu, "Seen", {}, [&work, number, points] { work.setPresence(number, points, pose::Presence::seen); });
    add(menu, "Hidden", {}, [&work, number, points] { work.setPresence(number, points, pose::Presence::hidden); });
    add(menu, "Absent", "Del", [&work, number, points] { work.setPresence(number, points, pose::Presence::absent); });
    menu.addSeparator();
  }
  add(menu, "Mirror", {}, [&work, number] { work.mirror(number); });
  add(menu, "Swap sides", {}, [&work, number] { work.swapSides(number); });
  add(menu, "Relax", {}, [&work, number] {
    work.relax(number);
  })->setToolTip("Back to natural proportions with the least movement");
  add(menu, "Fill in missing points", {}, [&work, number] { work.fillIn(number); });
  auto* parts = menu.addMenu("Parts");
  for (const auto& part : figure->kind().parts) {
    if (part.id == figure->kind().parts.front().id) continue;
    bool there = false;
    for (std::size_t i = 0; i < figure->points.size(); ++i)
      there |= figure->kind().points[i].part == part.id && figure->points[i].there();
    auto* action = add(*parts, QString::fromStdString(part.name), {},
                       [&work, number, id = part.id, there] { work.setPart(number, id, !there); });
    action->setCheckable(true);
    action->setChecked(there);
  }
  parts->setEnabled(!parts->isEmpty());
  menu.addSeparator();
  add(menu, "Nearer", "Page Up", [&work, number] { work.bringNearer(number, 1); });
  add(menu, "Farther", "Page Down", [&work, number] { work.bringNearer(number, -1); });
  add(menu, figure->on ? "Turn off" : "Turn on", {}, [&work, number, on = !figure->on] { work.setOn(number, on); });
  menu.addSeparator();
  add(menu, "Copy", "Ctrl+C", [&work, number] { work.copy(number); });
  add(menu, "Paste", "Ctrl+V", [&work] { work.paste(); });
  add(menu, "Remove figure", {}, [&work, number] { work.remove(number); });
}

std::unique_ptr<TableTool> makePoseTool(ToolName name, const ToolContext& context) {
  switch (name) {
    case ToolName::joints:
      return std::make_unique<JointTool>(context);
    case ToolName::turnLimb:
      return std::make_unique<TurnTool>(context);
    case ToolName::figure:
      return std::make_unique<FigureTool>(context);
    case ToolName::hide:
      return std::make_unique<HideTool>(context);
    case ToolName::putPose:
      return std::make_unique<PutTool>(context);
    default:
      return nullptr;
  }
}

}  // namespace hscaffold::app
