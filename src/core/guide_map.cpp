#include "core/guide_map.h"

#include "core/image/filter.h"
#include "core/pose/pose_map.h"

namespace hscaffold {

GuideEdits editsOf(const Guide& guide, EditStore& store) {
  return {store.layer(guide.retouch), store.layer(guide.region.mask), store.drawing(guide.drawing),
          store.figures(guide.figures), store.inks(guide.inks)};
}

Extraction mapBelow(const Guide& guide, View<Rgb> picture, const GuidePlace& place, const GuideEdits& edits,
                    ExtractionCache& cache, StopToken stop) {
  const Kind& kind = kindOf(guide.kind);
  const bool draws = edits.drawing != nullptr && kind.draw;
  Extraction out;
  if (kind.figures) {
    if (edits.figures == nullptr) {
      out.map = Map(place.frame);
      out.colour = ColourMap(place.frame);
      return out;
    }
    out.colour = pose::drawnFigures(pose::following(*edits.figures, place.frame, place.placing), place.frame,
                                    edits.inks ? *edits.inks : pose::houseInks(),
                                    valueOf(*kind.fields, guide.tuning, "thickness") / 100, stop);
    out.map = pose::brightnessOf(out.colour);
    return out;
  }
  if (draws && edits.drawing->alone)
    out.found = "own strokes";
  else if (!picture.empty())
    out = kind.extract(picture, guide.tuning, cache, stop);
  else
    out.map = Map(place.frame);
  if (!draws) return out;
  auto strokes = kind.draw(following(*edits.drawing, place.frame, place.placing), place.frame, guide.tuning, stop);
  if (out.map.empty()) {
    out.map = std::move(strokes);
    return out;
  }
  for (int y = 0; y < out.map.height(); ++y)
    for (int x = 0; x < out.map.width(); ++x) out.map(x, y) = std::max(out.map(x, y), strokes(x, y));
  return out;
}

Map regionMask(const Region& region, const Layer* layer, const GuidePlace& place) {
  if (layer == nullptr || !region.limits()) return {};
  auto mask = composed({}, following(*layer, place.frame, place.placing));
  if (region.inverted) turnOver(mask.view());
  if (region.feather <= 0) return mask;
  Image<float> soft(mask.size());
  for (int y = 0; y < mask.height(); ++y) std::copy(mask.row(y), mask.row(y) + mask.width(), soft.row(y));
  soft = gaussianBlur(soft.view(), static_cast<float>(region.feather));
  for (int y = 0; y < mask.height(); ++y)
    for (int x = 0; x < mask.width(); ++x) mask(x, y) = static_cast<std::uint16_t>(soft(x, y) + 0.5f);
  return mask;
}

GuideMap finishedMap(const Guide& guide, Extraction below, const GuidePlace& place, const GuideEdits& edits,
                     StopToken stop) {
  GuideMap out;
  out.below = std::move(below.map);
  out.colour = std::move(below.colour);
  below.map = {};
  below.colour = {};
  out.details = std::move(below);
  out.map = edits.retouch != nullptr && !guide.retouchHidden
                ? composed(out.below, following(*edits.retouch, place.frame, place.placing))
                : out.below.clone();
  throwIfStopped(stop);
  out.region = regionMask(guide.region, edits.region.get(), place);
  const Kind& kind = kindOf(guide.kind);
  if (!out.region.empty() && (kind.lines || kind.figures)) limitTo(out.map.view(), out.region);
  if (!out.region.empty() && !out.colour.empty()) limitTo(out.colour.view(), out.region);
  throwIfStopped(stop);
  return out;
}

GuideMap makeGuideMap(const Guide& guide, View<Rgb> picture, const GuidePlace& place, const GuideEdits& edits,
                      ExtractionCache& cache, StopToken stop) {
  return finishedMap(guide, mapBelow(guide, picture, place, edits, cache, stop), place, edits, stop);
}

}  // namespace hscaffold
