#include "app/bench/depth_table.h"

#include <QKeyEvent>
#include <QMouseEvent>
#include <QPainter>
#include <QWheelEvent>

#include "app/images.h"
#include "app/theme/theme.h"
#include "core/depth/hints.h"
#include "core/image/colour.h"
#include "core/kinds.h"

namespace hscaffold::app {
namespace {

constexpr double startAcross = -18, startDown = 16, farthestTurn = 75;

/// Accent where the map is unsure, nothing where it is sure.
QImage doubtImage(View<std::uint16_t> sureness, QColor colour) {
  QImage out(sureness.width(), sureness.height(), QImage::Format_ARGB32_Premultiplied);
  for (int y = 0; y < sureness.height(); ++y) {
    auto* line = reinterpret_cast<QRgb*>(out.scanLine(y));
    for (int x = 0; x < sureness.width(); ++x) {
      const int alpha = 190 * (65535 - sureness(x, y)) / 65535;
      line[x] = qRgba(colour.red() * alpha / 255, colour.green() * alpha / 255, colour.blue() * alpha / 255, alpha);
    }
  }
  return out;
}

}  // namespace

DepthTable::DepthTable(Desk& desk, QWidget* parent) : Table(desk, parent) {
  setAccessibleName("Depth table");
  relief_.across = startAcross;
  relief_.down = startDown;
  connect(&desk_.maps, &MapRoom::mapChanged, this, qOverload<>(&QWidget::update));
  connect(&desk_.maps, &MapRoom::mapPartChanged, this, qOverload<>(&QWidget::update));
  connect(&desk_.maps, &MapRoom::picturesChanged, this, qOverload<>(&QWidget::update));
  connect(&desk_.document, &StudyDocument::changed, this, [this](const Changes& changes) {
    if (changes.looking || changes.frame) update();
  });
}

void DepthTable::setLook(Look look) {
  look_ = look;
  setCursor(look == Look::relief ? Qt::OpenHandCursor : Qt::ArrowCursor);
  update();
}

void DepthTable::setContours(bool on) {
  contours_ = on;
  update();
}

const MapPicture* DepthTable::map() const {
  const Guide* guide = desk_.document.state().selectedGuide();
  if (guide == nullptr || !kindOf(guide->kind).hasSlot(depth::hintsSlot)) return nullptr;
  const MapPicture* map = desk_.maps.mapOf(guide->id);
  return map != nullptr && map->map ? map : nullptr;
}

void DepthTable::turn(double across, double down) {
  relief_.across = std::clamp(across, -farthestTurn, farthestTurn);
  relief_.down = std::clamp(down, -farthestTurn, farthestTurn);
  update();
}

void DepthTable::mousePressEvent(QMouseEvent* event) {
  if (look_ != Look::relief || event->button() != Qt::LeftButton) return Table::mousePressEvent(event);
  setFocus();
  grabbed_ = event->position();
  setCursor(Qt::ClosedHandCursor);
}

void DepthTable::mouseMoveEvent(QMouseEvent* event) {
  if (!grabbed_) {
    if (look_ != Look::relief) Table::mouseMoveEvent(event);
    return;
  }
  const QPointF by = event->position() - *grabbed_;
  grabbed_ = event->position();
  turn(relief_.across + by.x() * 0.35, relief_.down - by.y() * 0.35);
}

void DepthTable::mouseReleaseEvent(QMouseEvent* event) {
  if (!grabbed_) return Table::mouseReleaseEvent(event);
  grabbed_.reset();
  setCursor(Qt::OpenHandCursor);
}

void DepthTable::mouseDoubleClickEvent(QMouseEvent* event) {
  if (look_ != Look::relief) return Table::mouseDoubleClickEvent(event);
  turn(0, 0);
}

void DepthTable::wheelEvent(QWheelEvent* event) {
  if (look_ != Look::relief) return Table::wheelEvent(event);
  relief_.size = std::clamp(relief_.size * std::pow(1.0015, event->angleDelta().y()), 0.3, 4.0);
  update();
}

void DepthTable::keyPressEvent(QKeyEvent* event) {
  const double step = event->modifiers().testFlag(Qt::ShiftModifier) ? 15 : 5;
  if (look_ == Look::relief) switch (event->key()) {
      case Qt::Key_Left:
        return turn(relief_.across - step, relief_.down);
      case Qt::Key_Right:
        return turn(relief_.across + step, relief_.down);
      case Qt::Key_Up:
        return turn(relief_.across, relief_.down + step);
      case Qt::Key_Down:
        return turn(relief_.across, relief_.down - step);
      case Qt::Key_Home:
        return turn(0, 0);
      default:
        break;
    }
  Table::keyPressEvent(event);
}

QImage DepthTable::drawn(const MapPicture& map) {
  const QString of = QString("%1 %2 %3").arg(map.grey.cacheKey()).arg(static_cast<int>(look_)).arg(contours_);
  if (of == drawnOf_) return drawn_;
  drawnOf_ = of;
  drawn_ = look_ == Look::colours ? toQImage(depth::inReadingColours(*map.map)) : map.grey.copy();
  if (look_ == Look::doubt) drawn_ = map.sureness ? doubtImage(*map.sureness, theme().accent) : QImage();
  if (contours_) {
    if (drawn_.format() == QImage::Format_Grayscale8 || drawn_.isNull())
      drawn_ = drawn_.isNull() ? drawn_ : drawn_.convertToFormat(QImage::Format_RGB32);
    QPainter painter(&drawn_);
    painter.drawImage(0, 0, tintedImage(depth::contoursOf(*map.map), QColor("#1d1b19")));
  }
  return drawn_;
}

QImage DepthTable::reliefImage(const MapPicture& map) {
  const Guide* guide = desk_.document.state().selectedGuide();
  const auto picture = desk_.maps.placedPicture(guide->reference);
  const QImage placed = desk_.maps.placedImage(guide->reference);
  if (placed.isNull() || !picture || picture->size() != map.map->size()) {
    colours_ = {};
    coloursOf_ = 0;
  } else if (coloursOf_ != placed.cacheKey()) {
    colours_ = toSrgb8(*picture);
    coloursOf_ = placed.cacheKey();
  }
  const QColor ground = theme().table;
  const auto byte = [](int v) { return static_cast<std::uint8_t>(v); };
  return toQImage(depth::relief(*map.map, colours_, relief_, {width(), height()},
                                {byte(ground.red()), byte(ground.green()), byte(ground.blue())}));
}

void DepthTable::paintEvent(QPaintEvent*) {
  QPainter painter(this);
  painter.fillRect(rect(), theme().table);
  const MapPicture* shown = map();
  if (shown == nullptr) {
    paintInvitation(painter, "No depth map yet", "It is made as soon as the guide has a reference");
    return;
  }
  if (look_ == Look::relief) {
    painter.drawImage(0, 0, reliefImage(*shown));
    return;
  }
  const QRectF frame = frameOnTable();
  painter.setRenderHint(QPainter::SmoothPixmapTransform);
  if (look_ == Look::doubt) {
    const Guide* guide = desk_.document.state().selectedGuide();
    const QImage placed = desk_.maps.placedImage(guide->reference);
    if (placed.isNull())
      painter.fillRect(frame, Qt::black);
    else
      painter.drawImage(frame, placed);
  }
  painter.drawImage(frame, drawn(*shown));
  painter.setBrush(Qt::NoBrush);
  painter.setPen(QPen(QColor(255, 255, 255, 200), 1));
  painter.drawRect(frame);
  paintPointer(painter);
}

}  // namespace hscaffold::app
