#include "app/bench/source_table.h"

#include <QContextMenuEvent>
#include <QMenu>
#include <QMimeData>
#include <QMouseEvent>
#include <cmath>
#include <numbers>

#include "app/bench/pose_library.h"

namespace hscaffold::app {
namespace {

constexpr double gripReach = 14, knobDistance = 26;

}  // namespace

SourceTable::SourceTable(StudySession& session, LinkedView& view, QWidget* parent)
    : Table(session, view, parent), work_(session), pose_(session) {
  setAccessibleName("Source table");
  setAcceptDrops(true);
  connect(&pose_, &PoseWork::changed, this, [this] {
    if (pose_.active())
      updateFigure();
    else
      update();
  });
  for (const auto signal : {&StudySession::changed, &StudySession::picturesChanged})
    connect(&session_, signal, this, qOverload<>(&QWidget::update));
  connect(&session_, &StudySession::mapChanged, this, qOverload<>(&QWidget::update));
  connect(&session_, &StudySession::mapPartChanged, this, [this](const QString& guide, const QRect& part) {
    if (guide.toStdString() != session_.state().selectedGuide) return;
    const QRectF shown(toTable(part.topLeft()), toTable(QPointF(part.x() + part.width(), part.y() + part.height())));
    update(shown.toAlignedRect().adjusted(-3, -3, 3, 3));
  });
  connect(&session_, &StudySession::changed, this, [this] {
    // A tool that the selected guide does not know is put away.
    const Guide* guide = session_.state().guide(session_.state().selectedGuide);
    const bool strokes = toolName_ == ToolName::pen || toolName_ == ToolName::strokes;
    const bool figures = guide != nullptr && kindOf(guide->kind).figures;
    const bool wrong = figures ? !isPoseTool(toolName_) && !isRegionTool(toolName_)
                               : isPoseTool(toolName_) && toolName_ != ToolName::putPose;
    const std::string id = guide != nullptr ? guide->id : std::string();
    if (toolName_ != ToolName::look && (guide == nullptr || wrong || (strokes && !kindOf(guide->kind).draw)))
      setTool(ToolName::look);
    // Figures are there to be posed: their tool is in hand when they are chosen.
    if (figures && id != toolGuide_ && toolName_ == ToolName::look && !placing_ && !regionShown_)
      setTool(ToolName::joints);
    toolGuide_ = id;
  });
}

void SourceTable::setTool(ToolName tool) {
  if (tool == toolName_) return;
  if (tool_) tool_->cancel();
  toolName_ = tool;
  tool_ = makeTool(tool, {work_, pose_, settings_});
  down_ = false;
  ringAt_.reset();
  if (tool_ && tool_->ring() > 0)
    setCursor(Qt::BlankCursor);
  else if (tool_)
    setCursor(tool_->cursor());
  else
    unsetCursor();
  if (tool != ToolName::look) setPlacing(false);
  update();
  emit toolChanged();
}

void SourceTable::setRegionShown(bool shown) {
  if (shown == regionShown_) return;
  regionShown_ = shown;
  const Guide* guide = session_.state().guide(session_.state().selectedGuide);
  const bool figures = guide != nullptr && kindOf(guide->kind).figures;
  setTool(shown ? ToolName::paint : figures ? ToolName::joints : ToolName::look);
  update();
  emit regionShownChanged();
}

void SourceTable::setPaper(bool paper) {
  paper_ = paper;
  update();
}

void SourceTable::setBefore(bool before) {
  before_ = before;
  update();
}

void SourceTable::setMovedShown(bool shown) {
  movedShown_ = shown;
  update();
}

void SourceTable::setGhost(double share) {
  ghost_ = share;
  update();
}

void SourceTable::setPlacing(bool placing) {
  if (placing == placing_) return;
  if (placing) {
    setRegionShown(false);
    setTool(ToolName::look);
  }
  placing_ = placing;
  unsetCursor();
  update();
  emit placingChanged(placing);
}

const Reference* SourceTable::reference() const {
  const auto& state = session_.state();
  const Guide* guide = state.guide(state.selectedGuide);
  if (guide != nullptr && !placing_) {
    if (isOnlyDrawn(*guide)) return nullptr;
    if (const Reference* of = state.reference(guide->reference)) return of;
  }
  return state.reference(state.selectedReference);
}

std::array<QPointF, 5> SourceTable::handles() const {
  const Reference* r = reference();
  if (r == nullptr) return {};
  const Affine m = frameFromReference(r->placement, r->size, session_.state().frame);
  const auto at = [&](double x, double y) { return toTable({m.mapX(x, y), m.mapY(x, y)}); };
  const double w = r->size.width, h = r->size.height;
  std::array<QPointF, 5> out{at(0, 0), at(w, 0), at(w, h), at(0, h), {}};
  const QPointF top = (out[0] + out[1]) / 2, middle = (out[0] + out[2]) / 2;
  const QPointF up = top - middle;
  // Inside the upper border, so that it can be reached when the reference covers the frame.
  out[4] = top - up / std::max(1.0, std::hypot(up.x(), up.y())) * knobDistance;
  return out;
}

SourceTable::Grip SourceTable::gripAt(QPointF at) const {
  const auto all = handles();
  const auto near = [&](QPointF p) { return std::hypot(p.x() - at.x(), p.y() - at.y()) <= gripReach; };
  if (near(all[4])) return Grip::turn;
  for (std::size_t i = 0; i < 4; ++i)
    if (near(all[i])) return Grip::corner;
  QPolygonF shape;
  for (std::size_t i = 0; i < 4; ++i) shape << all[i];
  return shape.containsPoint(at, Qt::OddEvenFill) ? Grip::move : Grip::none;
}

void SourceTable::mousePressEvent(QMouseEvent* event) {
  Table::mousePressEvent(event);
  const Reference* r = reference();
  if (!placing_ && !panning() && event->button() == Qt::LeftButton) {
    if (tool_) {
      down_ = true;
      tool_->press(pointerOf(*event));
      update();
    } else if (!session_.state().references.empty() || !session_.state().guides.empty()) {
      beginPan(event->position());
    }
    return;
  }
  if (!placing_ || panning() || event->button() != Qt::LeftButton || r == nullptr) return;
  grip_ = gripAt(event->position());
  grabbed_ = toFrame(event->position());
  start_ = resolved(r->placement, r->size, session_.state().frame);
}

void SourceTable::mouseMoveEvent(QMouseEvent* event) {
  Table::mouseMoveEvent(event);
  if (tool_ && !panning()) {
    const QRect before = ringOnTable();
    if (down_)
      tool_->move(pointerOf(*event));
    else
      tool_->hover(pointerOf(*event));
    if (tool_->ring() > 0) {
      ringAt_ = event->position();
      // A brush changes only what is under it: the rest of the table is not painted again.
      update(before);
      update(ringOnTable());
      if (down_ && (toolName_ == ToolName::pen || event->modifiers().testFlag(Qt::ShiftModifier))) update();
    } else {
      setCursor(tool_->cursor());
      // A figure in hand says itself what has to be painted.
      if (!pose_.active()) update();
    }
    return;
  }
  if (grip_ != Grip::none) {
    drag(toFrame(event->position()), event->modifiers());
  } else if (placing_ && !panning()) {
    switch (gripAt(event->position())) {
      case Grip::move:
        setCursor(Qt::SizeAllCursor);
        break;
      case Grip::corner:
        setCursor(Qt::CrossCursor);
        break;
      case Grip::turn:
        setCursor(Qt::PointingHandCursor);
        break;
      case Grip::none:
        unsetCursor();
        break;
    }
  }
}

void SourceTable::drag(QPointF to, Qt::KeyboardModifiers modifiers) {
  const Reference* r = reference();
  if (r == nullptr) return;
  const Size frame = session_.state().frame;
  const QPointF centre(start_.x * frame.width, start_.y * frame.height);
  Placement next = start_;
  QString name;
  if (grip_ == Grip::move) {
    next.x = start_.x + (to.x() - grabbed_.x()) / frame.width;
    next.y = start_.y + (to.y() - grabbed_.y()) / frame.height;
    name = "Move reference";
  } else if (grip_ == Grip::corner) {
    const QPointF before = grabbed_ - centre, now = to - centre;
    const double factor =
        std::clamp(std::hypot(now.x(), now.y()) / std::max(1.0, std::hypot(before.x(), before.y())), 0.02, 50.0);
    next.scaleX = start_.scaleX * factor;
    next.scaleY = start_.scaleY * factor;
    name = "Scale reference";
  } else {
    const QPointF before = grabbed_ - centre, now = to - centre;
    double turn =
        start_.turn + (std::atan2(now.y(), now.x()) - std::atan2(before.y(), before.x())) * 180 / std::numbers::pi;
    if (modifiers.testFlag(Qt::ShiftModifier)) turn = std::round(turn / 15) * 15;
    next.turn = std::remainder(turn, 360.0);
    name = "Turn reference";
  }
  next.fit = Fit::free;
  session_.change(
      name, [&](StudyState& s) { s.reference(r->id)->placement = next; }, "place " + r->id + name.toStdString());
}

void SourceTable::mouseReleaseEvent(QMouseEvent* event) {
  Table::mouseReleaseEvent(event);
  if (tool_ && down_ && event->button() == Qt::LeftButton) {
    down_ = false;
    tool_->release(pointerOf(*event));
    if (tool_->done()) setTool(ToolName::joints);
    update();
    return;
  }
  if (grip_ == Grip::none) return;
  grip_ = Grip::none;
  session_.seal();
}

ToolPointer SourceTable::pointerOf(const QMouseEvent& event) const {
  return {toFrame(event.position()), event.modifiers(), pressure_, view_.scale(size())};
}

QRect SourceTable::ringOnTable() const {
  if (!ringAt_ || !tool_) return {};
  const double radius = tool_->ring() * view_.scale(size()) / 2 + 4;
  return QRectF(*ringAt_ - QPointF(radius, radius), QSizeF(2 * radius, 2 * radius)).toAlignedRect();
}

void SourceTable::tabletEvent(QTabletEvent* event) {
  // The mouse event that follows from it carries everything but the pressure.
  pressure_ = event->type() == QEvent::TabletRelease ? 1 : std::max(0.02, static_cast<double>(event->pressure()));
  event->ignore();
}

void SourceTable::wheelEvent(QWheelEvent* event) {
  if (tool_ && tool_->ring() > 0 && event->modifiers().testFlag(Qt::ControlModifier)) {
    scaleTool(event->angleDelta().y() > 0 ? 1.12 : 1 / 1.12);
    return;
  }
  Table::wheelEvent(event);
}

void SourceTable::leaveEvent(QEvent* event) {
  Table::leaveEvent(event);
  const QRect before = ringOnTable();
  ringAt_.reset();
  update(before);
  if (!tool_ || down_) return;
  tool_->leave();
  if (tool_->ring() <= 0) update();
}

void SourceTable::contextMenuEvent(QContextMenuEvent* event) {
  if (!tool_) return;
  if (isPoseTool(toolName_)) tool_->hover({toFrame(event->pos()), {}, 1, view_.scale(size())});
  QMenu menu;
  tool_->addToMenu(menu);
  if (!menu.isEmpty()) menu.exec(event->globalPos());
  update();
}

void SourceTable::putPose(pose::Figure figure) {
  settings_.pose = std::move(figure);
  setTool(ToolName::look);
  setTool(ToolName::putPose);
  setFocus();
}

void SourceTable::showFigure() {
  const pose::Figure* figure = pose_.selectedFigure();
  const auto bounds = figure != nullptr ? pose::boundsOf(*figure) : std::nullopt;
  if (!bounds) return;
  // As large as the table, but not so large that it is lost what is round it.
  const double wanted =
      std::min({0.7 * height() / std::max(8.0, bounds->height()), 0.7 * width() / std::max(8.0, bounds->width()), 8.0});
  view_.showPlace({bounds->middle().x, bounds->middle().y}, wanted, size());
  update();
}

void SourceTable::dragEnterEvent(QDragEnterEvent* event) {
  if (event->mimeData()->hasFormat(poseMime)) event->acceptProposedAction();
}

void SourceTable::dragMoveEvent(QDragMoveEvent* event) { event->acceptProposedAction(); }

void SourceTable::dropEvent(QDropEvent* event) {
  auto figure = figureFromMime(event->mimeData()->data(poseMime));
  if (!figure) return;
  event->acceptProposedAction();
  // Half as high as the frame, its middle where it was let go.
  const QPointF at = toFrame(event->position());
  const double side = 0.55 * session_.state().frame.height;
  const QString name = QString::fromStdString(figure->name).toLower();
  pose_.add({pose::fittedInto(
                *figure, pose::Bounds{at.x() - side / 2, at.y() - side / 2, at.x() + side / 2, at.y() + side / 2})},
            "Put " + name);
  setTool(ToolName::joints);
  setFocus();
}

void SourceTable::mouseDoubleClickEvent(QMouseEvent* event) {
  if (tool_) return mousePressEvent(event);
  if (session_.state().references.empty())
    emit openAsked();
  else
    setPlacing(!placing_);
}

}  // namespace hscaffold::app
