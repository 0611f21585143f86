#include "core/depth/depth.h"

#include <algorithm>
#include <cmath>
#include <string_view>

#include "core/depth/solve.h"
#include "core/image/filter.h"
#include "core/image/parallel.h"

namespace hscaffold::depth {
namespace {

/// How much more or less a cue is believed of such a picture.
float trust(Scene scene, std::string_view cue) {
  switch (scene) {
    case Scene::land:
      return cue == "room" ? 0.0f : cue == "haze" ? 2.0f : cue == "ground" ? 1.3f : 1.0f;
    case Scene::room:
      return cue == "haze" ? 0.0f : cue == "room" ? 1.5f : 1.0f;
    case Scene::closeUp:
      return cue == "room" || cue == "haze" ? 0.0f
             : cue == "front"               ? 4.0f
             : cue == "focus"               ? 4.0f
             : cue == "ground"              ? 0.4f
                                            : 1.0f;
    case Scene::flat:
      return 0;
    default:
      return 1;
  }
}

/// Three times what the other cues usually come to: whoever picks a network means it to decide, but where it is far off
/// from all of them, doubt should show.
constexpr float estimateWeight = 12;

float bent(float v, Curve curve) {
  switch (curve) {
    case Curve::near:
      return v * v;
    case Curve::far:
      return std::sqrt(v);
    case Curve::middle:
      return v * v * (3 - 2 * v);
    default:
      return v;
  }
}

}  // namespace

const TuningFields& depthTuningFields() {
  static const TuningFields fields = {
      {"guess",
       "Guess from",
       "",
       0,
       5,
       0,
       1,
       0,
       {"automatic", "open land", "room", "close-up", "nothing", "finished map"},
       "What the picture is taken for. Nothing: an even middle, for flat drawings, to be shaped by hints alone. "
       "Finished "
       "map: the picture is a depth map already, light is near."},
      {"far-cut", "Far cut", "", 0, 1, 0, 0.01, 2, {}, "What is farther becomes black."},
      {"near-cut", "Near cut", "", 0, 1, 1, 0.01, 2, {}, "What is nearer becomes white."},
      {"curve",
       "Curve",
       "",
       0,
       3,
       0,
       1,
       0,
       {"even", "parts the near", "parts the far", "parts the middle"},
       "Where values are spread apart."},
      {"local-contrast", "Local contrast", "%", 0, 100, 0, 1, 0, {}, "Lifts things from what is close behind them."},
      {"smooth", "Smooth", "px", 0, 40, 0, 1, 0, {}, "Evens out slopes; edges of the picture stay sharp."},
      {"inverted", "Inverted", "", 0, 1, 0, 1, 0, {"near is white", "near is black"}, "As some engines want it."}};
  return fields;
}

DepthTuning depthTuningFrom(const Tuning& tuning) {
  const auto value = [&](const char* id) { return valueOf(depthTuningFields(), tuning, id); };
  DepthTuning out;
  out.scene = static_cast<Scene>(std::lround(value("guess")));
  out.farCut = value("far-cut");
  out.nearCut = value("near-cut");
  out.curve = static_cast<Curve>(std::lround(value("curve")));
  out.localContrast = value("local-contrast") / 100;
  out.smooth = value("smooth");
  out.inverted = value("inverted") != 0;
  return out;
}

Reading readingOf(View<Rgb> picture, StopToken stop, bool networks) {
  Reading out{seenIn(picture, stop), {}};
  const auto named = cues();
  out.cues.resize(named.size());
  parallelItems(named.size(), [&](std::size_t c) {
    const std::size_t cells = out.seen.x.size();
    out.cues[c] = networks || named[c].id != networkCueId ? named[c].make(out.seen)
                                                          : Cue{std::vector<float>(cells), std::vector<float>(cells)};
  });
  throwIfStopped(stop);
  return out;
}

std::shared_ptr<const Ground> groundOf(View<Rgb> picture, StopToken stop) {
  auto out = std::make_shared<Ground>();
  static_cast<Reading&>(*out) = readingOf(picture, stop);
  out->haze = veilOver(out->seen);
  out->guide = liftGuideOf(picture, out->seen.size);
  return out;
}

Solution guessed(const Reading& reading, Scene scene, const Estimate* estimate, StopToken stop) {
  if (scene == Scene::flat && estimate == nullptr) {
    const auto count = reading.seen.patches.cells.size();
    return {std::vector<float>(count, 0.5f), std::vector<float>(count, 0.0f)};
  }
  if (scene == Scene::finished) {
    Solution out;
    std::vector<double> sums(reading.seen.patches.cells.size());
    for (int y = 0; y < reading.seen.size.height; ++y)
      for (int x = 0; x < reading.seen.size.width; ++x)
        sums[static_cast<std::size_t>(reading.seen.patches.cell(x, y))] +=
            static_cast<double>(reading.seen.light(x, y));
    for (std::size_t i = 0; i < sums.size(); ++i)
      out.near.push_back(static_cast<float>(sums[i] / reading.seen.patches.cells[i].area));
    out.sure.assign(sums.size(), 1.0f);
    return out;
  }
  std::vector<float> weights;
  for (const NamedCue& cue : cues()) weights.push_back(cue.weight * trust(scene, cue.id));
  if (estimate == nullptr) return firstSolution(reading.seen, joined(reading.cues, weights), stop);
  auto all = reading.cues;
  all.push_back(estimateCue(*estimate, reading.seen));
  weights.push_back(estimateWeight);
  return firstSolution(reading.seen, joined(all, weights), stop);
}

Image<float> nearnessOf(const Ground& ground, Scene scene, View<Rgb> picture, const Solution& first,
                        const Solution& solution, StopToken stop) {
  if (scene != Scene::finished) return lifted(overPixels(ground.seen, solution.near), ground.guide, stop);
  // Half and upwards: moved nearer; below: farther.
  std::vector<float> moved;
  for (std::size_t i = 0; i < solution.near.size(); ++i)
    moved.push_back(0.5f + 0.5f * (solution.near[i] - first.near[i]));
  const bool any = std::any_of(moved.begin(), moved.end(), [](float v) { return v != 0.5f; });
  auto out = any ? lifted(overPixels(ground.seen, moved), ground.guide, stop)
                 : Image<float>(picture.width(), picture.height(), 0.5f);
  parallelRows(out.height(), [&](int begin, int end) {
    for (int y = begin; y < end; ++y)
      for (int x = 0; x < out.width(); ++x) {
        const float own = linearToSrgb(std::clamp(luminance(picture(x, y)), 0.0f, 1.0f));
        out(x, y) = std::clamp(own + 2 * (out(x, y) - 0.5f), 0.0f, 1.0f);
      }
  });
  return out;
}

Image<float> toned(Image<float> near, const DepthTuning& tuning, const LiftGuide& guide, StopToken stop) {
  if (near.empty()) return near;
  if (tuning.smooth > 0) {
    Image<float> light(near.size());
    parallelRows(near.height(), [&](int first, int end) {
      for (int y = first; y < end; ++y)
        for (int x = 0; x < near.width(); ++x) {
          const Rgb8 c = guide.colour(x, y);
          light(x, y) = (0.2126f * c.r + 0.7152f * c.g + 0.0722f * c.b) / 255;
        }
    });
    near = guidedFilter(light, near, static_cast<int>(std::lround(tuning.smooth)), 0.0004f);
    throwIfStopped(stop);
  }
  const auto low = static_cast<float>(tuning.farCut);
  const float range = std::max(0.004f, static_cast<float>(tuning.nearCut) - low);
  parallelRows(near.height(), [&](int first, int end) {
    for (int y = first; y < end; ++y)
      for (float& v : near.line(y)) v = bent(std::clamp((v - low) / range, 0.0f, 1.0f), tuning.curve);
  });
  if (tuning.localContrast > 0) {
    const auto mean = boxMean(near, std::max(4, std::max(near.width(), near.height()) / 16));
    const auto much = static_cast<float>(2 * tuning.localContrast);
    parallelRows(near.height(), [&](int first, int end) {
      for (int y = first; y < end; ++y)
        for (int x = 0; x < near.width(); ++x)
          near(x, y) = std::clamp(near(x, y) + much * (near(x, y) - mean(x, y)), 0.0f, 1.0f);
    });
  }
  throwIfStopped(stop);
  if (tuning.inverted)
    for (int y = 0; y < near.height(); ++y)
      for (float& v : near.line(y)) v = 1 - v;
  return near;
}

}  // namespace hscaffold::depth
