#include "app/bench/source_table.h"

#include <QContextMenuEvent>
#include <QMimeData>
#include <QMouseEvent>
#include <cmath>
#include <numbers>

#include "app/bench/pose_library.h"
#include "app/bench/ready_row.h"
#include "app/widgets/menus.h"
#include "app/workbench/lines/stroke_tools.h"
#include "app/workbench/pose/pose_tools.h"
#include "core/kinds.h"

namespace hscaffold::app {
namespace {

constexpr double gripReach = 14, knobDistance = 26;

}  // namespace

SourceTable::SourceTable(Desk& desk, QWidget* parent) : Table(desk, parent), bench_(desk.workbench) {
  setAccessibleName("Source table");
  setAcceptDrops(true);
  ready_ = new ReadyRow(desk, this);
  const auto repaint = qOverload<>(&QWidget::update);
  connect(&bench_.pose, &PoseWork::changed, this, [this] {
    if (bench_.pose.active())
      updateFigure();
    else
      update();
  });
  connect(&bench_, &Workbench::toolChanged, this, &SourceTable::followTool);
  connect(&bench_, &Workbench::toolSized, this, repaint);
  connect(&bench_, &Workbench::placingChanged, this, &SourceTable::followTool);
  connect(&bench_, &Workbench::regionShownChanged, this, repaint);
  connect(&bench_, &Workbench::looksChanged, this, repaint);
  connect(&bench_.depth, &DepthWork::changed, this, repaint);
  connect(&bench_.light, &LightWork::changed, this, repaint);
  connect(&desk_.document, &StudyDocument::changed, this, [this](const Changes& changes) {
    if (changes.looking || changes.frame || changes.references || changes.guideList ||
        changes.guide(desk_.document.state().looking.guide))
      update();
    if (changes.frame || changes.references || changes.guideList) placeReady();
  });
  connect(&desk_.maps, &MapRoom::picturesChanged, this, repaint);
  connect(&desk_.maps, &MapRoom::mapChanged, this, [this](const QString& guide) {
    if (guide.toStdString() == desk_.document.state().looking.guide) update();
  });
  connect(&desk_.maps, &MapRoom::mapPartChanged, this, [this](const QString& guide, const QRect& part) {
    if (guide.toStdString() != desk_.document.state().looking.guide) return;
    const QRectF shown(toTable(part.topLeft()), toTable(QPointF(part.x() + part.width(), part.y() + part.height())));
    update(shown.toAlignedRect().adjusted(-3, -3, 3, 3));
  });
  followTool();
  connect(&view_, &LinkedView::moved, this, &SourceTable::placeReady);
  placeReady();
}

void SourceTable::resizeEvent(QResizeEvent* event) {
  Table::resizeEvent(event);
  placeReady();
}

void SourceTable::placeReady() {
  const auto& state = desk_.document.state();
  const bool nothing = state.references.empty() && state.guides.empty();
  ready_->setVisible(nothing);
  if (!nothing) return;
  const QRectF frame = frameOnTable();
  const QSize wanted(std::min(260, width() - 24), ready_->sizeHint().height());
  // Below the words in the middle, and within the table however small the frame is shown.
  const double top = std::min(frame.center().y() + 40, height() - wanted.height() - 6.0);
  ready_->setGeometry(
      QRect(QPoint(static_cast<int>(frame.center().x()) - wanted.width() / 2, static_cast<int>(top)), wanted));
}

void SourceTable::followTool() {
  down_ = false;
  ringAt_.reset();
  if (tool() && tool()->ring() > 0)
    setCursor(Qt::BlankCursor);
  else if (tool())
    setCursor(tool()->cursor());
  else
    unsetCursor();
  update();
}

void SourceTable::setPaper(bool paper) {
  paper_ = paper;
  update();
}

void SourceTable::setBefore(bool before) {
  before_ = before;
  update();
}

void SourceTable::setGhost(double share) {
  ghost_ = share;
  update();
}

const Reference* SourceTable::reference() const {
  const auto& state = desk_.document.state();
  const Guide* guide = state.selectedGuide();
  if (guide != nullptr && !bench_.placing()) {
    // What is laid by its settings alone is laid over a picture; what was drawn needs none.
    if (standsAlone(*guide) && kindOf(guide->kind).extract) return nullptr;
    if (const Reference* of = state.reference(guide->reference)) return of;
  }
  return state.selectedReference();
}

std::array<QPointF, 5> SourceTable::handles() const {
  const Reference* r = reference();
  if (r == nullptr) return {};
  const Affine m = frameFromReference(r->placement, r->size, desk_.document.state().frame);
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
  if (!bench_.placing() && !panning() && event->button() == Qt::LeftButton) {
    if (tool()) {
      down_ = true;
      tool()->press(pointerOf(*event));
      update();
    } else if (!desk_.document.state().references.empty() || !desk_.document.state().guides.empty()) {
      beginPan(event->position());
    }
    return;
  }
  if (!bench_.placing() || panning() || event->button() != Qt::LeftButton || r == nullptr) return;
  grip_ = gripAt(event->position());
  grabbed_ = toFrame(event->position());
  start_ = resolved(r->placement, r->size, desk_.document.state().frame);
}

void SourceTable::mouseMoveEvent(QMouseEvent* event) {
  Table::mouseMoveEvent(event);
  pen_.reset();
  if (tool() && !panning()) {
    const QRect before = ringOnTable();
    if (down_)
      tool()->move(pointerOf(*event));
    else
      tool()->hover(pointerOf(*event));
    if (tool()->ring() > 0) {
      ringAt_ = event->position();
      // A brush changes only what is under it: the rest of the table is not painted again.
      update(before);
      update(ringOnTable());
      if (down_ && (bench_.tool() == ToolName::pen || event->modifiers().testFlag(Qt::ShiftModifier))) update();
    } else {
      setCursor(tool()->cursor());
      // A figure in hand says itself what has to be painted.
      if (!bench_.pose.active()) update();
    }
    return;
  }
  if (grip_ != Grip::none) {
    drag(toFrame(event->position()), event->modifiers());
  } else if (bench_.placing() && !panning()) {
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
  const Size frame = desk_.document.state().frame;
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
  desk_.document.change(
      name, [&](StudyState& s) { s.reference(r->id)->placement = next; }, "place " + r->id + name.toStdString());
}

void SourceTable::mouseReleaseEvent(QMouseEvent* event) {
  Table::mouseReleaseEvent(event);
  if (tool() && down_ && event->button() == Qt::LeftButton) {
    liftTool(pointerOf(*event));
    return;
  }
  if (grip_ == Grip::none) return;
  grip_ = Grip::none;
  desk_.document.seal();
}

void SourceTable::liftTool(const ToolPointer& at) {
  down_ = false;
  tool()->release(at);
  if (tool()->done()) bench_.setTool(ToolName::joints);
  update();
}

ToolPointer SourceTable::pointerOf(const QMouseEvent& event) const {
  return {toFrame(event.position()), event.modifiers(), pressure_, view_.scale(size())};
}

QRect SourceTable::ringOnTable() const {
  if (!ringAt_ || !tool()) return {};
  const double radius = tool()->ring() * view_.scale(size()) / 2 + 4;
  return QRectF(*ringAt_ - QPointF(radius, radius), QSizeF(2 * radius, 2 * radius)).toAlignedRect();
}

void SourceTable::tabletEvent(QTabletEvent* event) {
  // The mouse event that follows from it carries everything but the pressure.
  pressure_ = event->type() == QEvent::TabletRelease ? 1 : std::max(0.02, static_cast<double>(event->pressure()));
  event->ignore();
}

void SourceTable::wheelEvent(QWheelEvent* event) {
  if (tool() && tool()->ring() > 0 && event->modifiers().testFlag(Qt::ControlModifier)) {
    bench_.scaleTool(event->angleDelta().y() > 0 ? 1.12 : 1 / 1.12);
    return;
  }
  Table::wheelEvent(event);
}

void SourceTable::leaveEvent(QEvent* event) {
  Table::leaveEvent(event);
  const QRect before = ringOnTable();
  ringAt_.reset();
  update(before);
  if (!tool() || down_) return;
  tool()->leave();
  if (tool()->ring() <= 0) update();
}

void SourceTable::contextMenuEvent(QContextMenuEvent* event) {
  if (!tool()) return;
  tool()->hover({toFrame(event->pos()), {}, 1, view_.scale(size())});
  QMenu* menu = newMenu(*this);
  tool()->addToMenu(*menu);
  // What it offers belongs to the tool in hand and the guide that it works on: with another one it is closed.
  connect(&bench_, &Workbench::toolChanged, menu, &QMenu::close);
  const std::string guide = desk_.document.state().looking.guide;
  connect(&desk_.document, &StudyDocument::changed, menu, [this, menu, guide] {
    if (desk_.document.state().looking.guide != guide) menu->close();
  });
  if (menu->isEmpty())
    menu->deleteLater();
  else
    menu->popup(event->globalPos());
  update();
}

void SourceTable::showFigure() {
  const pose::Figure* figure = bench_.pose.selectedFigure();
  const auto bounds = figure != nullptr ? pose::boundsOf(*figure) : std::nullopt;
  if (!bounds) return;
  // As large as the table, but not so large that it is lost what is round it.
  const double wanted =
      std::min({0.7 * height() / std::max(8.0, bounds->height()), 0.7 * width() / std::max(8.0, bounds->width()), 8.0});
  view_.showPlace({bounds->middle().x, bounds->middle().y}, wanted, size());
  update();
}

void SourceTable::showPlace(QPointF place, double extent) {
  const double shown = 2.2 * std::max(24.0, extent);
  view_.showPlace(place, std::min({height() / shown, width() / shown, 8.0}), size());
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
  const double side = 0.55 * desk_.document.state().frame.height;
  const QString name = QString::fromStdString(figure->name).toLower();
  bench_.pose.add({pose::fittedInto(*figure, pose::Bounds{at.x() - side / 2, at.y() - side / 2, at.x() + side / 2,
                                                          at.y() + side / 2})},
                  "Put " + name);
  bench_.setTool(ToolName::joints);
  setFocus();
}

void SourceTable::mouseDoubleClickEvent(QMouseEvent* event) {
  if (tool()) return mousePressEvent(event);
  if (desk_.document.state().references.empty())
    emit openAsked();
  else
    bench_.setPlacing(!bench_.placing());
}

}  // namespace hscaffold::app
