#include "app/finish/final_table.h"

#include <QKeyEvent>
#include <QMouseEvent>
#include <QPainter>
#include <QPainterPath>
#include <cmath>

#include "app/images.h"
#include "app/theme/theme.h"
#include "core/finish/things.h"
#include "core/image/resample.h"
#include "core/pose/figure.h"

namespace hscaffold::app {
namespace {

constexpr double leastBrush = 2, mostBrush = 2000;
constexpr int longestMask = 768;

/// A place on a dark edge and a light one reads on any picture.
void drawOn(QPainter& painter, const QPainterPath& path, const QColor& colour, double width, bool dashed) {
  painter.setBrush(Qt::NoBrush);
  QPen under(QColor(0, 0, 0, 150), width + 2), over(colour, width);
  if (dashed) over.setDashPattern({4, 3});
  for (const QPen& pen : {under, over}) {
    painter.setPen(pen);
    painter.drawPath(path);
  }
}

void drawLabel(QPainter& painter, QPointF at, const QString& text, const QRectF& within) {
  painter.setFont(textFont(9));
  const QFontMetricsF metrics(painter.font());
  QRectF box(at, QSizeF(metrics.horizontalAdvance(text) + 12, metrics.height() + 4));
  box.moveBottom(at.y());
  box.moveLeft(
      std::clamp(box.left(), within.left() + 2, std::max(within.left() + 2, within.right() - box.width() - 2)));
  box.moveTop(std::max(box.top(), within.top() + 2));
  painter.setPen(Qt::NoPen);
  painter.setBrush(QColor(20, 20, 20, 190));
  painter.drawRoundedRect(box, 3, 3);
  painter.setPen(QColor(240, 240, 240));
  painter.drawText(box, Qt::AlignCenter, text);
}

QRectF rectOf(const Box& box) {
  return {static_cast<double>(box.left), static_cast<double>(box.top), static_cast<double>(box.width()),
          static_cast<double>(box.height())};
}

}  // namespace

FinalTable::FinalTable(Desk& desk, QWidget* parent) : QWidget(parent), desk_(desk) {
  setObjectName("final table");
  setAccessibleName("The final");
  setFocusPolicy(Qt::StrongFocus);
  setMouseTracking(true);
  setMinimumHeight(160);
  const auto again = qOverload<>(&QWidget::update);
  connect(&view_, &LinkedView::moved, this, again);
  connect(&desk_.finals, &FinalShelf::pictureChanged, this, &FinalTable::follow);
  connect(&desk_.finals, &FinalShelf::changed, this, again);
  connect(&desk_.finals, &FinalShelf::progressed, this, again);
  connect(&desk_.proofs, &ProofShelf::thumbnailChanged, this, again);
  connect(&themeSignals(), &ThemeSignals::changed, this, &FinalTable::refreshMask);
  connect(&desk_, &Desk::enginesChanged, this, &FinalTable::follow);
  connect(&desk_.document, &StudyDocument::changed, this, [this](const Changes& changes) {
    if (changes.finals || changes.looking || changes.engine) follow();
  });
  follow();
}

void FinalTable::setTool(RegionTool tool) {
  giveUp();
  tool_ = tool;
  setCursor(tool == RegionTool::look ? Qt::ArrowCursor : tool == RegionTool::brush ? Qt::BlankCursor : Qt::CrossCursor);
  update();
}

void FinalTable::setBrush(double width) {
  brush_ = std::clamp(width, leastBrush, mostBrush);
  update();
}

void FinalTable::setTilesShown(bool shown) {
  tiles_ = shown;
  update();
}

void FinalTable::setWipe(bool on) {
  wipe_ = on;
  update();
}

void FinalTable::follow() {
  const Final* final = desk_.document.state().shownFinal();
  const std::string id = final != nullptr ? final->id : std::string();
  if (final != nullptr) view_.setFrame({final->size.width, final->size.height});
  if (id != final_) {
    giveUp();
    final_ = id;
    view_.fit();
  }
  const TouchUp* touchUp = final != nullptr ? final->touchUp(desk_.document.state().looking.touchUp) : nullptr;
  if (touchUp == nullptr) {
    mask_ = {};
    seen_.reset();
    masked_ = {};
  } else {
    const bool same = !mask_.isNull() && masked_.id == touchUp->id && masked_.region == touchUp->region &&
                      masked_.feather == touchUp->feather;
    masked_ = *touchUp;
    if (!same) refreshMask();
    const auto engine = desk_.queue.engineInfo();
    try {
      seen_ = viewOf(*touchUp, final->size, *engine);
    } catch (const Problem&) {
      seen_.reset();
    }
  }
  update();
}

void FinalTable::refreshMask() {
  const Final* final = desk_.document.state().shownFinal();
  mask_ = {};
  if (final != nullptr && !masked_.region.empty()) {
    const Size size = within(final->size, longestMask);
    const double scale = static_cast<double>(size.width) / final->size.width;
    const auto mask = maskOf(masked_.region, size, boxOf(size), masked_.feather * scale);
    mask_ = QImage(size.width, size.height, QImage::Format_ARGB32_Premultiplied);
    const QColor tint = theme().accent;
    for (int y = 0; y < size.height; ++y) {
      auto* line = reinterpret_cast<QRgb*>(mask_.scanLine(y));
      for (int x = 0; x < size.width; ++x) {
        const auto in = [&](int px, int py) {
          return mask(std::clamp(px, 0, size.width - 1), std::clamp(py, 0, size.height - 1)) >= 0.5f;
        };
        const auto beside = [&](bool wanted) {
          return in(x - 1, y) == wanted || in(x + 1, y) == wanted || in(x, y - 1) == wanted || in(x, y + 1) == wanted;
        };
        // Light within, dark without: its border is seen on any picture.
        if (in(x, y) && beside(false)) {
          line[x] = qRgba(250, 250, 250, 255);
          continue;
        }
        if (!in(x, y) && beside(true)) {
          line[x] = qRgba(0, 0, 0, 170);
          continue;
        }
        const float much = 0.3f * mask(x, y);
        const auto part = [&](int channel) { return static_cast<int>(static_cast<float>(channel) * much); };
        line[x] = qRgba(part(tint.red()), part(tint.green()), part(tint.blue()), static_cast<int>(255 * much));
      }
    }
  }
  update();
}

QRectF FinalTable::frameRect() const {
  const QSizeF room = size();
  return {
      view_.toTable({0, 0}, room),
      view_.toTable({static_cast<double>(view_.frame().width()), static_cast<double>(view_.frame().height())}, room)};
}

QPointF FinalTable::onTable(QPointF share) const {
  return view_.toTable({share.x() * view_.frame().width(), share.y() * view_.frame().height()}, QSizeF(size()));
}

Point FinalTable::shareAt(QPointF at) const {
  const QPointF place = view_.toFrame(at, QSizeF(size()));
  return {place.x() / view_.frame().width(), place.y() / view_.frame().height()};
}

QImage FinalTable::before() const {
  const Final* final = desk_.document.state().shownFinal();
  if (final == nullptr) return {};
  const bool touched = std::any_of(final->touchUps.begin(), final->touchUps.end(),
                                   [](const TouchUp& t) { return t.on && t.usedTry() != nullptr; });
  // What it was before: without touch-ups, or the proof it came from.
  return touched ? desk_.finals.base() : desk_.proofs.large(final->proof);
}

void FinalTable::paintEvent(QPaintEvent*) {
  QPainter painter(this);
  painter.setRenderHints(QPainter::Antialiasing | QPainter::SmoothPixmapTransform);
  painter.fillRect(rect(), theme().table);
  const Final* final = desk_.document.state().shownFinal();
  if (final == nullptr) return;
  const QRectF frame = frameRect();
  // Only what is seen is scaled.
  const auto draw = [&](const QImage& image, const QRectF& clip) {
    const QRectF shown = frame.intersected(clip).intersected(QRectF(rect()));
    if (image.isNull() || shown.isEmpty()) return;
    const double across = image.width() / frame.width(), down = image.height() / frame.height();
    const QRectF from((shown.left() - frame.left()) * across, (shown.top() - frame.top()) * down,
                      shown.width() * across, shown.height() * down);
    painter.setRenderHint(QPainter::SmoothPixmapTransform, across > 0.5);
    painter.drawImage(shown, image, from);
  };
  QImage picture = desk_.finals.picture();
  const bool whole = !picture.isNull();
  if (!whole) {
    picture = desk_.proofs.large(final->proof);
    if (picture.isNull()) picture = desk_.proofs.thumbnail(final->proof);
  }
  draw(picture, rect());
  if (!whole) {
    // What is not there yet is not taken for what is.
    painter.fillRect(frame, QColor(theme().table.red(), theme().table.green(), theme().table.blue(), 120));
  } else if (wipe_) {
    const double at = frame.left() + wipeAt_ * frame.width();
    draw(before(), QRectF(frame.left(), frame.top(), at - frame.left(), frame.height()));
    painter.setPen(QPen(QColor(255, 255, 255, 220), 2));
    painter.drawLine(QPointF(at, std::max(0.0, frame.top())), QPointF(at, std::min<double>(height(), frame.bottom())));
    drawLabel(painter, {std::max(4.0, frame.left() + 6), std::max(28.0, frame.top() + 28)}, "before", rect());
  }
  paintWork(painter);
  if (whole && !wipe_) paintRegions(painter);
  if (tool_ == RegionTool::brush && pointer_ && whole) {
    QPainterPath ring;
    const double radius = 0.5 * brush_ * view_.scale(QSizeF(size()));
    ring.addEllipse(*pointer_, radius, radius);
    drawOn(painter, ring, QColor(255, 255, 255), 1, false);
  }
  if (hasFocus()) {
    painter.setPen(QPen(theme().accent, 1));
    painter.setBrush(Qt::NoBrush);
    painter.drawRect(QRectF(rect()).adjusted(0.5, 0.5, -0.5, -0.5));
  }
}

void FinalTable::paintWork(QPainter& painter) {
  const Final* final = desk_.document.state().shownFinal();
  const double scale = view_.scale(QSizeF(size()));
  const QPointF origin = view_.origin(QSizeF(size()));
  const auto placed = [&](const Box& box) {
    const QRectF r = rectOf(box);
    return QRectF(origin + r.topLeft() * scale, r.size() * scale);
  };
  const FinalWork* work = desk_.finals.workFor(final->id);
  if (work != nullptr) {
    if (!work->preview.isNull() && work->partial.isNull()) painter.drawImage(frameRect(), work->preview);
    if (!work->partial.isNull()) painter.drawImage(frameRect(), work->partial);
    for (std::size_t i = 0; i < work->plan.tiles.size() && work->plan.count() > 1; ++i) {
      QPainterPath path;
      path.addRect(placed(work->plan.tiles[i]));
      const bool now = static_cast<int>(i) == work->tile && work->running;
      drawOn(painter, path, now ? theme().accent : QColor(255, 255, 255, 120), now ? 2 : 1, !now);
    }
    QString said = "waits";
    if (work->running && work->tile == 0 && work->steps > 0 && work->step < work->steps)
      said = QString("step %1 of %2").arg(work->step).arg(work->steps);
    else if (work->running)
      said = work->tiles > 1 ? QString("part %1 of %2").arg(std::min(work->tile + 1, work->tiles)).arg(work->tiles)
                             : QString("painting");
    drawLabel(painter, frameRect().topLeft() + QPointF(8, 30), said, rect());
  } else if (tiles_ && final->columns * final->rows > 1) {
    try {
      const auto engine = desk_.queue.engineInfo();
      const TilePlan plan = tilesOf(desk_.finals.planOf({final->proof, final->size}), *engine);
      if (plan.columns == final->columns && plan.rows == final->rows)
        for (const Box& tile : plan.tiles) {
          QPainterPath path;
          path.addRect(placed(tile));
          drawOn(painter, path, QColor(255, 255, 255, 170), 1, true);
        }
    } catch (const Problem&) {
      // An engine that is not here cuts nothing.
    }
  }
  for (const FinalWork& one : desk_.finals.works()) {
    if (one.final != final->id || one.touchUp.empty() || !one.running) continue;
    const TouchUp* touchUp = final->touchUp(one.touchUp);
    if (touchUp == nullptr) continue;
    try {
      const QRectF box = placed(viewOf(*touchUp, final->size, *desk_.queue.engineInfo()).box);
      if (!one.preview.isNull()) painter.drawImage(box, one.preview);
      QPainterPath path;
      path.addRect(box);
      drawOn(painter, path, theme().accent, 2, false);
      drawLabel(painter, box.topLeft() + QPointF(4, 26),
                one.steps > 0 ? QString("step %1 of %2").arg(one.step).arg(one.steps) : QString("begins"), rect());
    } catch (const Problem&) {
      // Its region was taken away while it is pulled.
    }
  }
}

void FinalTable::paintRegions(QPainter& painter) {
  const Final* final = desk_.document.state().shownFinal();
  const QRectF frame = frameRect();
  const double scale = view_.scale(QSizeF(size()));
  const QPointF origin = view_.origin(QSizeF(size()));
  const std::string& selected = desk_.document.state().looking.touchUp;
  for (const TouchUp& touchUp : final->touchUps) {
    if (touchUp.id == selected || !touchUp.on || tool_ != RegionTool::look) continue;
    const TouchTry* used = touchUp.usedTry();
    if (used == nullptr) continue;
    QPainterPath path;
    const QRectF r = rectOf(used->box);
    const QRectF box(origin + r.topLeft() * scale, r.size() * scale);
    path.addRect(box);
    drawOn(painter, path, QColor(255, 255, 255, 90), 1, false);
    drawLabel(painter, box.topLeft() + QPointF(0, -2), QString::fromStdString(touchUp.name), rect());
  }
  if (!mask_.isNull()) painter.drawImage(frame, mask_);
  if (drawing_) {
    const auto at = [&](Point p) {
      return QPointF(frame.left() + p.x * frame.width(), frame.top() + p.y * frame.height());
    };
    QPainterPath path;
    const auto& line = drawing_->lines.front();
    path.moveTo(at(line.front()));
    for (const Point p : line) path.lineTo(at(p));
    const QColor colour = drawing_->takes ? theme().bad : theme().accent;
    if (drawing_->brush) {
      QPen pen(QColor(colour.red(), colour.green(), colour.blue(), 110), std::max(1.0, brush_ * scale));
      pen.setCapStyle(Qt::RoundCap);
      pen.setJoinStyle(Qt::RoundJoin);
      painter.setPen(pen);
      painter.setBrush(Qt::NoBrush);
      if (line.size() == 1) path.lineTo(at(line.front()) + QPointF(0.01, 0));
      painter.drawPath(path);
    } else {
      path.closeSubpath();
      drawOn(painter, path, colour, 1.5, false);
    }
  }
  if (seen_ && !selected.empty()) {
    QPainterPath path;
    const QRectF r = rectOf(seen_->box);
    const QRectF box(origin + r.topLeft() * scale, r.size() * scale);
    path.addRect(box);
    drawOn(painter, path, QColor(255, 255, 255, 210), 1, true);
    drawLabel(painter, box.topLeft() + QPointF(0, -2),
              QString("what the engine sees: %1 x %2, %3 times larger")
                  .arg(seen_->job.width)
                  .arg(seen_->job.height)
                  .arg(seen_->detail(), 0, 'f', 1),
              rect());
  }
}

void FinalTable::resizeEvent(QResizeEvent*) { view_.setTable(this, QSizeF(size())); }

void FinalTable::wheelEvent(QWheelEvent* event) {
  view_.zoom(std::pow(1.0015, event->angleDelta().y()), event->position(), QSizeF(size()));
}

void FinalTable::giveUp() {
  drawing_.reset();
  panning_ = wiping_ = false;
  update();
}

void FinalTable::mousePressEvent(QMouseEvent* event) {
  const Final* final = desk_.document.state().shownFinal();
  last_ = event->position();
  const bool left = event->button() == Qt::LeftButton;
  if (final == nullptr) return;
  if (left && wipe_) {
    const QRectF frame = frameRect();
    wiping_ = true;
    wipeAt_ = std::clamp((event->position().x() - frame.left()) / frame.width(), 0.0, 1.0);
    update();
    return;
  }
  if (!left || tool_ == RegionTool::look || !final->whole()) {
    panning_ = true;
    // A press on a touch-up's place chooses it.
    if (left && final->whole() && tool_ == RegionTool::look) {
      const QPointF at = view_.toFrame(event->position(), QSizeF(size()));
      for (std::size_t i = final->touchUps.size(); i-- > 0;) {
        const TouchTry* used = final->touchUps[i].usedTry();
        if (used == nullptr || !rectOf(used->box).contains(at)) continue;
        emit touchUpPicked(QString::fromStdString(final->touchUps[i].id));
        break;
      }
    }
    return;
  }
  const Point at = shareAt(event->position());
  const bool takes = event->modifiers().testFlag(Qt::AltModifier);
  if (tool_ == RegionTool::colour) return pickColour(at, takes);
  if (tool_ == RegionTool::thing) return pickThing(at, takes);
  TouchShape shape;
  shape.brush = tool_ == RegionTool::brush;
  shape.takes = takes;
  shape.width = brush_ / std::max(final->size.width, final->size.height);
  shape.lines = {{at}};
  drawing_ = std::move(shape);
  update();
}

void FinalTable::mouseMoveEvent(QMouseEvent* event) {
  pointer_ = event->position();
  if (wiping_) {
    const QRectF frame = frameRect();
    wipeAt_ = std::clamp((event->position().x() - frame.left()) / frame.width(), 0.0, 1.0);
  } else if (panning_) {
    view_.pan(event->position() - last_, QSizeF(size()));
  } else if (drawing_ && drawing_->lines.front().size() < mostShapePlaces) {
    drawing_->lines.front().push_back(shareAt(event->position()));
  }
  last_ = event->position();
  update();
}

void FinalTable::mouseReleaseEvent(QMouseEvent*) {
  panning_ = wiping_ = false;
  if (!drawing_) return;
  const TouchShape shape = std::move(*drawing_);
  drawing_.reset();
  update();
  // A loop that closes nothing in was a slip.
  if (!shape.brush && shape.lines.front().size() < 3) return;
  emit drawn({shape}, {});
}

void FinalTable::mouseDoubleClickEvent(QMouseEvent* event) {
  if (tool_ == RegionTool::look && event->button() == Qt::LeftButton) view_.fit();
}

void FinalTable::leaveEvent(QEvent*) {
  pointer_.reset();
  update();
}

void FinalTable::keyPressEvent(QKeyEvent* event) {
  const double step = event->modifiers().testFlag(Qt::ShiftModifier) ? 120 : 30;
  const QSizeF room = size();
  const QPointF middle(width() / 2.0, height() / 2.0);
  switch (event->key()) {
    case Qt::Key_Left:
      return view_.pan({step, 0}, room);
    case Qt::Key_Right:
      return view_.pan({-step, 0}, room);
    case Qt::Key_Up:
      return view_.pan({0, step}, room);
    case Qt::Key_Down:
      return view_.pan({0, -step}, room);
    case Qt::Key_Plus:
      return view_.zoom(1.25, pointer_.value_or(middle), room);
    case Qt::Key_Minus:
      return view_.zoom(0.8, pointer_.value_or(middle), room);
    case Qt::Key_0:
      return view_.fit();
    case Qt::Key_BracketLeft:
      setBrush(brush_ * 0.85);
      emit brushChanged(brush_);
      return;
    case Qt::Key_BracketRight:
      setBrush(brush_ * 1.18);
      emit brushChanged(brush_);
      return;
    case Qt::Key_Escape:
      if (drawing_)
        giveUp();
      else if (tool_ != RegionTool::look)
        emit toolAsked(RegionTool::look);
      return;
    default:
      QWidget::keyPressEvent(event);
  }
}

void FinalTable::pickColour(Point at, bool takes) {
  // As it is seen, small: outlines need no more, and the window does not wait.
  const QImage picture = desk_.finals.picture();
  if (picture.isNull()) return;
  constexpr int longest = 512;
  const QImage small = picture.width() > longest || picture.height() > longest
                           ? picture.scaled(longest, longest, Qt::KeepAspectRatio, Qt::SmoothTransformation)
                           : picture;
  const auto pixels = fromQImage(small);
  const auto mask = ofOneColour(pixels.view(), static_cast<int>(at.x * pixels.width()),
                                static_cast<int>(at.y * pixels.height()), tolerance_);
  TouchShape shape = shapeFrom(mask.view());
  if (shape.lines.empty()) return;
  shape.takes = takes;
  emit drawn({shape}, {});
}

void FinalTable::pickThing(Point at, bool takes) {
  const StudyState& state = desk_.document.state();
  std::optional<Thing> thing;
  // Figures first, then surfaces, then what lines close in.
  for (const Guide& guide : state.guides)
    if (const auto figures = !thing ? desk_.maps.figuresOf(guide) : nullptr)
      thing = figureAt(*figures, {at.x * figures->frame.width, at.y * figures->frame.height});
  const auto from = [&](bool depth) {
    for (const Guide& guide : state.guides) {
      if (thing || (guide.kind == "depth") != depth) continue;
      if (!depth && kindOf(guide.kind).nature != MapNature::lines) continue;
      if (const auto map = desk_.maps.belowOf(guide.id))
        thing = depth ? surfaceAt(map->view(), at) : areaAt(map->view(), at);
    }
  };
  if (!thing) from(true);
  if (!thing) from(false);
  if (!thing) {
    emit said("No guide knows a thing there: no figure, no surface of a depth map, no area that lines close in.");
    return;
  }
  for (TouchShape& shape : thing->region) shape.takes = takes;
  emit drawn(thing->region, QString::fromStdString(thing->name));
}

}  // namespace hscaffold::app
