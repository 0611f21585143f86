#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "core/depth/depth.h"
#include "core/depth/depth_hold.h"
#include "core/depth/solve.h"
#include "core/guides/kind.h"
#include "core/image/widen.h"
#include "core/retouch/layer.h"

namespace hscaffold {

Kind depthKind();

namespace {

using depth::Ground;

constexpr int placesShown = 3;

std::shared_ptr<const Ground> groundFrom(View<Rgb> picture, ExtractionCache& cache, const StopToken& stop) {
  const std::string key = fmt::format("depth {} {}", picture.width(), picture.height());
  if (cache.key != key || !cache.value) {
    cache.value = depth::groundOf(picture, stop);
    cache.key = key;
  }
  return std::static_pointer_cast<const Ground>(cache.value);
}

std::uint16_t full(float v) { return static_cast<std::uint16_t>(std::lround(std::clamp(v, 0.0f, 1.0f) * 65535.0f)); }

std::vector<std::uint32_t> histogramOf(View<float> values) {
  std::vector<std::uint32_t> out(256);
  for (int y = 0; y < values.height(); ++y)
    for (const float v : values.line(y)) ++out[static_cast<std::size_t>(std::clamp(v, 0.0f, 1.0f) * 255)];
  return out;
}

Extraction makeDepthMap(const MapGround& from, ExtractionCache& cache, StopToken stop) {
  Image<Rgb> blank;
  View<Rgb> picture = from.picture;
  const auto kept = from.work.get<depth::Hints>(depth::hintsSlot);
  // Hints alone work on an even middle.
  if (picture.empty() && !kept) {
    Extraction nothing;
    nothing.map = Map(from.place.frame);
    return nothing;
  }
  if (picture.empty()) {
    blank = Image<Rgb>(from.place.frame.width, from.place.frame.height, Rgb{0.5f, 0.5f, 0.5f});
    picture = blank;
  }
  Extraction out;
  if (picture.empty()) return out;
  const auto ground = groundFrom(picture, cache, stop);
  const auto tuning = depth::depthTuningFrom(from.tuning);
  const auto scene = from.picture.empty() ? depth::Scene::flat : tuning.scene;
  auto estimate = from.work.get<depth::Estimate>(depth::estimateSlot);
  if (estimate)
    estimate = std::make_shared<const depth::Estimate>(following(*estimate, picture.size(), from.place.placing));
  const auto first = depth::guessed(*ground, scene, estimate.get(), stop);
  auto solution = first;
  std::size_t hintCount = 0, against = 0;
  if (kept) {
    const auto hints = depth::following(*kept, picture.size(), from.place.placing);
    hintCount = hints.hints.size();
    against = depth::contradictions(hints, ground->seen).size();
    solution = depth::withHints(ground->seen, solution, depth::constraintsOf(hints, ground->seen), stop);
  }
  throwIfStopped(stop);
  auto near = depth::nearnessOf(*ground, scene, picture, first, solution, stop);
  out.thresholds = {histogramOf(near), tuning.farCut, tuning.nearCut};
  out.map = widened(depth::toned(std::move(near), tuning, ground->guide, stop), full);
  out.sureness = std::make_shared<const Map>(
      widened(depth::lifted(depth::overPixels(ground->seen, solution.sure), ground->guide, stop), full));
  for (const int cell : depth::leastSure(ground->seen, solution, placesShown))
    out.doubtful.push_back({static_cast<double>(ground->seen.x[static_cast<std::size_t>(cell)]) * picture.width(),
                            static_cast<double>(ground->seen.y[static_cast<std::size_t>(cell)]) * picture.height()});
  double sure = 0, all = 0;
  for (std::size_t i = 0; i < solution.sure.size(); ++i) {
    all += ground->seen.patches.cells[i].area;
    if (solution.sure[i] >= 0.4f) sure += ground->seen.patches.cells[i].area;
  }
  out.facts = {{"sure", sure / std::max(1.0, all)},
               // A finished map may be pale without a veil over it.
               {"haze", scene == depth::Scene::finished ? 0 : ground->haze},
               {"hints", static_cast<double>(hintCount)},
               {"against", static_cast<double>(against)}};
  out.found = fmt::format("sure of {:.0f} % of the frame", 100 * sure / std::max(1.0, all));
  if (estimate && scene != depth::Scene::finished) out.found += ", with " + estimate->by;
  if (hintCount > 0) out.found += fmt::format(", {} {}", hintCount, hintCount == 1 ? "hint" : "hints");
  return out;
}

Extraction extractDepthMap(View<Rgb> picture, const Tuning& values, ExtractionCache& cache, StopToken stop) {
  const GuideWork none;
  return makeDepthMap({picture, {picture.size(), {}}, values, none}, cache, stop);
}

void tell(const GuideInput& input, const Extraction& details, MapFacts& facts, ExtractionCache&, StopToken) {
  for (const auto& [name, value] : details.facts) facts.numbers[name] = value;
  const auto map = input.map.view();
  if (map.empty()) return;
  std::vector<std::uint16_t> sample;
  double top = 0, bottom = 0;
  for (int y = 0; y < map.height(); y += 3) {
    double row = 0;
    for (int x = 0; x < map.width(); x += 3) {
      sample.push_back(map(x, y));
      row += map(x, y);
    }
    row /= 65535.0 * ((map.width() + 2) / 3);
    if (y < map.height() / 4) top += row / ((map.height() / 4 + 2) / 3);
    if (y >= map.height() - map.height() / 4) bottom += row / ((map.height() / 4 + 2) / 3);
  }
  std::sort(sample.begin(), sample.end());
  facts.numbers["range"] = (sample[sample.size() * 98 / 100] - sample[sample.size() * 2 / 100]) / 65535.0;
  facts.numbers["upside"] = top - bottom;
}

std::vector<KindCheck> check(const Guide& guide, const MapFacts& facts, const std::string&) {
  std::vector<KindCheck> out;
  const auto tuning = depth::depthTuningFrom(guide.tuning);
  const bool hinted = facts.number("hints").value_or(0) > 0;
  if (const auto range = facts.number("range"); range && *range < 0.25)
    out.push_back({"flat-depth",
                   "flat depth",
                   Severity::doubt,
                   fmt::format("{} uses only {:.0f} % of the range from far to near. Set its cuts closer, or mark "
                               "something near and something far.",
                               guide.name, *range * 100),
                   "",
                   {}});
  if (const auto upside = facts.number("upside"); upside && *upside > 0.3 && !tuning.inverted && !hinted)
    out.push_back({"inverted-depth", "depth inverted?", Severity::doubt,
                   guide.name + " is near at the top and far at the bottom: it may be inverted.", "Turn it over",
                   [](Guide& g, std::string&) { g.tuning["inverted"] = 1; }});
  if (const auto haze = facts.number("haze"); haze && *haze > 0.5 && !hinted)
    out.push_back({"depth-haze",
                   "haze",
                   Severity::doubt,
                   "Haze hides the far part of " + guide.name + ": mark what is far with a hint or a ramp.",
                   "",
                   {}});
  if (const auto against = facts.number("against"); against && *against > 0)
    out.push_back({"hints-against",
                   "hints disagree",
                   Severity::doubt,
                   fmt::format("{} hints of {} contradict others at the same place: the map lies in between. Remove "
                               "one of each.",
                               *against, guide.name),
                   "",
                   {}});
  return out;
}

}  // namespace

Kind depthKind() {
  return {.id = "depth",
          .name = "Depth",
          .letter = 'D',
          .colour = 0x4fb6ac,
          .nature = MapNature::halfTones,
          .help = "How near everything is: white is near, black is far.",
          .fields = &depth::depthTuningFields(),
          .nearIsLight = true,
          .workSlots = {{depth::hintsSlot, &depth::hintsForm(), false},
                        {depth::estimateSlot, &depth::estimateForm(), false}},
          .extract = extractDepthMap,
          .make = makeDepthMap,
          .tell = tell,
          .check = check,
          .measure = [](const GuideInput& input, const ProofSeen& proof,
                        StopToken stop) { return depth::depthHolding(input.map, proof, stop); },
          .borders =
              [](const GuideInput& input) {
                auto steps = depth::stepsOf(input.map);
                if (!input.region.empty()) limitTo(steps.view(), input.region);
                return Borders{std::move(steps)};
              }};
}

}  // namespace hscaffold
