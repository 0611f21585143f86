#include "app/bench/source_table.h"

#include <QContextMenuEvent>
#include <QMenu>
#include <QMimeData>
#include <QMouseEvent>
#include <QPainter>
#include <QPainterPath>
#include <cmath>
#include <numbers>

#include "app/bench/pose_library.h"
#include "app/images.h"
#include "app/theme/theme.h"

namespace hscaffold::app {
namespace {

constexpr double gripReach = 14, knobDistance = 26;
constexpr double glassRadius = 58;

QTransform transformOf(const Affine& m) { return {m.a, m.d, m.b, m.e, m.c, m.f}; }

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

/// What a moving figure needs painted: itself where it was and is, its handles and lengths, and the glass.
void SourceTable::updateFigure() {
  QRegion now;
  if (const pose::Figure* figure = pose_.selectedFigure())
    if (const auto bounds = pose::boundsOf(*figure)) {
      constexpr int round = 64;
      const QRectF box(toTable({bounds->left, bounds->top}), toTable({bounds->right, bounds->bottom}));
      now += box.toAlignedRect().adjusted(-round, -round, round, round);
    }
  if (const auto glass = magnifierAt())
    now += QRectF(*glass - QPointF(glassRadius + 4, glassRadius + 4), QSizeF(2 * glassRadius + 8, 2 * glassRadius + 8))
               .toAlignedRect();
  update(now + movedOver_);
  movedOver_ = now;
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

void SourceTable::paintReference(QPainter& painter, const Reference& r) const {
  const QRectF frame = frameOnTable();
  const QImage display = session_.referenceImage(r.id);
  if (display.isNull()) {
    painter.fillRect(frame, QColor(0, 0, 0, 40));
    painter.setPen(QColor("#f3efe6"));
    painter.drawText(frame, Qt::AlignCenter, "Reading " + QString::fromStdString(r.name));
    return;
  }
  painter.setRenderHint(QPainter::SmoothPixmapTransform);
  const double scale = view_.scale(size());
  QTransform whole = QTransform::fromScale(static_cast<double>(r.size.width) / display.width(),
                                           static_cast<double>(r.size.height) / display.height()) *
                     transformOf(frameFromReference(r.placement, r.size, session_.state().frame)) *
                     QTransform::fromScale(scale, scale) * QTransform::fromTranslate(frame.x(), frame.y());
  if (placing_) {
    // The whole reference is seen; what the frame cuts off is dimmed.
    painter.save();
    painter.setOpacity(0.38);
    painter.setTransform(whole, true);
    painter.drawImage(QPointF(0, 0), display);
    painter.restore();
  }
  const QImage placed = session_.placedImage(r.id);
  if (!placed.isNull() && grip_ == Grip::none) {
    painter.drawImage(frame, placed);
  } else {
    painter.save();
    painter.setClipRect(frame);
    painter.fillRect(frame, QColor("#3a3a3a"));
    painter.setTransform(whole, true);
    painter.drawImage(QPointF(0, 0), display);
    painter.restore();
  }
}

void SourceTable::paintMap(QPainter& painter) {
  const auto& state = session_.state();
  const Guide* guide = state.guide(state.selectedGuide);
  const MapPicture* map = guide != nullptr ? session_.mapOf(guide->id) : nullptr;
  if (map == nullptr || map->grey.isNull() || grip_ != Grip::none) return;
  const QRectF frame = frameOnTable();
  // Strokes of a brush are shown at once: while they are drawn, scaling is quick rather than smooth.
  painter.setRenderHint(QPainter::SmoothPixmapTransform, !work_.active() || view_.scale(size()) > 0.7);
  // What is made from the map for showing is kept until the map is another.
  const auto derived = [&](const QString& kind, const std::function<QImage()>& make) {
    if (kind != derivedKind_ || derivedFrom_ != map->grey.cacheKey()) {
      derived_ = make();
      derivedKind_ = kind;
      derivedFrom_ = map->grey.cacheKey();
    }
    return derived_;
  };
  // A guide without a reference has nothing to fade to.
  const double ghost = reference() == nullptr ? 1 : ghost_;
  QImage grey = map->grey, tinted = map->tinted;
  if (before_ && map->below) {
    grey = derived("before", [&] { return greyImage(*map->below); });
    tinted = QImage();
  }
  if (tinted.isNull()) {
    painter.setOpacity(before_ && kindOf(guide->kind).lines ? std::max(0.75, ghost) : ghost);
    painter.drawImage(frame, grey);
  } else {
    // Up to the middle the lines come in over the picture; beyond it the picture goes.
    // Light inks would be lost on a light picture: figures dim it a little.
    if (kindOf(guide->kind).figures)
      painter.fillRect(frame, QColor(0, 0, 0, static_cast<int>(std::min(1.0, ghost * 2) * 60)));
    const double alone = std::max(0.0, ghost * 2 - 1);
    painter.setOpacity(alone);
    painter.fillRect(frame, paper_ ? QColor("#fbfaf7") : QColor(Qt::black));
    painter.setOpacity(std::min(1.0, ghost * 2) * (paper_ ? 1 - alone : 1));
    painter.drawImage(frame, tinted);
    painter.setOpacity(alone);
    if (alone > 0 && !paper_) painter.drawImage(frame, grey);
    if (alone > 0 && paper_) {
      if (work_.active()) {
        painter.setOpacity(1);
        painter.drawImage(frame, tinted);
      } else {
        painter.drawImage(frame, derived("paper", [&] {
                            QImage inked = map->grey.copy();
                            inked.invertPixels();
                            return inked;
                          }));
      }
    }
  }
  painter.setOpacity(1);
  if (!map->outside.isNull() && (regionShown_ || !(kindOf(guide->kind).lines || kindOf(guide->kind).figures)))
    painter.drawImage(frame, map->outside);
  if (movedShown_ && map->movedUnder > 0 && !guide->retouch.empty() && map->below)
    painter.drawImage(frame, derived("moved", [&] {
                        const auto layer = session_.edits().layer(guide->retouch);
                        const GuidePlace place = session_.placeOf(*guide);
                        return tintedImage(movedUnder(following(*layer, place.frame, place.placing), *map->below),
                                           theme().accent);
                      }));
}

void SourceTable::paintTool(QPainter& painter) const {
  if (!tool_) return;
  const double scale = view_.scale(size());
  const QPointF origin = frameOnTable().topLeft();
  tool_->paint(painter, QTransform::fromScale(scale, scale) * QTransform::fromTranslate(origin.x(), origin.y()), scale);
  if (!ringAt_ || tool_->ring() <= 0) return;
  const double radius = std::max(1.0, tool_->ring() * scale / 2);
  painter.setBrush(Qt::NoBrush);
  painter.setPen(QPen(QColor(0, 0, 0, 150), 2.6));
  painter.drawEllipse(*ringAt_, radius, radius);
  painter.setPen(QPen(QColor("#f6f2ea"), 1.1));
  painter.drawEllipse(*ringAt_, radius, radius);
}

std::optional<QPointF> SourceTable::magnifierAt() const {
  const auto place = tool_ ? tool_->magnified() : std::nullopt;
  if (!place) return {};
  const QPointF at = toTable(*place);
  // Above and to the right, or wherever there is room.
  constexpr double aside = glassRadius + 34;
  QPointF middle = at + QPointF(aside, -aside);
  if (middle.x() + glassRadius > width()) middle.setX(at.x() - aside);
  if (middle.y() - glassRadius < 0) middle.setY(at.y() + aside);
  return middle;
}

void SourceTable::paintMagnifier(QPainter& painter) {
  const auto glassAt = magnifierAt();
  if (!glassAt) return;
  constexpr double radius = glassRadius, times = 3;
  const QPointF at = toTable(*tool_->magnified()), middle = *glassAt;
  QPainterPath glass;
  glass.addEllipse(middle, radius, radius);
  painter.save();
  painter.setClipPath(glass);
  painter.fillRect(glass.boundingRect(), theme().table);
  painter.translate(middle);
  painter.scale(times, times);
  painter.translate(-at);
  if (const Reference* r = reference())
    paintReference(painter, *r);
  else
    painter.fillRect(frameOnTable(), Qt::black);
  paintMap(painter);
  painter.restore();
  painter.setBrush(Qt::NoBrush);
  for (const auto& [colour, pen] : {std::pair{QColor(0, 0, 0, 180), 4.0}, {QColor("#f6f2ea"), 1.6}}) {
    painter.setPen(QPen(colour, pen));
    painter.drawEllipse(middle, radius, radius);
    painter.drawLine(middle - QPointF(12, 0), middle - QPointF(4, 0));
    painter.drawLine(middle + QPointF(4, 0), middle + QPointF(12, 0));
    painter.drawLine(middle - QPointF(0, 12), middle - QPointF(0, 4));
    painter.drawLine(middle + QPointF(0, 4), middle + QPointF(0, 12));
  }
}

void SourceTable::paintEmptyPose(QPainter& painter) const {
  const auto* figures = pose_.figures();
  if (figures == nullptr || !figures->figures.empty() || toolName_ == ToolName::putPose) return;
  paintInvitation(painter, "Put a figure here",
                  "drag one from the pose library (B), or bring in key points or a motion clip (Ctrl+I)");
}

void SourceTable::paintEvent(QPaintEvent*) {
  QPainter painter(this);
  painter.fillRect(rect(), theme().table);
  painter.setRenderHint(QPainter::Antialiasing);
  const Reference* r = reference();
  const Guide* guide = session_.state().guide(session_.state().selectedGuide);
  const bool drawn = guide != nullptr && isOnlyDrawn(*guide) && !placing_;
  if (r == nullptr && !drawn && toolName_ != ToolName::putPose) {
    paintInvitation(painter, "Drop a picture here", "or paste one (Ctrl+V), or double-click to choose a file");
    return;
  }
  if (r != nullptr)
    paintReference(painter, *r);
  else
    painter.fillRect(frameOnTable(), Qt::black);
  if (!placing_) paintMap(painter);
  painter.setBrush(Qt::NoBrush);
  painter.setPen(QPen(QColor(255, 255, 255, 200), 1));
  painter.drawRect(frameOnTable());
  if (placing_) {
    const auto all = handles();
    painter.setPen(QPen(theme().accent, 1.2));
    painter.drawPolygon(all.data(), 4);
    painter.drawLine((all[0] + all[1]) / 2, all[4]);
    painter.setBrush(QColor("#f6f2ea"));
    for (std::size_t i = 0; i < 4; ++i) painter.drawRect(QRectF(all[i] - QPointF(4.5, 4.5), QSizeF(9, 9)));
    painter.drawEllipse(all[4], 5, 5);
  }
  if (!placing_) paintEmptyPose(painter);
  paintTool(painter);
  paintMagnifier(painter);
  paintPointer(painter);
}

}  // namespace hscaffold::app
