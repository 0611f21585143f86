#include "core/kinds.h"

#include <fmt/format.h>
#include <xxhash.h>

#include <array>
#include <cmath>

#include "core/edges/edges.h"
#include "core/image/parallel.h"
#include "core/image/png.h"
#include "core/lines/lines.h"
#include "core/lines/loose.h"
#include "core/lines/trace.h"
#include "core/pose/pose_map.h"
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
          {},
          {},
          {},
          {},
          {}};
}

Extraction extractLineMap(View<Rgb> picture, const Tuning& values, ExtractionCache&, StopToken stop) {
  auto art = extractLines(picture, lineTuningFrom(values), stop);
  Extraction out;
  out.map = std::move(art.map);
  out.note = std::move(art.findings.note);
  out.resolved["source"] = static_cast<double>(art.findings.source);
  if (art.findings.source == LineSource::photograph)
    out.found = "photograph";
  else
    out.found = fmt::format("paper, {}{}", art.findings.lightOnDark ? "light on dark" : "dark on light",
                            art.findings.ruledLines == 0
                                ? ""
                                : fmt::format(", {} ruled or folded line{} gone", art.findings.ruledLines,
                                              art.findings.ruledLines == 1 ? "" : "s"));
  return out;
}

Map drawLineMap(const Drawing& drawing, Size size, const Tuning&, StopToken stop) {
  return drawnStrokes(drawing.strokes, size, stop);
}

/// What loose lines are traced from does not change while they are loosened.
struct LooseGround {
  std::vector<Path> paths;
  std::string found;
  std::string note;
};

Extraction extractLooseMap(View<Rgb> picture, const Tuning& values, ExtractionCache& cache, StopToken stop) {
  const LooseTuning tuning = looseTuningFrom(values);
  const std::string key = fmt::format("loose {} {}", static_cast<int>(tuning.from), tuning.ink);
  if (cache.key != key || !cache.value) {
    LooseGround ground;
    Extraction lines;
    ExtractionCache ignored;
    if (tuning.from == LooseSource::edges) {
      lines = extractEdgeMap(picture, {{"gap", 8.0}}, ignored, stop);
      lines.found = "edges";
    } else {
      lines = extractLineMap(picture, {{"ink", tuning.ink}}, ignored, stop);
    }
    ground.paths = tracedPaths(lines.map, {}, nullptr, stop);
    ground.found = lines.found;
    ground.note = lines.note;
    cache.value = std::make_shared<const LooseGround>(std::move(ground));
    cache.key = key;
  }
  const auto& ground = *static_cast<const LooseGround*>(cache.value.get());
  Extraction out;
  out.map = drawnLoosely(loosened(ground.paths, tuning, stop), tuning, picture.size(), stop);
  out.found = ground.found;
  out.note = ground.note;
  return out;
}

Map drawLooseMap(const Drawing& drawing, Size size, const Tuning& values, StopToken stop) {
  LooseTuning tuning = looseTuningFrom(values);
  // What was drawn by hand is as long as it was meant.
  tuning.shortest = 0;
  std::vector<Path> paths;
  for (const auto& stroke : drawing.strokes) paths.push_back(flattened(*stroke));
  return drawnLoosely(loosened(paths, tuning, stop), tuning, size, stop);
}

const std::vector<Kind>& registry() {
  static const std::vector<Kind> all = {
      {"pose",
       "Pose",
       'P',
       0xe2725b,
       false,
       false,
       true,
       "Figures as skeletons: where limbs are and which way they face.",
       &pose::poseTuningFields(),
       {},
       {}},
      {"edges",
       "Edges",
       'E',
       0xd8b14a,
       false,
       true,
       false,
       "Outlines found where light or colour changes sharply.",
       &edgeTuningFields(),
       extractEdgeMap,
       {}},
      {"lines", "Line art", 'L', 0xa38bd4, false, true, false,
       "Drawn lines, from a photograph or from a drawing on paper.", &lineTuningFields(), extractLineMap, drawLineMap},
      {"loose", "Loose lines", 'O', 0xc58fb8, false, true, false,
       "Broad simplified lines that say about where things are and leave the rest open.", &looseTuningFields(),
       extractLooseMap, drawLooseMap},
      {"tone",
       "Tone",
       'T',
       0x8fa7bd,
       true,
       false,
       false,
       "Large-scale light and shade, detail smoothed away.",
       &toneTuningFields(),
       extractToneMap,
       {}}};
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

std::vector<std::byte> encodeMap(const Kind& kind, View<std::uint16_t> map, View<Rgb8> colour) {
  if (!colour.empty()) return encodePng(colour);
  if (kind.wide) return encodePng(map);
  Image<std::uint8_t> narrow(map.size());
  for (int y = 0; y < map.height(); ++y)
    std::transform(map.row(y), map.row(y) + map.width(), narrow.row(y),
                   [](std::uint16_t v) { return static_cast<std::uint8_t>((v + 128) / 257); });
  return encodePng(narrow.view());
}

std::string digestOf(View<std::uint16_t> map, View<Rgb8> colour) {
  const std::unique_ptr<XXH3_state_t, XXH_errorcode (*)(XXH3_state_t*)> state(XXH3_createState(), XXH3_freeState);
  XXH3_128bits_reset(state.get());
  const std::array<std::int32_t, 2> size = {map.width(), map.height()};
  XXH3_128bits_update(state.get(), size.data(), sizeof size);
  for (int y = 0; y < map.height(); ++y)
    XXH3_128bits_update(state.get(), map.row(y), static_cast<std::size_t>(map.width()) * sizeof(std::uint16_t));
  for (int y = 0; y < colour.height(); ++y)
    XXH3_128bits_update(state.get(), colour.row(y), static_cast<std::size_t>(colour.width()) * sizeof(Rgb8));
  const auto hash = XXH3_128bits_digest(state.get());
  return fmt::format("{:016x}{:016x}", hash.high64, hash.low64);
}

}  // namespace hscaffold
