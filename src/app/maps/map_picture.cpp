#include "app/maps/map_picture.h"

#include <QPainter>

#include "app/images.h"
#include "app/theme/theme.h"
#include "core/kinds.h"

namespace hscaffold::app {
namespace {

/// Charcoal over what a guide leaves alone.
QImage shadeOutside(View<std::uint16_t> region) {
  QImage out(region.width(), region.height(), QImage::Format_ARGB32_Premultiplied);
  for (int y = 0; y < region.height(); ++y) {
    auto* line = reinterpret_cast<QRgb*>(out.scanLine(y));
    for (int x = 0; x < region.width(); ++x) {
      const int alpha = 150 - 150 * (region(x, y) >> 8) / 255;
      line[x] = qRgba(30 * alpha / 255, 29 * alpha / 255, 28 * alpha / 255, alpha);
    }
  }
  return out;
}

void paste(QImage& into, const QImage& patch, const QRect& from, QPoint at) {
  if (into.isNull() || patch.isNull()) return;
  QPainter painter(&into);
  painter.setCompositionMode(QPainter::CompositionMode_Source);
  painter.drawImage(at, patch, from);
}

/// The layer's composition over a part alone.
Map composedPart(View<std::uint16_t> below, const Layer* layer, const Box& box) {
  Map out(box.right - box.left, box.bottom - box.top);
  for (int y = 0; y < out.height(); ++y)
    if (!below.empty()) std::copy_n(below.row(box.top + y) + box.left, out.width(), out.row(y));
  if (layer == nullptr) return out;
  // The same tiles, seen through a view that begins at the box: rows are addressed from the frame's corner.
  const MutableView<std::uint16_t> whole(out.row(0) - box.left - box.top * out.stride(), box.right, box.bottom,
                                         out.stride());
  composeInto(whole, *layer, box, whole);
  return out;
}

}  // namespace

MapPicture mapPictureOf(const std::shared_ptr<const GuideInput>& shared, Map below, const Extraction& details,
                        const Guide& guide, const GuidePlace& place, const TakenWork& taken) {
  const Kind& kind = kindOf(guide.kind);
  MapPicture out;
  const GuideInput& input = *shared;
  out.grey = greyImage(input.map);
  if (kind.nature == MapNature::lines) out.tinted = tintedImage(input.map, kindColour(kind.id));
  if (!input.colour.empty()) {
    const auto inks = taken.own.get<pose::Inks>(pose::inksSlot);
    out.grey = toQImage(input.colour);
    if (isOnNothing(kind.nature)) out.tinted = inkedImage(input.colour, (inks ? *inks : pose::houseInks()).background);
    out.colour = {shared, &shared->colour};
  }
  if (!input.region.empty()) {
    out.outside = shadeOutside(input.region);
    out.region = {shared, &shared->region};
  }
  if (taken.retouch != nullptr && !guide.retouchHidden) {
    const auto moved = movedUnder(following(*taken.retouch, place.frame, place.placing), below);
    for (int y = 0; y < moved.height(); ++y)
      for (const std::uint16_t v : moved.line(y)) out.movedUnder += v != 0 ? 1 : 0;
  }
  out.map = {shared, &shared->map};
  out.below = std::make_shared<const Map>(std::move(below));
  out.sureness = details.sureness;
  out.doubtful = details.doubtful;
  out.thresholds = details.thresholds;
  out.resolved = details.resolved;
  out.found = QString::fromStdString(details.found);
  out.note = QString::fromStdString(details.note);
  return out;
}

void repaintFigures(MapPicture& picture, View<Rgb8> behind, std::span<const pose::FigureMarks> figures, Rgb8 background,
                    const Box& part) {
  const Box shown = cut(part, picture.below->size());
  if (shown.empty() || behind.size() != picture.below->size()) return;
  ColourMap patch(shown.right - shown.left, shown.bottom - shown.top);
  for (int y = 0; y < patch.height(); ++y)
    std::copy_n(behind.row(shown.top + y) + shown.left, patch.width(), patch.row(y));
  // Seen through a view of the frame that begins at the part.
  pose::drawInto({patch.row(0) - shown.left - shown.top * patch.stride(), shown.right, shown.bottom, patch.stride()},
                 shown, figures);
  const QPoint at(shown.left, shown.top);
  const QRect whole(0, 0, patch.width(), patch.height());
  paste(picture.grey, toQImage(patch), whole, at);
  paste(picture.tinted, inkedImage(patch, background), whole, at);
}

Box repaintPart(MapPicture& picture, const Guide& guide, const Layer* retouch, const Layer* region, const Box& part) {
  const Size frame = picture.below->size();
  const Box shown = cut({part.left - 1, part.top - 1, part.right + 1, part.bottom + 1}, frame);
  const Box seen = cut({shown.left - 1, shown.top - 1, shown.right + 1, shown.bottom + 1}, frame);
  if (shown.empty()) return shown;
  Map map = composedPart(*picture.below, retouch, seen);
  Map acts;
  if (region != nullptr) {
    acts = composedPart({}, region, seen);
    if (guide.region.inverted) turnOver(acts.view());
  } else if (picture.region) {
    const auto view = partOf(picture.region->view(), seen);
    acts = Map(view.size());
    for (int y = 0; y < view.height(); ++y) std::copy_n(view.row(y), view.width(), acts.row(y));
  }
  const bool lines = kindOf(guide.kind).nature == MapNature::lines;
  const bool figures = kindOf(guide.kind).nature == MapNature::inks;
  if (!acts.empty() && lines) limitTo(map.view(), acts);
  const QRect from(shown.left - seen.left, shown.top - seen.top, shown.right - shown.left, shown.bottom - shown.top);
  const QPoint at(shown.left, shown.top);
  const Kind& kind = kindOf(guide.kind);
  if (picture.colour && kind.relit && !picture.colour->empty())
    paste(picture.grey, toQImage(kind.relit(map.view(), partOf(picture.colour->view(), seen))), from, at);
  else if (!figures)
    paste(picture.grey, greyImage(map), from, at);
  if (lines) paste(picture.tinted, tintedImage(map, kindColour(guide.kind)), from, at);
  if (!acts.empty()) {
    if (picture.outside.isNull()) {
      picture.outside = QImage(frame.width, frame.height, QImage::Format_ARGB32_Premultiplied);
      picture.outside.fill(qRgba(17, 17, 16, 150));
    }
    paste(picture.outside, shadeOutside(acts), from, at);
  }
  return shown;
}

}  // namespace hscaffold::app
