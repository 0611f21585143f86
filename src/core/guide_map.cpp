#include "core/guide_map.h"

#include <fmt/format.h>

#include "core/image/filter.h"
#include "core/kinds.h"
#include "core/measure/agreement.h"

namespace hscaffold {
namespace {

double shareOf(View<std::uint16_t> region) {
  double sum = 0;
  for (int y = 0; y < region.height(); ++y)
    for (const std::uint16_t v : region.line(y)) sum += v;
  return sum / 65535 / static_cast<double>(region.size().area());
}

}  // namespace

TakenWork takenWork(const Guide& guide, WorkStore& store) {
  TakenWork taken;
  const auto from = [&](const std::string& slot, const std::string& what, auto&& take) {
    if (!guide.work.has(slot)) return;
    try {
      take(guide.work.in(slot));
    } catch (const Problem&) {
      taken.missing.push_back(
          fmt::format("{} of {} is missing from the study or damaged: the map is made without it.", what, guide.name));
    }
  };
  from(retouchSlot, "The retouch", [&](const std::string& id) { taken.retouch = store.layer(id); });
  from(regionSlot, "The region", [&](const std::string& id) { taken.region = store.layer(id); });
  for (const WorkSlot& slot : kindOf(guide.kind).workSlots)
    from(slot.name, slot.form->name,
         [&](const std::string& id) { taken.own.put(slot.name, store.piece(*slot.form, id)); });
  return taken;
}

Extraction mapBelow(const Guide& guide, View<Rgb> picture, const GuidePlace& place, const TakenWork& taken,
                    ExtractionCache& cache, StopToken stop) {
  const Kind& kind = kindOf(guide.kind);
  if (kind.make) return kind.make({picture, place, guide.tuning, taken.own}, cache, stop);
  if (!picture.empty()) return kind.extract(picture, guide.tuning, cache, stop);
  Extraction out;
  out.map = Map(place.frame);
  return out;
}

Map regionMask(const Region& region, const Layer* layer, const GuidePlace& place) {
  if (layer == nullptr) return {};
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

GuideMap finishedMap(const Guide& guide, Extraction below, const GuidePlace& place, const TakenWork& taken,
                     StopToken stop) {
  const Kind& kind = kindOf(guide.kind);
  GuideMap out;
  GuideInput& input = out.input;
  out.below = std::move(below.map);
  input.colour = std::move(below.colour);
  below.map = {};
  below.colour = {};
  out.details = std::move(below);
  const bool retouched = taken.retouch != nullptr && !guide.retouchHidden;
  input.map =
      retouched ? composed(out.below, following(*taken.retouch, place.frame, place.placing)) : out.below.clone();
  if (retouched && kind.relit && !input.colour.empty()) input.colour = kind.relit(input.map, input.colour);
  throwIfStopped(stop);
  input.region = regionMask(guide.region, taken.region.get(), place);
  if (!input.region.empty() && isOnNothing(kind.nature)) limitTo(input.map.view(), input.region);
  if (!input.region.empty() && !input.colour.empty() && isOnNothing(kind.nature))
    limitTo(input.colour.view(), input.region);
  throwIfStopped(stop);
  input.tuning = guide.tuning;
  input.work = taken.own.following(kind.workSlots, place.frame, place.placing);
  return out;
}

GuideMap makeGuideMap(const Guide& guide, View<Rgb> picture, const GuidePlace& place, const TakenWork& taken,
                      ExtractionCache& cache, StopToken stop) {
  return finishedMap(guide, mapBelow(guide, picture, place, taken, cache, stop), place, taken, stop);
}

MapFacts factsOf(const Kind& kind, const GuideInput& input, const Extraction& details, ExtractionCache& cache,
                 StopToken stop) {
  MapFacts facts;
  facts.numbers["acts"] = input.region.empty() ? 1 : shareOf(input.region);
  if (kind.tell) kind.tell(input, details, facts, cache, stop);
  facts.sketch = std::make_shared<const MapSketch>(sketchOf(kind, input, stop));
  return facts;
}

}  // namespace hscaffold
