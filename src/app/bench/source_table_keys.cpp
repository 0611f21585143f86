// What keys do on the source table.
#include <QKeyEvent>

#include "app/bench/source_table.h"
#include "app/workbench/arrows.h"
#include "app/workbench/kind_tools.h"

namespace hscaffold::app {

/// First what the tool in hand does with it, then the keys of tools, as their family names them.
bool SourceTable::toolKey(QKeyEvent* event) {
  const Guide* guide = bench_.guide();
  if (guide == nullptr || bench_.placing()) return false;
  if (tool() && tool()->key(event)) {
    update();
    return true;
  }
  if (event->modifiers() & ~(Qt::ShiftModifier | Qt::KeypadModifier)) return false;
  for (const ToolInfo& info : bench_.tools())
    if (info.key != 0 && info.key == event->key()) {
      bench_.setTool(info.id);
      return true;
    }
  switch (event->key()) {
    case Qt::Key_BracketLeft:
      bench_.scaleTool(1 / 1.2);
      return true;
    case Qt::Key_BracketRight:
      bench_.scaleTool(1.2);
      return true;
    case Qt::Key_L:
      bench_.setTool(ToolName::look);
      return true;
    case Qt::Key_G:
      bench_.setRegionShown(!bench_.regionShown());
      return true;
    default:
      return bench_.offered()->key && bench_.offered()->key(bench_, *event);
  }
}

/// Any tool without a mouse: arrows lead the pen over the picture, Space puts it down and lifts it.
bool SourceTable::penKey(QKeyEvent* event) {
  if (!tool() || bench_.placing()) return false;
  const double step = event->modifiers().testFlag(Qt::ShiftModifier) ? 24 : 4;
  const QPointF by = arrowOf(*event) * step;
  if (by.isNull() && event->key() != Qt::Key_Space) return false;
  const Size frame = desk_.document.state().frame;
  const QPointF from = pen_.value_or(toFrame(QPointF(width() / 2.0, height() / 2.0)));
  pen_ = {std::clamp(from.x() + by.x(), 0.0, static_cast<double>(frame.width)),
          std::clamp(from.y() + by.y(), 0.0, static_cast<double>(frame.height))};
  const ToolPointer at{*pen_, {}, 1, view_.scale(size())};
  view_.setPointer(pen_);
  if (event->key() != Qt::Key_Space) {
    down_ ? tool()->move(at) : tool()->hover(at);
  } else if (down_) {
    liftTool(at);
  } else {
    down_ = true;
    tool()->press(at);
  }
  ringAt_ = view_.toTable(*pen_, size());
  update();
  return true;
}

void SourceTable::keyPressEvent(QKeyEvent* event) {
  if (toolKey(event) || penKey(event)) return;
  const Reference* r = reference();
  const QPointF by = nudgeOf(*event);
  if (event->key() == Qt::Key_Escape && tool()) {
    down_ = false;
    if (!tool()->cancel()) bench_.setTool(ToolName::look);
    update();
    return;
  }
  if (event->key() == Qt::Key_Escape && bench_.placing()) {
    bench_.setPlacing(false);
    return;
  }
  if (!bench_.placing() || r == nullptr || by.isNull()) {
    Table::keyPressEvent(event);
    return;
  }
  const Size frame = desk_.document.state().frame;
  Placement next = resolved(r->placement, r->size, frame);
  next.fit = Fit::free;
  next.x += by.x() / frame.width;
  next.y += by.y() / frame.height;
  desk_.document.change(
      "Move reference", [&](StudyState& s) { s.reference(r->id)->placement = next; }, "nudge " + r->id);
}

}  // namespace hscaffold::app
