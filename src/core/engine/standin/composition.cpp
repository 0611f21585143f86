#include "core/engine/standin/composition.h"

#include <cmath>

#include "core/engine/standin/noise.h"
#include "core/engine/standin/subjects.h"
#include "core/image/parallel.h"

namespace hscaffold::standin {
namespace {

/// The decisions that everything else follows.
struct Decisions {
  std::uint64_t seed = 0;
  float aspect = 1.5f;
  float horizon = 0.5f, farHeight = 0.12f, farRough = 0.5f, middleHeight = 0.05f, middleRough = 0.5f;
  float groundTop = 0.75f, groundSlope = 0, groundCurve = 0;
  float clouds = 0.4f, waves = 0, ripple = 0, blades = 0, blocks = 0, trees = 0;
  SubjectPlan subject;
};

/// Level strokes have a course of 1, upright ones of -1.
constexpr float level = 0.5f, upright = -0.5f;

Handling handlingOf(const Wishes& w) {
  const auto much = [&](Trait trait) { return std::clamp(w[trait], 0.0f, 1.0f); };
  Handling out;
  // The grain of boards and the folds of cloth hang, stone is hewn in short strokes, metal shines in level ones.
  out.courseX = upright * std::max(much(Trait::wood), much(Trait::cloth)) + level * much(Trait::metal);
  out.dab = std::max({0.55f * much(Trait::stone), 0.9f * much(Trait::tree), 0.8f * much(Trait::flower),
                      0.5f * much(Trait::rock), 0.35f * much(Trait::animal)});
  return out;
}

Decisions decide(const Wishes& w, std::uint64_t seed, float aspect) {
  Decisions d;
  d.seed = seed;
  d.aspect = aspect;
  const auto draw = [&](std::uint64_t what) { return unit(mixed(seed, what)); };
  // Thirds, never the middle.
  d.horizon = (draw(1) < 0.6f ? 0.58f : 0.38f) + 0.08f * (draw(2) - 0.5f);
  d.horizon -= 0.08f * std::min(1.0f, w[Trait::mountain]);
  const float high = std::max(w[Trait::mountain], 0.8f * w[Trait::forest]);
  d.farHeight = 0.04f + 0.10f * draw(3) + 0.20f * std::clamp(high, 0.0f, 1.2f);
  if (w[Trait::sea] > 0.3f) d.farHeight *= 0.45f;
  d.farRough = 0.3f + 0.5f * draw(4) + 0.4f * w[Trait::mountain] - 0.3f * w[Trait::calm] + 0.3f * w[Trait::wild];
  d.middleHeight = 0.03f + 0.05f * draw(5) + 0.06f * std::max({w[Trait::forest], w[Trait::town], 0.0f});
  d.middleRough = 0.4f + 0.4f * draw(6) + 0.6f * std::max(w[Trait::forest], w[Trait::town]);
  d.groundTop = d.horizon + (1 - d.horizon) * (0.30f + 0.25f * draw(7));
  d.groundSlope = 0.16f * (draw(8) - 0.5f) * (1 + 1.5f * std::max(0.0f, w[Trait::dune]));
  d.groundCurve = 0.10f * (draw(9) - 0.3f) * (1 + 2 * std::max(0.0f, w[Trait::dune]));
  d.clouds = std::clamp(
      0.35f + 0.35f * (draw(10) - 0.5f) + 0.6f * w[Trait::cloud] + 0.5f * w[Trait::storm] - 0.5f * w[Trait::clear],
      0.0f, 1.2f);
  d.waves = std::clamp(std::max(w[Trait::sea], w[Trait::river]), 0.0f, 1.2f);
  d.ripple = std::clamp(0.2f + w[Trait::dune], 0.0f, 1.2f);
  d.blades = std::clamp(0.15f + std::max(w[Trait::field], w[Trait::forest]), 0.0f, 1.2f);
  d.blocks = std::clamp(w[Trait::town], 0.0f, 1.2f);
  d.trees = std::clamp(w[Trait::forest], 0.0f, 1.2f);
  d.subject = planSubject(w, mixed(seed, 77), aspect, d.horizon, d.groundTop);
  // Water rises over the ground, or falls back from it; what stands there stays.
  d.groundTop += (1 - d.horizon) * (w[Trait::flood] > 0 ? 0.34f : 0.20f) * w[Trait::flood];
  return d;
}

/// Height of the far skyline above the horizon at u, in shares of the height.
float farLine(const Decisions& d, float u) {
  const float shape = 0.55f + 0.9f * fractalNoise(mixed(d.seed, 21), u * 2.2f * d.aspect, 0.5f, 2);
  const float detail = 0.30f * d.farRough * fractalNoise(mixed(d.seed, 22), u * 9 * d.aspect, 3.5f, 4);
  return d.farHeight * std::max(0.0f, shape + detail);
}

float middleLine(const Decisions& d, float u) {
  const float x = u * d.aspect;
  float height = 0.5f + 0.8f * fractalNoise(mixed(d.seed, 31), x * 3.1f, 1.5f, 2);
  height += 0.6f * d.middleRough * d.trees * std::abs(fractalNoise(mixed(d.seed, 32), x * 26, 2.5f, 3));
  if (d.blocks > 0) {
    const float cell = std::floor(x * 16);
    height +=
        1.4f * d.blocks * unit(mixed(d.seed, 33, static_cast<std::uint64_t>(static_cast<std::int64_t>(cell + 4096))));
  }
  return d.middleHeight * std::max(0.0f, height);
}

float groundLine(const Decisions& d, float u) {
  const float x = u - 0.5f;
  return d.groundTop + d.groundSlope * x - d.groundCurve * std::cos(x * 5.5f) +
         0.03f * fractalNoise(mixed(d.seed, 41), u * 4 * d.aspect, 7.5f, 3);
}

}  // namespace

Fields Fields::ofSize(Size size) {
  Fields fields;
  for (auto& field : fields.all) field = Image<float>(size);
  return fields;
}

Composition compose(const Wishes& wishes, std::uint64_t seed, Size size) {
  const float aspect = static_cast<float>(size.width) / static_cast<float>(size.height);
  // The subject's kind and the words that nobody knows shift the dice a little; colours and media do not.
  const std::uint64_t dice = mixed(seed, wishes.unknown);
  const Decisions d = decide(wishes, dice, aspect);
  Composition out;
  out.subject = d.subject;
  out.overcast = std::clamp(wishes[Trait::cloud], 0.0f, 1.0f);
  out.horizon = d.horizon;
  out.sunX = 0.15f + 0.7f * unit(mixed(dice, 51));
  out.sunY = d.horizon * (0.2f + 0.45f * unit(mixed(dice, 52)));
  if (wishes[Trait::dusk] + wishes[Trait::dawn] > 0.4f) out.sunY = d.horizon * 0.82f;
  out.lightX = out.sunX < 0.5f ? -0.8f : 0.8f;
  out.lightY = -0.6f;
  out.things = handlingOf(wishes);
  out.fields = Fields::ofSize(size);
  Fields& f = out.fields;
  const float rain = std::clamp(std::max(wishes[Trait::rain], wishes[Trait::storm]), 0.0f, 1.0f);
  const float pixel = 1.0f / static_cast<float>(size.height);
  struct Borders {
    float far, middle, ground;
  };
  std::vector<Borders> borders;
  for (int x = 0; x < size.width; ++x) {
    const float u = (static_cast<float>(x) + 0.5f) / static_cast<float>(size.width);
    borders.push_back({d.horizon - farLine(d, u), d.horizon - middleLine(d, u) + 0.02f, groundLine(d, u)});
  }
  parallelRows(size.height, [&](int first, int end) {
    // One walk a noise along the rows.
    FractalWalk cloudNoise(mixed(dice, 61), 4), farNoise(mixed(dice, 62), 4), waveNoise(mixed(dice, 63), 3),
        bladeNoise(mixed(dice, 64), 2), middleNoise(mixed(dice, 65), 3), ridgeNoise(mixed(dice, 66), 2),
        slopeNoise(mixed(dice, 67), 3), accentNoise(mixed(dice, 68), 3), farAccentNoise(mixed(dice, 69), 2);
    for (int y = first; y < end; ++y) {
      const float v = (static_cast<float>(y) + 0.5f) / static_cast<float>(size.height);
      for (int x = 0; x < size.width; ++x) {
        const float u = (static_cast<float>(x) + 0.5f) / static_cast<float>(size.width);
        const float ux = u * aspect;
        const auto& [far, middle, ground] = borders[static_cast<std::size_t>(x)];
        const auto below = [&](float line) { return smoothStep(-1.5f * pixel, 1.5f * pixel, v - line); };
        const float inGround = below(ground);
        const float inMiddle = below(middle) * (1 - below(ground));
        const float inFar = below(far) * (1 - below(std::min(middle, ground)));
        const float inSky = std::max(0.0f, 1 - inGround - inMiddle - inFar);
        f.part(0)(x, y) = inSky;
        f.part(1)(x, y) = inFar;
        f.part(2)(x, y) = inMiddle;
        f.part(3)(x, y) = inGround;

        // Light and shade within each part, reckoned only where there is something of it.
        const auto noise = [](float share, FractalWalk& of, float along, float down) {
          return share > 0 ? of.at(along, down) : 0.0f;
        };
        const float height = std::clamp(v / std::max(0.05f, d.horizon), 0.0f, 1.0f);
        const float stretched = noise(inSky, cloudNoise, ux * 2.2f, v * 7 * (1.3f - 0.5f * height));
        const float cloud = smoothStep(0.02f, 0.35f, stretched + 0.35f * (d.clouds - 0.5f)) * std::min(1.0f, d.clouds);
        const float sun =
            std::exp(-24 * ((u - out.sunX) * (u - out.sunX) * aspect * aspect + (v - out.sunY) * (v - out.sunY)));
        float sky = 0.45f * (height - 0.5f) + 0.55f * cloud * (0.6f + 0.8f * stretched) + 0.5f * sun;
        const float farShade = 0.5f * noise(inFar, farNoise, ux * 6, v * 10) + 0.5f * (far - v + 0.06f) / 0.1f * 0.2f;
        const float depthInLand = std::clamp((v - d.horizon) / std::max(0.05f, 1 - d.horizon), 0.0f, 1.0f);
        const float scale = 1 / (0.12f + depthInLand);
        const float wave = noise(inMiddle, waveNoise, ux * 4 * scale, v * 40 * scale * 0.35f);
        const float grass = noise(inGround + inMiddle, bladeNoise, ux * 60, v * 16);
        const float middleShade =
            0.25f * noise(inMiddle, middleNoise, ux * 9, v * 18) + 0.5f * d.waves * wave + 0.25f * d.trees * grass;
        const float ridge =
            std::sin((v * 34 + 3 * noise(inGround, ridgeNoise, ux * 3, v * 5)) * (1.5f - 0.7f * depthInLand));
        const float slope = noise(inGround, slopeNoise, ux * 2.4f + v * 1.4f, v * 2.6f);
        const float groundShade = 0.75f * slope * (out.lightX > 0 ? 1.0f : -1.0f) + 0.12f * d.ripple * ridge +
                                  0.28f * d.blades * grass + 0.2f * (0.4f - depthInLand);
        f.tone()(x, y) = inSky * sky + inFar * farShade + inMiddle * middleShade + inGround * groundShade;
        f.depth()(x, y) =
            inFar * 0.15f + inMiddle * (0.3f + 0.3f * depthInLand) + inGround * (0.55f + 0.4f * depthInLand);
        // Water lies level, blades and trunks stand, leaves go every way, rain falls aslant.
        const float waves = std::min(1.0f, d.waves), blades = std::min(1.0f, d.blades), trees = std::min(1.0f, d.trees);
        f.all[Fields::courseX](x, y) = inMiddle * (level * waves + upright * 0.6f * trees) +
                                       inGround * upright * 0.7f * smoothStep(0.3f, 0.9f, blades) - inSky * 0.2f * rain;
        f.all[Fields::courseY](x, y) = inSky * 0.35f * rain;
        f.dab()(x, y) = inMiddle * 0.8f * trees * (1 - waves) + inGround * 0.35f * smoothStep(0.3f, 0.9f, blades);
        f.accent()(x, y) = (inGround + inMiddle) * 0.8f * noise(inGround + inMiddle, accentNoise, ux * 3, v * 4) +
                           inSky * (0.7f * cloud - 0.5f * (1 - height)) +
                           inFar * 0.6f * noise(inFar, farAccentNoise, ux * 4, v * 5);
      }
    }
  });
  return out;
}

Composition Composition::clone() const {
  Composition out;
  out.subject = subject;
  out.overcast = overcast;
  out.horizon = horizon;
  out.lightX = lightX, out.lightY = lightY;
  out.sunX = sunX, out.sunY = sunY;
  out.things = things;
  out.named = named;
  for (std::size_t i = 0; i < Fields::count; ++i) out.fields.all[i] = fields.all[i].clone();
  return out;
}

Composition Places::composed(const Wishes& wishes, std::uint64_t seed, Size size) {
  return kept_
      .of({wishes, seed, size}, [&] { return std::make_shared<const Composition>(compose(wishes, seed, size)); })
      ->clone();
}

Composition withSubject(const Composition& place, const SubjectPlan& subject) {
  Composition out = place.clone();
  out.subject = subject;
  const Size size = place.fields.size();
  if (subject.kind == SubjectKind::none && subject.others.empty()) return out;
  Fields& f = out.fields;
  const float aspect = static_cast<float>(size.width) / static_cast<float>(size.height);
  const float pixel = 1.0f / static_cast<float>(size.height);
  parallelRows(size.height, [&](int first, int end) {
    for (int y = first; y < end; ++y) {
      const float v = (static_cast<float>(y) + 0.5f) / static_cast<float>(size.height);
      for (int x = 0; x < size.width; ++x) {
        const float ux = (static_cast<float>(x) + 0.5f) / static_cast<float>(size.width) * aspect;
        const SubjectSample here = sampleSubject(subject, ux, v, pixel);
        const float shadow = 0.7f * sampleShadow(subject, ux, v, out.lightX, pixel) * (1 - 0.4f * out.overcast);
        if (here.cover <= 0 && shadow <= 0 && here.outline <= 0) continue;
        const float beside = 1 - here.cover;
        f.tone()(x, y) -= shadow * (0.5f * f.part(2)(x, y) + f.part(3)(x, y));
        const auto over = [&](Image<float>& field, float value) {
          field(x, y) = field(x, y) * beside + value * here.cover;
        };
        over(f.tone(), here.shade(out.lightX, out.lightY));
        over(f.depth(), 0.85f);
        over(f.accent(), here.accent);
        over(f.all[Fields::courseX], out.things.courseX);
        over(f.all[Fields::courseY], out.things.courseY);
        over(f.dab(), out.things.dab);
        for (std::size_t p = 0; p + 1 < partCount; ++p) f.part(p)(x, y) *= beside;
        f.part(4)(x, y) = here.cover;
        f.line()(x, y) = 0.55f * here.outline;
      }
    }
  });
  return out;
}

}  // namespace hscaffold::standin
