// What keys do on the source table.
#include <QKeyEvent>

#include "app/bench/source_table.h"

namespace hscaffold::app {

void SourceTable::scaleTool(double factor) {
  double& size = toolName_ == ToolName::pen ? settings_.penWidth : settings_.size;
  size = std::clamp(size * factor, 1.0, toolName_ == ToolName::pen ? 60.0 : 600.0);
  update();
  emit toolChanged();
}

bool SourceTable::toolKey(QKeyEvent* event) {
  const Guide* guide = session_.state().guide(session_.state().selectedGuide);
  if (guide == nullptr || placing_) return false;
  if (tool_ && tool_->key(event)) {
    update();
    return true;
  }
  if (event->modifiers() & ~(Qt::ShiftModifier | Qt::KeypadModifier)) return false;
  if (kindOf(guide->kind).figures && !regionShown_ && event->key() != Qt::Key_G) return poseKey(event);
  const bool draws = static_cast<bool>(kindOf(guide->kind).draw);
  switch (event->key()) {
    case Qt::Key_BracketLeft:
      scaleTool(1 / 1.2);
      return true;
    case Qt::Key_BracketRight:
      scaleTool(1.2);
      return true;
    case Qt::Key_L:
      setTool(ToolName::look);
      return true;
    case Qt::Key_D:
      setTool(regionShown_ ? ToolName::paint : ToolName::draw);
      return true;
    case Qt::Key_R:
      setTool(regionShown_ ? ToolName::takeAway : ToolName::rubOut);
      return true;
    case Qt::Key_T:
      if (regionShown_) return false;
      setTool(ToolName::restore);
      return true;
    case Qt::Key_K:
      setTool(regionShown_ ? ToolName::addLoop : ToolName::keepLoop);
      return true;
    case Qt::Key_X:
      if (regionShown_) return false;
      setTool(ToolName::dropLoop);
      return true;
    case Qt::Key_C:
      if (!regionShown_) return false;
      setTool(ToolName::colour);
      return true;
    case Qt::Key_P:
      if (!draws || regionShown_) return false;
      setTool(ToolName::pen);
      return true;
    case Qt::Key_S:
      if (!draws || regionShown_) return false;
      setTool(ToolName::strokes);
      return true;
    case Qt::Key_G:
      setRegionShown(!regionShown_);
      return true;
    default:
      return false;
  }
}

bool SourceTable::poseKey(QKeyEvent* event) {
  switch (event->key()) {
    case Qt::Key_L:
      setTool(ToolName::look);
      return true;
    case Qt::Key_J:
      setTool(ToolName::joints);
      return true;
    case Qt::Key_T:
      setTool(ToolName::turnLimb);
      return true;
    case Qt::Key_M:
      setTool(ToolName::figure);
      return true;
    case Qt::Key_H:
      setTool(ToolName::hide);
      return true;
    case Qt::Key_F:
      pose_.setFitting(!pose_.fitting());
      return true;
    case Qt::Key_B:
      emit libraryAsked();
      return true;
    case Qt::Key_N:
      if (pose_.selectNext(event->modifiers().testFlag(Qt::ShiftModifier) ? 1 : -1)) showFigure();
      return true;
    default:
      return false;
  }
}

void SourceTable::keyPressEvent(QKeyEvent* event) {
  if (toolKey(event)) return;
  const Reference* r = reference();
  const double step = event->modifiers().testFlag(Qt::ShiftModifier) ? 10 : 1;
  QPointF by;
  switch (event->key()) {
    case Qt::Key_Left:
      by = {-step, 0};
      break;
    case Qt::Key_Right:
      by = {step, 0};
      break;
    case Qt::Key_Up:
      by = {0, -step};
      break;
    case Qt::Key_Down:
      by = {0, step};
      break;
    case Qt::Key_Escape:
      if (tool_) {
        down_ = false;
        if (!tool_->cancel()) setTool(ToolName::look);
        update();
        return;
      }
      if (placing_) {
        setPlacing(false);
        return;
      }
      break;
    default:
      break;
  }
  if (!placing_ || r == nullptr || by.isNull()) {
    Table::keyPressEvent(event);
    return;
  }
  const Size frame = session_.state().frame;
  Placement next = resolved(r->placement, r->size, frame);
  next.fit = Fit::free;
  next.x += by.x() / frame.width;
  next.y += by.y() / frame.height;
  session_.change(
      "Move reference", [&](StudyState& s) { s.reference(r->id)->placement = next; }, "nudge " + r->id);
}

}  // namespace hscaffold::app
