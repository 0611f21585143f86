// Brushes, loops and the colour picker of regions.
#include "app/workbench/paint/paint_tools.h"

#include <QPolygonF>

#include "app/workbench/depth/depth_work.h"
#include "app/workbench/depth/hint_tools.h"
#include "app/workbench/hand_work.h"
#include "app/workbench/kind_tools.h"
#include "app/workbench/workbench.h"

namespace hscaffold::app {
namespace {

class BrushTool : public TableTool {
 public:
  /// @param levelled  draws the level that is set, not white
  BrushTool(const ToolContext& context, Surface surface, PaintMode mode, bool levelled = false)
      : TableTool(context), surface_(surface), mode_(mode), levelled_(levelled) {}

  void press(const ToolPointer& pointer) override {
    const bool line = pointer.modifiers.testFlag(Qt::ShiftModifier) && last_;
    Brush brush{mode_, settings_.size, settings_.hardness / 100, 1};
    if (levelled_) brush.level = depth_.near();
    if (mode_ == PaintMode::lighten && pointer.modifiers.testFlag(Qt::ControlModifier)) brush.mode = PaintMode::darken;
    if (!work_.begin(surface_, brush, line ? *last_ : pointer.at, pointer.pressure)) return;
    if (line) work_.strokeTo(pointer.at, pointer.pressure);
    last_ = pointer.at;
  }
  void move(const ToolPointer& pointer) override {
    if (!work_.active()) return;
    // With Shift, one straight line to where the pointer is let go.
    straight_ = pointer.modifiers.testFlag(Qt::ShiftModifier) ? std::optional(pointer.at) : std::nullopt;
    if (straight_) return;
    work_.strokeTo(pointer.at, pointer.pressure);
    last_ = pointer.at;
  }
  void release(const ToolPointer& pointer) override {
    if (!work_.active()) return;
    if (straight_) work_.strokeTo(pointer.at, pointer.pressure);
    straight_.reset();
    last_ = pointer.at;
    work_.end();
  }
  bool cancel() override {
    straight_.reset();
    if (!work_.active()) return false;
    work_.cancel();
    return true;
  }
  void paint(QPainter& painter, const QTransform& toTable, double) const override {
    if (!straight_ || !last_) return;
    for (const auto& [colour, width] : {std::pair{QColor(0, 0, 0, 160), 3.0}, {QColor("#f6f2ea"), 1.2}}) {
      painter.setPen(QPen(colour, width));
      painter.drawLine(toTable.map(*last_), toTable.map(*straight_));
    }
  }
  [[nodiscard]] double ring() const override { return settings_.size; }
  [[nodiscard]] std::vector<RowField> fields() override {
    std::vector<RowField> out{sizeField()};
    if (surface_ == Surface::retouch)
      out.push_back({"Hardness",
                     "How hard the brush's border is",
                     {0, 100, 80, 1, 0, "%"},
                     [&s = settings_] { return s.hardness; },
                     [&s = settings_](double now) { s.hardness = now; }});
    if (levelled_) out.push_back(nearField(depth_));
    return out;
  }

 private:
  Surface surface_;
  PaintMode mode_;
  bool levelled_;
  std::optional<QPointF> last_, straight_;
};

class LoopTool : public TableTool {
 public:
  LoopTool(const ToolContext& context, Surface surface, PaintMode mode, bool outside)
      : TableTool(context), surface_(surface), mode_(mode), outside_(outside) {}

  void press(const ToolPointer& pointer) override { loop_ = QPolygonF({pointer.at}); }
  void move(const ToolPointer& pointer) override {
    if (!loop_.isEmpty() && QLineF(loop_.last(), pointer.at).length() * pointer.scale > 1.5) loop_ << pointer.at;
  }
  void release(const ToolPointer& pointer) override {
    const QPolygonF loop = std::exchange(loop_, {});
    PaintMode mode = mode_;
    // With Ctrl it is taken away.
    if (surface_ == Surface::region && pointer.modifiers.testFlag(Qt::ControlModifier)) mode = PaintMode::rubOut;
    work_.fillLoop(surface_, mode, loop, outside_);
  }
  bool cancel() override {
    const bool any = !loop_.isEmpty();
    loop_.clear();
    return any;
  }
  void paint(QPainter& painter, const QTransform& toTable, double) const override {
    if (loop_.size() < 2) return;
    painter.setBrush(Qt::NoBrush);
    for (const auto& [colour, width] : {std::pair{QColor(0, 0, 0, 160), 3.0}, {QColor("#f6f2ea"), 1.2}}) {
      painter.setPen(QPen(colour, width));
      painter.drawPolyline(toTable.map(loop_));
    }
    painter.setPen(QPen(QColor("#f6f2ea"), 1, Qt::DotLine));
    painter.drawLine(toTable.map(loop_.last()), toTable.map(loop_.first()));
  }

 private:
  Surface surface_;
  PaintMode mode_;
  bool outside_;
  QPolygonF loop_;
};

class ColourTool : public TableTool {
 public:
  using TableTool::TableTool;
  void press(const ToolPointer& pointer) override {
    work_.growRegion(pointer.modifiers.testFlag(Qt::ControlModifier) ? PaintMode::rubOut : PaintMode::draw, pointer.at,
                     settings_.tolerance / 100, !pointer.modifiers.testFlag(Qt::ShiftModifier));
  }
  [[nodiscard]] std::vector<RowField> fields() override {
    return {{"Tolerance",
             "How far colours may differ",
             {1, 60, 12, 1, 0, "%"},
             [&s = settings_] { return s.tolerance; },
             [&s = settings_](double now) { s.tolerance = now; }}};
  }
};

}  // namespace

namespace {

template <Surface surface, PaintMode mode>
std::unique_ptr<TableTool> brush(const ToolContext& context) {
  return std::make_unique<BrushTool>(context, surface, mode);
}
template <Surface surface, PaintMode mode, bool outside>
std::unique_ptr<TableTool> loop(const ToolContext& context) {
  return std::make_unique<LoopTool>(context, surface, mode, outside);
}

}  // namespace

const std::vector<ToolInfo>& retouchTools() {
  static const std::vector<ToolInfo> all = {
      {ToolName::draw, "draw", "Draw (D). Shift: straight lines. [ and ] or Ctrl+wheel: size", Qt::Key_D,
       brush<Surface::retouch, PaintMode::draw>},
      {ToolName::rubOut, "rub-out", "Rub out (R)", Qt::Key_R, brush<Surface::retouch, PaintMode::rubOut>},
      {ToolName::restore, "restore", "Restore: take retouch back (T)", Qt::Key_T,
       brush<Surface::retouch, PaintMode::restore>},
      {ToolName::keepLoop, "keep-loop", "Keep only what is inside a loop (K)", Qt::Key_K,
       loop<Surface::retouch, PaintMode::rubOut, true>},
      {ToolName::dropLoop, "drop-loop", "Drop what is inside a loop (X)", Qt::Key_X,
       loop<Surface::retouch, PaintMode::rubOut, false>}};
  return all;
}

const std::vector<ToolInfo>& regionTools() {
  static const std::vector<ToolInfo> all = {
      {ToolName::paint, "paint", "Paint the region (D)", Qt::Key_D, brush<Surface::region, PaintMode::draw>},
      {ToolName::takeAway, "take-away", "Take from the region (R)", Qt::Key_R,
       brush<Surface::region, PaintMode::rubOut>},
      {ToolName::addLoop, "add-loop", "Add what is inside a loop (K). Ctrl takes it away", Qt::Key_K,
       loop<Surface::region, PaintMode::draw, false>},
      {ToolName::colour, "colour",
       "Add what has the colour under the pointer (C). Shift: wherever it is. Ctrl takes it away", Qt::Key_C,
       [](const ToolContext& context) -> std::unique_ptr<TableTool> { return std::make_unique<ColourTool>(context); }}};
  return all;
}

const std::vector<ToolInfo>& halfToneTools() {
  static const std::vector<ToolInfo> all = {
      {ToolName::level, "draw", "Level: paint the map itself, as near as is set (D). Shift: straight lines", Qt::Key_D,
       [](const ToolContext& context) -> std::unique_ptr<TableTool> {
         return std::make_unique<BrushTool>(context, Surface::retouch, PaintMode::draw, true);
       }},
      {ToolName::lighten, "lighten", "Lighten the map by a step (I). Ctrl darkens", Qt::Key_I,
       brush<Surface::retouch, PaintMode::lighten>},
      {ToolName::darken, nullptr, "Darken the map by a step (O)", Qt::Key_O,
       brush<Surface::retouch, PaintMode::darken>},
      {ToolName::smudge, "smudge", "Smudge: drag the map's values along (U)", Qt::Key_U,
       brush<Surface::retouch, PaintMode::smudge>},
      {ToolName::restore, "restore", "Restore: take retouch back (T)", Qt::Key_T,
       brush<Surface::retouch, PaintMode::restore>}};
  return all;
}

const KindTools& regionEntries() {
  static const KindTools all = [] {
    KindTools out{.tools = regionTools()};
    out.fields = [](Workbench& bench) -> std::vector<RowField> {
      const Guide* guide = bench.guide();
      if (guide == nullptr || !guide->limited()) return {};
      return {{"Feather", "Softening of the region's border", limits::feather,
               [&bench] { return bench.guide() != nullptr ? bench.guide()->region.feather : 0.0; },
               [&bench](double pixels) { bench.work.setFeather(pixels, true); }}};
    };
    out.buttons = [](Workbench& bench) -> std::vector<RowButton> {
      const auto limited = [&bench] { return bench.guide() != nullptr && bench.guide()->limited(); };
      return {
          {"invert region",
           nullptr,
           "Invert",
           "Act where the region is not",
           [&bench] { bench.work.invertRegion(); },
           {},
           limited},
          {"clear region", nullptr, "Clear", "Act everywhere", [&bench] { bench.work.clearRegion(); }, {}, limited}};
    };
    return out;
  }();
  return all;
}

}  // namespace hscaffold::app
