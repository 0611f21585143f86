#include "core/edge_finding/edge_map.h"

#include <fmt/format.h>

#include "core/image/resample.h"
#include "core/image/widen.h"

namespace hscaffold {
namespace {

/// @param fieldOf  from a tuning to its edge field
template <typename FieldOf>
Extraction edgeMapOf(const Tuning& values, ExtractionCache& cache, const StopToken& stop, FieldOf&& fieldOf) {
  const EdgeTuning tuning = edgeTuningFrom(values);
  const std::string key = fmt::format("edges {} {}", static_cast<int>(tuning.gradient), tuning.sigma);
  if (cache.key != key || !cache.value) {
    cache.value = std::make_shared<const EdgeField>(fieldOf(tuning));
    cache.key = key;
  }
  const auto& field = *static_cast<const EdgeField*>(cache.value.get());
  Extraction out;
  out.map = widened(drawEdges(field, tuning, stop), [](std::uint8_t v) { return static_cast<std::uint16_t>(v * 257); });
  const auto pair = thresholdsFor(field, tuning);
  out.thresholds = {field.histogram, pair.low, pair.high};
  return out;
}

}  // namespace

Extraction extractEdgeMap(View<Rgb> picture, const Tuning& values, ExtractionCache& cache, StopToken stop) {
  return edgeMapOf(values, cache, stop,
                   [&](const EdgeTuning& tuning) { return edgeField(picture, tuning.gradient, tuning.sigma, stop); });
}

Extraction extractEdgeMapFromPixels(View<Rgba16> pixels, const Tuning& values, ExtractionCache& cache, StopToken stop) {
  return edgeMapOf(values, cache, stop, [&](const EdgeTuning& tuning) {
    if (tuning.gradient == EdgeGradient::luminance)
      return edgeField(encodedLuminance(pixels).view(), tuning.sigma, stop);
    return edgeField(resampled(pixels, pixels.size()), tuning.gradient, tuning.sigma, stop);
  });
}

}  // namespace hscaffold
