// What the source table shows: the reference, the map over it, the tool in hand and the glass.
#include <QPainter>
#include <QPainterPath>
#include <cmath>

#include "app/bench/source_table.h"
#include "app/images.h"
#include "app/points.h"
#include "app/theme/theme.h"
#include "app/workbench/depth/hint_tools.h"
#include "app/workbench/light/light_tools.h"
#include "app/workbench/pose/pose_tools.h"
#include "core/kinds.h"

namespace hscaffold::app {
namespace {

constexpr double glassRadius = 58;

}  // namespace

/// What a moving figure needs painted: itself where it was and is, its handles and lengths, and the glass.
void SourceTable::updateFigure() {
  QRegion now;
  if (const pose::Figure* figure = bench_.pose.selectedFigure())
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

std::optional<QPointF> SourceTable::magnifierAt() const {
  const auto place = tool() ? tool()->magnified() : std::nullopt;
  if (!place) return {};
  const QPointF at = toTable(*place);
  // Above and to the right, or wherever there is room.
  constexpr double aside = glassRadius + 34;
  QPointF middle = at + QPointF(aside, -aside);
  if (middle.x() + glassRadius > width()) middle.setX(at.x() - aside);
  if (middle.y() - glassRadius < 0) middle.setY(at.y() + aside);
  return middle;
}

void SourceTable::paintReference(QPainter& painter, const Reference& r) const {
  const QRectF frame = frameOnTable();
  const QImage display = desk_.maps.referenceImage(r.id);
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
                     transformOf(frameFromReference(r.placement, r.size, desk_.document.state().frame)) *
                     QTransform::fromScale(scale, scale) * QTransform::fromTranslate(frame.x(), frame.y());
  if (bench_.placing()) {
    // The whole reference is seen; what the frame cuts off is dimmed.
    painter.save();
    painter.setOpacity(0.38);
    painter.setTransform(whole, true);
    painter.drawImage(QPointF(0, 0), display);
    painter.restore();
  }
  const QImage placed = desk_.maps.placedImage(r.id);
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
  const auto& state = desk_.document.state();
  const Guide* guide = state.selectedGuide();
  const MapPicture* map = guide != nullptr ? desk_.maps.mapOf(guide->id) : nullptr;
  if (map == nullptr || map->grey.isNull() || grip_ != Grip::none) return;
  const QRectF frame = frameOnTable();
  // Strokes of a brush are shown at once: while they are drawn, scaling is quick rather than smooth.
  painter.setRenderHint(QPainter::SmoothPixmapTransform,
                        !(bench_.work.active() || bench_.light.showing()) || view_.scale(size()) > 0.7);
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
    painter.setOpacity(before_ && kindOf(guide->kind).nature == MapNature::lines ? std::max(0.75, ghost) : ghost);
    painter.drawImage(frame, grey);
  } else {
    // Up to the middle the lines come in over the picture; beyond it the picture goes.
    // Light inks would be lost on a light picture: figures dim it a little.
    if (kindOf(guide->kind).nature == MapNature::inks)
      painter.fillRect(frame, QColor(0, 0, 0, static_cast<int>(std::min(1.0, ghost * 2) * 60)));
    const double alone = std::max(0.0, ghost * 2 - 1);
    painter.setOpacity(alone);
    painter.fillRect(frame, paper_ ? QColor("#fbfaf7") : QColor(Qt::black));
    painter.setOpacity(std::min(1.0, ghost * 2) * (paper_ ? 1 - alone : 1));
    painter.drawImage(frame, tinted);
    painter.setOpacity(alone);
    if (alone > 0 && !paper_) painter.drawImage(frame, grey);
    if (alone > 0 && paper_) {
      if (bench_.work.active()) {
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
  if (!map->outside.isNull() && (bench_.regionShown() || !isOnNothing(kindOf(guide->kind).nature)))
    painter.drawImage(frame, map->outside);
  if (bench_.movedShown() && map->movedUnder > 0 && guide->work.has(retouchSlot) && map->below)
    painter.drawImage(frame, derived("moved", [&] {
                        const auto layer = desk_.document.work().layer(guide->work.in(retouchSlot));
                        const GuidePlace place = desk_.document.placeOf(*guide);
                        return tintedImage(movedUnder(following(*layer, place.frame, place.placing), *map->below),
                                           theme().accent);
                      }));
}

void SourceTable::paintTool(QPainter& painter) const {
  const double scale = view_.scale(size());
  const QPointF origin = frameOnTable().topLeft();
  const QTransform onTable = QTransform::fromScale(scale, scale) * QTransform::fromTranslate(origin.x(), origin.y());
  if (!bench_.placing() && bench_.depth.takesHints()) paintHints(painter, bench_.depth, onTable, scale);
  if (!bench_.placing() && bench_.light.takesLight()) paintLights(painter, bench_.light, onTable);
  if (!tool()) return;
  tool()->paint(painter, onTable, scale);
  if (!ringAt_ || tool()->ring() <= 0) return;
  const double radius = std::max(1.0, tool()->ring() * scale / 2);
  painter.setBrush(Qt::NoBrush);
  painter.setPen(QPen(QColor(0, 0, 0, 150), 2.6));
  painter.drawEllipse(*ringAt_, radius, radius);
  painter.setPen(QPen(QColor("#f6f2ea"), 1.1));
  painter.drawEllipse(*ringAt_, radius, radius);
}

void SourceTable::paintMagnifier(QPainter& painter) {
  const auto glassAt = magnifierAt();
  if (!glassAt) return;
  constexpr double radius = glassRadius, times = 3;
  const QPointF at = toTable(*tool()->magnified()), middle = *glassAt;
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
  const auto* figures = bench_.pose.figures();
  if (figures == nullptr || !figures->figures.empty() || bench_.tool() == ToolName::putPose) return;
  paintInvitation(painter, "Put a figure here",
                  "drag one from the pose library (B), or bring in key points or a motion clip (Ctrl+I)");
}

void SourceTable::paintEvent(QPaintEvent*) {
  QPainter painter(this);
  painter.fillRect(rect(), theme().table);
  painter.setRenderHint(QPainter::Antialiasing);
  const Reference* r = reference();
  const Guide* guide = desk_.document.state().selectedGuide();
  const bool drawn = guide != nullptr && standsAlone(*guide) && !bench_.placing();
  if (r == nullptr && !drawn && bench_.tool() != ToolName::putPose) {
    paintInvitation(painter, "Drop a picture here", "or paste one (Ctrl+V), or double-click to choose a file");
    return;
  }
  if (r != nullptr)
    paintReference(painter, *r);
  else
    painter.fillRect(frameOnTable(), Qt::black);
  if (!bench_.placing()) paintMap(painter);
  painter.setBrush(Qt::NoBrush);
  painter.setPen(QPen(QColor(255, 255, 255, 200), 1));
  painter.drawRect(frameOnTable());
  if (bench_.placing()) {
    const auto all = handles();
    painter.setPen(QPen(theme().accent, 1.2));
    painter.drawPolygon(all.data(), 4);
    painter.drawLine((all[0] + all[1]) / 2, all[4]);
    painter.setBrush(QColor("#f6f2ea"));
    for (std::size_t i = 0; i < 4; ++i) painter.drawRect(QRectF(all[i] - QPointF(4.5, 4.5), QSizeF(9, 9)));
    painter.drawEllipse(all[4], 5, 5);
  }
  if (!bench_.placing()) paintEmptyPose(painter);
  paintTool(painter);
  paintMagnifier(painter);
  paintPointer(painter, pen_.has_value());
}

}  // namespace hscaffold::app
