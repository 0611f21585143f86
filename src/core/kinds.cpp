#include "core/kinds.h"

#include <fmt/format.h>
#include <xxhash.h>

#include <array>
#include <cmath>

#include "core/edges/edges.h"
#include "core/image/parallel.h"
#include "core/image/png.h"
#include "core/tone/tone.h"

namespace hscaffold {
namespace {

template <typename T, typename Convert>
Image<std::uint16_t> widened(const Image<T>& from, Convert&& convert) {
  Map map(from.size());
  parallelRows(map.height(), [&](int first, int end) {
    for (int y = first; y < end; ++y) std::transform(from.row(y), from.row(y) + from.width(), map.row(y), convert);
  });
  return map;
}

Extraction extractEdgeMap(View<Rgb> picture, const Tuning& values, ExtractionCache& cache, StopToken stop) {
  const EdgeTuning tuning = edgeTuningFrom(values);
  const std::string key = fmt::format("edges {} {}", static_cast<int>(tuning.gradient), tuning.sigma);
  if (cache.key != key || !cache.value) {
    cache.value = std::make_shared<const EdgeField>(edgeField(picture, tuning.gradient, tuning.sigma, stop));
    cache.key = key;
  }
  const auto& field = *static_cast<const EdgeField*>(cache.value.get());
  Extraction out;
  out.map = widened(drawEdges(field, tuning, stop), [](std::uint8_t v) { return static_cast<std::uint16_t>(v * 257); });
  const auto pair = thresholdsFor(field, tuning);
  out.thresholds = {field.histogram, pair.low, pair.high};
  return out;
}

Extraction extractToneMap(View<Rgb> picture, const Tuning& values, ExtractionCache&, StopToken stop) {
  return {widened(extractTone(picture, toneTuningFrom(values), stop),
                  [](float v) { return static_cast<std::uint16_t>(std::lround(v * 65535.0f)); }),
          {}};
}

const std::vector<Kind>& registry() {
  static const std::vector<Kind> all = {
      {"edges", "Edges", 'E', 0xd8b14a, false, "Outlines found where light or colour changes sharply.",
       &edgeTuningFields(), extractEdgeMap},
      {"tone", "Tone", 'T', 0x8fa7bd, true, "Large-scale light and shade, detail smoothed away.", &toneTuningFields(),
       extractToneMap}};
  return all;
}

}  // namespace

std::span<const Kind> kinds() { return registry(); }

const Kind& kindOf(const std::string& id) {
  for (const Kind& kind : registry())
    if (kind.id == id) return kind;
  std::string known;
  for (const Kind& kind : registry()) known += (known.empty() ? "" : ", ") + kind.id;
  throw badInput("There is no guide kind \"" + id + "\" in this version; there are " + known + ".");
}

std::vector<std::byte> encodeMap(const Kind& kind, View<std::uint16_t> map) {
  if (kind.wide) return encodePng(map);
  Image<std::uint8_t> narrow(map.size());
  for (int y = 0; y < map.height(); ++y)
    std::transform(map.row(y), map.row(y) + map.width(), narrow.row(y),
                   [](std::uint16_t v) { return static_cast<std::uint8_t>((v + 128) / 257); });
  return encodePng(narrow.view());
}

std::string digestOf(View<std::uint16_t> map) {
  const std::unique_ptr<XXH3_state_t, XXH_errorcode (*)(XXH3_state_t*)> state(XXH3_createState(), XXH3_freeState);
  XXH3_128bits_reset(state.get());
  const std::array<std::int32_t, 2> size = {map.width(), map.height()};
  XXH3_128bits_update(state.get(), size.data(), sizeof size);
  for (int y = 0; y < map.height(); ++y)
    XXH3_128bits_update(state.get(), map.row(y), static_cast<std::size_t>(map.width()) * sizeof(std::uint16_t));
  const auto hash = XXH3_128bits_digest(state.get());
  return fmt::format("{:016x}{:016x}", hash.high64, hash.low64);
}

}  // namespace hscaffold
