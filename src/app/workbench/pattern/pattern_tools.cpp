#include "app/workbench/pattern/pattern_tools.h"

#include <QKeyEvent>
#include <cmath>
#include <numbers>

#include "app/points.h"
#include "app/theme/theme.h"
#include "app/workbench/arrows.h"
#include "app/workbench/hand_work.h"
#include "app/workbench/pose/tool_marks.h"
#include "core/pattern/ground.h"

namespace hscaffold::app {
namespace {

using pattern::PatternTuning;
using pattern::What;

class LayPattern : public TableTool {
 public:
  using TableTool::TableTool;

  void press(const ToolPointer& pointer) override {
    const auto lies = outline();
    if (!lies) return;
    begun_ = tuning();
    grip_ = gripAt(*lies, pointer);
    if (grip_ == Grip::none) return;
    from_ = pointer.at;
    guide_ = work_.guide()->id;
    tuned_ = work_.guide()->tuning;
    lies_ = *lies;
    middle_ = middleOf(*lies);
    // Pixels a side of a module, where it is as large as fits until now.
    module_ = begun_.what == What::code ? pattern::codePlaced(begun_, work_.frame()).module : 0;
    ++drags_;
    moved_ = false;
  }

  void move(const ToolPointer& pointer) override {
    if (!holds()) return;
    const QPointF by = pointer.at - from_;
    constexpr double leastMove = 3;  // pixels of the screen
    moved_ = moved_ || std::hypot(by.x(), by.y()) * pointer.scale > leastMove;
    if (!moved_) return;
    const Size frame = work_.frame();
    const auto bounded = [](const char* id, double value) {
      const TuningField& field = fieldNamed(pattern::patternTuningFields(), id);
      return TuningValue(std::clamp(field.step * std::round(value / field.step), field.minimum, field.maximum));
    };
    const std::string merge = mergeKey();
    const double before = lengthOf(from_ - middle_), now = lengthOf(pointer.at - middle_);
    switch (grip_) {
      case Grip::alone: {
        Quad to = lies_;
        to[corner_] = to[corner_] + Point{by.x(), by.y()};
        layOn(to, "Pull a corner of pattern");
        break;
      }
      case Grip::whole:
        if (begun_.corners) {
          layOn(shifted(lies_, by), "Move pattern");
          break;
        }
        work_.tune("Move pattern",
                   {{"x", bounded("x", begun_.x + 100 * by.x() / frame.width)},
                    {"y", bounded("y", begun_.y + 100 * by.y() / frame.height)}},
                   merge);
        break;
      case Grip::corner:
        if (begun_.what == What::code)
          work_.tune("Size of pattern", {{"module", bounded("module", std::max(8.0, module_ * now / before))}}, merge);
        else
          work_.tune("Size of pattern", {{"extent", bounded("extent", begun_.size * now / before)}}, merge);
        break;
      case Grip::turn: {
        const double turned = (angleOf(pointer.at - middle_) - angleOf(from_ - middle_)) * 180 / std::numbers::pi;
        work_.tune("Turn pattern", {{"turn", bounded("turn", std::remainder(begun_.turn + turned, 360.0))}}, merge);
        break;
      }
      case Grip::lean: {
        // As far as the pointer goes down from the upper edge to the middle, the edge leans away.
        const double reach = std::max(8.0, lengthOf(from_ - middle_));
        work_.tune("Lean pattern", {{"lean", bounded("lean", begun_.lean + 90 * by.y() / reach)}}, merge);
        break;
      }
      case Grip::none:
        break;
    }
  }

  void release(const ToolPointer&) override {
    if (std::exchange(grip_, Grip::none) != Grip::none) work_.endTuning();
  }

  bool cancel() override {
    const bool held = holds();
    if (std::exchange(grip_, Grip::none) == Grip::none) return false;
    if (moved_ && held)
      work_.retune(
          "Move pattern", [this](Tuning& tuning) { tuning = tuned_; }, mergeKey());
    work_.endTuning();
    return true;
  }

  bool key(QKeyEvent* event) override {
    const QPointF by = nudgeOf(*event);
    if (by.isNull() || !outline()) return false;
    const PatternTuning now = tuning();
    const Size frame = work_.frame();
    if (now.corners) {
      work_.retune(
          "Move pattern", [&](Tuning& tuning) { pattern::layOnCorners(tuning, shifted(*outline(), by), frame); },
          "nudge pattern");
      return true;
    }
    // On whole size steps where a code lies straight.
    const double step = now.what == What::code ? 8 : 1;
    work_.tune("Move pattern",
               {{"x", std::clamp(now.x + 100 * step * by.x() / frame.width, -50.0, 150.0)},
                {"y", std::clamp(now.y + 100 * step * by.y() / frame.height, -50.0, 150.0)}},
               "nudge pattern");
    return true;
  }

  void paint(QPainter& painter, const QTransform& toTable, double) const override {
    const auto lies = outline();
    if (!lies) return;
    QPolygonF corners;
    for (const Point& p : *lies) corners << toTable.map(QPointF(p.x, p.y));
    painter.setBrush(Qt::NoBrush);
    rimmed(painter, kindColour("pattern"), 1.6, [&] { painter.drawPolygon(corners); });
    const bool pulled = tuning().corners.has_value();
    const QPointF top = 0.5 * (corners[0] + corners[1]),
                  knob = toTable.map(turnKnob(*lies, toTable.m11(), work_.frame()));
    if (!pulled) rimmed(painter, kindColour("pattern"), 1.2, [&] { painter.drawLine(top, knob); });
    painter.setPen(QPen(shade, 1.2));
    painter.setBrush(theme().accent);
    for (const QPointF& corner : corners) painter.drawEllipse(corner, 4.5, 4.5);
    if (pulled) return;
    painter.setBrush(paper);
    painter.drawEllipse(knob, 4.5, 4.5);
    painter.drawRect(QRectF(top - QPointF(6, 2.5), QSizeF(12, 5)));
  }

  [[nodiscard]] Qt::CursorShape cursor() const override { return Qt::SizeAllCursor; }

 private:
  enum class Grip { none, whole, corner, alone, turn, lean };

  /// Whether what was taken in hand is still what is selected.
  [[nodiscard]] bool holds() const {
    const Guide* guide = work_.guide();
    return grip_ != Grip::none && guide != nullptr && guide->id == guide_;
  }
  [[nodiscard]] PatternTuning tuning() const {
    const Guide* guide = work_.guide();
    return guide != nullptr && guide->kind == "pattern" ? pattern::patternTuningFrom(guide->tuning) : PatternTuning();
  }
  [[nodiscard]] std::optional<Quad> outline() const {
    const Guide* guide = work_.guide();
    if (guide == nullptr || guide->kind != "pattern") return {};
    return pattern::outlineOf(tuning(), work_.frame());
  }
  static QPointF middleOf(const Quad& q) {
    const Point sum = q[0] + q[1] + q[2] + q[3];
    return {sum.x / 4, sum.y / 4};
  }
  static double lengthOf(QPointF p) { return std::hypot(p.x(), p.y()); }
  static double angleOf(QPointF p) { return std::atan2(p.y(), p.x()); }
  /// Over the upper edge, so far from it on the screen; under it where that would lie outside of the frame.
  static QPointF turnKnob(const Quad& q, double scale, Size frame) {
    constexpr double over = 22;
    const QPointF edge = toQt((q[0] + q[1]) * 0.5), away = edge - middleOf(q);
    const QPointF by = away * (over / std::max(1e-6, scale * lengthOf(away)));
    const QPointF at = edge + by;
    return QRectF(0, 0, frame.width, frame.height).contains(at) ? at : edge - by;
  }
  static Quad shifted(Quad q, QPointF by) {
    for (Point& p : q) p = p + Point{by.x(), by.y()};
    return q;
  }
  [[nodiscard]] std::string mergeKey() const { return "pattern " + std::to_string(drags_); }
  /// Onto these corners, unless nothing can lie on them: then it stays where it was.
  void layOn(const Quad& corners, const char* name) {
    try {
      const Size frame = work_.frame();
      pattern::cornersFrom(pattern::textOf(corners, frame), frame);
      work_.retune(
          name, [&](Tuning& tuning) { pattern::layOnCorners(tuning, corners, frame); }, mergeKey());
    } catch (const Problem&) {
    }
  }
  /// What is taken hold of; sets `corner_`.
  Grip gripAt(const Quad& q, const ToolPointer& pointer) {
    const auto near = [&](QPointF at) { return lengthOf(pointer.at - at) * pointer.scale <= pointReach; };
    const bool pulled = begun_.corners.has_value();
    if (!pulled && near(turnKnob(q, pointer.scale, work_.frame()))) return Grip::turn;
    for (corner_ = 0; corner_ < q.size(); ++corner_)
      if (near(toQt(q[corner_])))
        return pulled || (pointer.modifiers & Qt::ControlModifier) ? Grip::alone : Grip::corner;
    if (!pulled && near(toQt((q[0] + q[1]) * 0.5))) return Grip::lean;
    QPolygonF area;
    for (const Point& p : q) area << QPointF(p.x, p.y);
    return area.containsPoint(pointer.at, Qt::OddEvenFill) ? Grip::whole : Grip::none;
  }

  Grip grip_ = Grip::none;
  std::string guide_;
  QPointF from_, middle_;
  PatternTuning begun_;
  Tuning tuned_;  ///< as it was when the drag began
  Quad lies_;
  std::size_t corner_ = 0;
  double module_ = 0;
  int drags_ = 0;
  bool moved_ = false;
};

}  // namespace

const std::vector<ToolInfo>& layTools() {
  static const std::vector<ToolInfo> tools = {
      {ToolName::layPattern, "lay",
       "Lay: drag it, its corners (with Ctrl one alone), the knob that turns it, the bar that leans it (V)", Qt::Key_V,
       [](const ToolContext& context) -> std::unique_ptr<TableTool> { return std::make_unique<LayPattern>(context); }}};
  return tools;
}

std::vector<RowButton> layButtons(HandWork& work) {
  return {{"lay on the ground",
           nullptr,
           "On the ground",
           "Lays it down on the plane that a depth guide shows where it is",
           [&work] { layOnGround(work); },
           {},
           [&work] { return work.nearMap() != nullptr; }}};
}

void layOnGround(HandWork& work) {
  const Guide* guide = work.guide();
  const auto near = work.nearMap();
  if (guide == nullptr || !near) return;
  try {
    const Quad corners =
        pattern::cornersOnGround(pattern::patternTuningFrom(guide->tuning), work.frame(), near->view());
    work.retune("Pattern on the ground", [&](Tuning& tuning) { pattern::layOnCorners(tuning, corners, work.frame()); });
    work.endTuning();
  } catch (const Problem& problem) {
    emit work.worked(problem.what());
  }
}

void pullCorners(HandWork& work) {
  const Guide* guide = work.guide();
  if (guide == nullptr) return;
  const auto lies = pattern::outlineOf(pattern::patternTuningFrom(guide->tuning), work.frame());
  if (!lies) return;
  work.retune("Pattern on four corners", [&](Tuning& tuning) { pattern::layOnCorners(tuning, *lies, work.frame()); });
  work.endTuning();
}

}  // namespace hscaffold::app
