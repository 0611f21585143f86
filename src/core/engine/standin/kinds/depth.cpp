// A depth map orders masses: ground and sky by how far they are, things that leap out before their surroundings one by
// one, the largest leaps first. How near they are says what they are, hazes them and lights their slopes.
#include <algorithm>
#include <cmath>

#include "core/depth/depth_hold.h"
#include "core/depth/things.h"
#include "core/engine/standin/line_fields.h"
#include "core/engine/standin/noise.h"
#include "core/engine/standin/partition.h"
#include "core/image/distance.h"
#include "core/image/filter.h"
#include "core/image/narrow.h"
#include "core/image/parallel.h"
#include "core/image/resample.h"

namespace hscaffold::standin {

Wanted depthWanted(const Asked& asked);

namespace {

/// When the land is obeyed: after the things that say most, and all of it at once.
constexpr double landRank = 0.33;

/// What lies between leaps.
struct Layer {
  double area = 0;     ///< pixels
  double leap = 0;     ///< how far it stands out before what is beside it, mean along its border
  double border = 0;   ///< length, pixels
  double bottom = 0;   ///< share of the frame's lower side
  double sides = 0;    ///< the same of its left and right ones
  bool thing = false;  ///< it stands before its surroundings; otherwise it belongs to the land
  double rank = 0;     ///< when it is obeyed: 0 first, 1 last
  bool taken = false;
};

struct Layers {
  Image<std::int32_t> label;
  Image<float> toLeap;  ///< distance to the nearest leap, pixels
  std::vector<Layer> all;
};

/// Things without a closed border are taken out of the land.
void standApart(Layers& layers, const Image<float>& near) {
  const auto things = depth::thingsIn(
      near, [&](int x, int y) { return !layers.all[static_cast<std::size_t>(layers.label(x, y))].thing; });
  const auto first = static_cast<std::int32_t>(layers.all.size());
  for (const depth::Thing& each : things.all) {
    Layer layer;
    layer.area = each.area;
    layer.leap = each.drop;
    layer.thing = true;
    layers.all.push_back(layer);
  }
  for (int y = 0; y < near.height(); ++y)
    for (int x = 0; x < near.width(); ++x)
      if (things.label(x, y) >= 0) layers.label(x, y) = first + things.label(x, y);
}

Layers layersOf(const Image<float>& near, const Image<float>& leaps) {
  auto partition = partitionBy(leaps);
  Layers out;
  out.label = std::move(partition.label);
  out.toLeap = std::move(partition.distance);
  out.all.resize(static_cast<std::size_t>(partition.count));
  const int width = near.width(), height = near.height();
  // A leap is as wide as the map's resampling makes it: both sides are read a little away from the border.
  constexpr int aside = 3;
  const auto beside = [&](int x, int y, int dx, int dy) {
    return near.view().clamped(x - dx * aside, y - dy * aside) -
           near.view().clamped(x + dx * (aside + 1), y + dy * (aside + 1));
  };
  for (int y = 0; y < height; ++y)
    for (int x = 0; x < width; ++x) {
      const auto here = static_cast<std::size_t>(out.label(x, y));
      out.all[here].area += 1;
      if (y == height - 1) out.all[here].bottom += 1.0 / width;
      if (x == 0 || x == width - 1) out.all[here].sides += 0.5 / height;
      const auto meets = [&](int dx, int dy) {
        if (x + dx >= width || y + dy >= height) return;
        const auto other = static_cast<std::size_t>(out.label(x + dx, y + dy));
        if (other == here) return;
        const auto leap = static_cast<double>(beside(x, y, dx, dy));
        out.all[here].leap += leap;
        out.all[other].leap -= leap;
        out.all[here].border += 1;
        out.all[other].border += 1;
      };
      meets(1, 0);
      meets(0, 1);
    }
  const auto pixels = static_cast<double>(near.size().area());
  for (Layer& layer : out.all) {
    layer.leap /= std::max(1.0, layer.border);
    const bool broad = layer.bottom > 0.25 || (layer.sides > 0.12 && layer.area > 0.06 * pixels);
    layer.thing = layer.leap > 0.035 && layer.area < 0.3 * pixels && !broad;
    layer.rank = landRank;
  }
  standApart(out, near);
  std::vector<std::size_t> things;
  for (std::size_t i = 0; i < out.all.size(); ++i)
    if (out.all[i].thing) things.push_back(i);
  const auto says = [&](std::size_t i) { return std::sqrt(out.all[i].area) * out.all[i].leap; };
  std::stable_sort(things.begin(), things.end(), [&](std::size_t a, std::size_t b) { return says(a) > says(b); });
  double all = 1e-9, before = 0;
  for (const std::size_t i : things) all += says(i);
  for (const std::size_t i : things) {
    before += says(i);
    out.all[i].rank = 0.12 + 0.88 * (before - 0.7 * says(i)) / all;
  }
  return out;
}

/// What a depth map is, whatever is asked of it.
struct ReadDepth {
  Image<float> near, leaps;
  Layers layers;
};

ReadDepth readDepth(View<std::uint16_t> map, Size size) {
  ReadDepth out;
  out.near = resampled(widened(map).view(), size, Resampling::area);
  out.leaps = shrunkLines(depth::stepsOf(map), size);
  out.layers = layersOf(out.near, out.leaps);
  return out;
}

/// What a place is by how near it is: sky, far, middle band, ground; softly, so that slopes pass from one to the next.
std::array<float, partCount> partsAt(float near, float height) {
  std::array<float, partCount> out{};
  const float sky = smoothStep(0.17f, 0.07f, near) * smoothStep(0.9f, 0.6f, height),
              far = smoothStep(0.28f, 0.16f, near), middle = smoothStep(0.52f, 0.34f, near);
  out[static_cast<std::size_t>(Part::sky)] = sky;
  out[static_cast<std::size_t>(Part::far)] = far * (1 - sky);
  out[static_cast<std::size_t>(Part::middle)] = middle * (1 - far) * (1 - sky);
  out[static_cast<std::size_t>(Part::ground)] = (1 - middle) * (1 - far) * (1 - sky);
  return out;
}

/// How near the land is, also behind things that are not taken: there it goes on from beside them.
Image<float> landBehind(const Image<float>& near, const Layers& layers) {
  constexpr float rim = 4;  // the map is between the two there
  Image<std::uint8_t> things(near.size());
  bool any = false;
  for (int y = 0; y < near.height(); ++y)
    for (int x = 0; x < near.width(); ++x) {
      const Layer& layer = layers.all[static_cast<std::size_t>(layers.label(x, y))];
      things(x, y) = layer.thing && !layer.taken ? 255 : 0;
      any |= things(x, y) != 0;
    }
  auto out = near.clone();
  if (!any) return out;
  const auto away = distanceToSet(things);
  for (int y = 0; y < near.height(); ++y)
    for (int x = 0; x < near.width();) {
      const int from = x;
      while (x < near.width() && away(x, y) <= rim) ++x;
      const float left = from > 0 ? near(from - 1, y) : 2, right = x < near.width() ? near(x, y) : 2;
      if (x > from && std::min(left, right) <= 1) std::fill(out.row(y) + from, out.row(y) + x, std::min(left, right));
      if (x == from) ++x;
    }
  // Rows beside one another were filled from different places.
  const auto even = gaussianBlur(out.view(), 4);
  for (int y = 0; y < near.height(); ++y)
    for (int x = 0; x < near.width(); ++x)
      if (away(x, y) <= rim) out(x, y) = even(x, y);
  return out;
}

/// Light over the relief: what turns towards it is lighter. Leaps throw none.
Image<float> lightOn(View<float> near, View<float> toLeap, const Composition& place) {
  const auto soft = gaussianBlur(near, 1.5f);
  Image<float> out(near.size());
  for (int y = 0; y < near.height(); ++y)
    for (int x = 0; x < near.width(); ++x) {
      const float gx = soft.view().clamped(x + 2, y) - soft.view().clamped(x - 2, y),
                  gy = soft.view().clamped(x, y + 2) - soft.view().clamped(x, y - 2);
      const float facing = -(gx * place.lightX + gy * place.lightY) * static_cast<float>(near.width()) / 8;
      out(x, y) = smoothStep(3, 9, toLeap(x, y)) * std::clamp(facing, -0.45f, 0.45f);
    }
  return out;
}

/// Leaps without those about things that are not taken.
Image<float> leapsTaken(const Image<float>& leaps, const Layers& layers) {
  constexpr int beside = 2;
  auto out = leaps.clone();
  for (int y = 0; y < out.height(); ++y)
    for (int x = 0; x < out.width(); ++x)
      for (const auto& [dx, dy] : {std::pair{0, 0}, {beside, 0}, {-beside, 0}, {0, beside}, {0, -beside}}) {
        const Layer& layer = layers.all[static_cast<std::size_t>(layers.label.view().clamped(x + dx, y + dy))];
        if (layer.thing && !layer.taken) out(x, y) = 0;
      }
  return out;
}

/// How far each place stands out before what is about it, [-1, 1]: nearer things are set off against what is behind
/// them (unsharp masking of depth, Luft, Colditz and Deussen 2006).
Image<float> standingOut(View<float> near, float about) {
  auto out = gaussianBlur(near, about);
  for (int y = 0; y < near.height(); ++y)
    for (int x = 0; x < near.width(); ++x) out(x, y) = std::clamp(5 * (near(x, y) - out(x, y)), -1.0f, 1.0f);
  return out;
}

}  // namespace

Wanted depthWanted(const Asked& asked) {
  Wanted out;
  if (asked.loads.most() <= 0) return out;
  const Composition& place = asked.place;
  const auto map = asked.input.map.view();
  const Size size = place.fields.size();
  const auto longer = static_cast<float>(std::max(size.width, size.height));
  const auto read = asked.readings.of<ReadDepth>(map, size, [&] { return readDepth(map, size); });
  const auto& [near, leaps, standing] = *read;
  Layers layers{standing.label.clone(), standing.toLeap.clone(), standing.all};
  bool any = false;
  for (Layer& layer : layers.all) {
    const double load = asked.loads.at(settlingTime(layer.rank));
    layer.taken = load > 0.12 && layer.rank <= reachOf(load);
    any |= layer.taken;
  }
  // Nearness draws on what is not taken, as far as the guide is heard.
  out.fields = Fields::ofSize(size);
  for (int y = 0; y < size.height; ++y) std::copy_n(near.row(y), size.width, out.fields.depth().row(y));
  out.acts[1] = true;
  if (!any) return out;

  const auto slack = static_cast<float>(1 - std::min(1.0, asked.loads.mean()));
  const float far = 0.026f * slack * longer, wave = 0.14f * longer, burn = burnOf(asked.loads.most());
  const auto land = landBehind(near, layers);
  const auto light = lightOn(land, layers.toLeap, place);
  const auto drawn = leapsTaken(leaps, layers);
  const auto before = standingOut(land, 0.02f * longer);
  const bool landTaken =
      std::any_of(layers.all.begin(), layers.all.end(), [](const Layer& l) { return !l.thing && l.taken; });
  Decided decided;
  decided.fields = Fields::ofSize(size);
  decided.where = Image<float>(size);
  decided.lines = Image<float>(size);
  parallelRows(size.height, [&](int first, int end) {
    NoiseWalk across(mixed(asked.seed, 71)), down(mixed(asked.seed, 72)), nearer(mixed(asked.seed, 73));
    for (int y = first; y < end; ++y)
      for (int x = 0; x < size.width; ++x) {
        // At low load what is taken lies only about where the map has it.
        const float u = static_cast<float>(x) / wave, v = static_cast<float>(y) / wave;
        const int mx =
            std::clamp(static_cast<int>(std::lround(static_cast<float>(x) - far * across.at(u, v))), 0, size.width - 1);
        const int my =
            std::clamp(static_cast<int>(std::lround(static_cast<float>(y) - far * down.at(u, v))), 0, size.height - 1);
        for (std::size_t i = 0; i < Fields::count; ++i) decided.fields.all[i](x, y) = place.fields.all[i](x, y);
        const auto index = static_cast<std::size_t>(layers.label(mx, my));
        const Layer& layer = layers.all[index];
        if (!layer.taken && !landTaken) continue;
        const bool thing = layer.thing && layer.taken;
        decided.where(x, y) = 1;
        decided.lines(x, y) = burn * (thing ? 0.55f : 0.4f) * drawn(mx, my);
        // How near it is, is only about right as well: bands of the land lie higher or lower than the map has them. The
        // sky stays.
        const float nearHere = std::clamp(
            land(mx, my) +
                (layer.thing ? 0.0f
                             : 0.45f * slack * smoothStep(0.02f, 0.2f, land(mx, my)) * nearer.at(0.5f * u, 0.5f * v)),
            0.0f, 1.0f);
        auto parts = partsAt(nearHere, static_cast<float>(y) / static_cast<float>(size.height));
        if (thing) {
          parts = {};
          // Far things belong to the bands behind.
          const float subject = smoothStep(0.10f, 0.3f, nearHere);
          parts[static_cast<std::size_t>(Part::subject)] = subject;
          parts[static_cast<std::size_t>(Part::far)] = 1 - subject;
        }
        float same = 0;
        for (std::size_t p = 0; p < partCount; ++p) {
          same += parts[p] * place.fields.part(p)(x, y);
          decided.fields.part(p)(x, y) = parts[p];
        }
        decided.fields.depth()(x, y) = nearHere;
        // What the prompt would draw on such a part goes on; things differ from one another in value and colour.
        // They stand before what is farther, which is lighter: sky, haze, sunlit land.
        const float against = thing ? -0.8f : 0;
        const float own = thing ? signedUnit(mixed(asked.seed, index, 5)) : 0;
        const float keep = 0.25f + 0.75f * same;
        decided.fields.tone()(x, y) = burn * (keep * place.fields.tone()(x, y) + 1.1f * light(mx, my) + 0.25f * own +
                                              against - 0.5f * before(mx, my));
        decided.fields.accent()(x, y) = keep * place.fields.accent()(x, y) + 0.5f * own;
        decided.fields.line()(x, y) = 0;
      }
  });
  decided.where = gaussianBlur(decided.where.view(), 0.7f);
  decided.lines = gaussianBlur(decided.lines.view(), 0.6f);
  out.decided = std::move(decided);
  return out;
}

}  // namespace hscaffold::standin
