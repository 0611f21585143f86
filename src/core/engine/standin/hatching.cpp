// Ink, woodcut and pencil: lines first, then values by wash or by hatches that follow the flow.
#include <cmath>

#include "core/engine/standin/flow.h"
#include "core/engine/standin/noise.h"
#include "core/engine/standin/painting.h"
#include "core/image/filter.h"
#include "core/image/parallel.h"

namespace hscaffold::standin {
namespace {

/// How strongly borders between masses ask for a line, besides the lines that are there.
Image<float> contour(const Plan& plan, float sigma) {
  const auto light = broadBlur(drawnLightnessOf(plan).view(), sigma);
  const auto wide = broadBlur(light.view(), sigma * 1.6f);
  Image<float> out(light.size());
  for (int y = 0; y < out.height(); ++y)
    for (int x = 0; x < out.width(); ++x) out(x, y) = std::clamp((wide(x, y) - light(x, y)) * 14, 0.0f, 1.0f);
  return out;
}

}  // namespace

Image<Rgb> drawnInInk(const Plan& plan, std::uint64_t seed, StopToken stop) {
  const Size size = plan.colour.size();
  const float unitSize = plan.place.unit();
  const auto borders = contour(plan, 1.3f * unitSize);
  const auto light = broadBlur(drawnLightnessOf(plan).view(), 2.5f * unitSize);
  const auto flow = flowAlong(lightnessOf(plan), 6 * unitSize, seed, plan.course, plan.place);
  throwIfStopped(stop);
  const auto bristle = smearedNoise(flow, static_cast<int>(10 * unitSize), 1.6f * unitSize, seed + 1, plan.place);
  throwIfStopped(stop);
  Image<Rgb> out(size);
  parallelRows(size.height, [&](int first, int end) {
    FractalWalk wanders(seed + 2, 4), clouds(seed + 3, 3);
    PaperGrain paperGrain(seed + 4);
    NoiseWalk pressures(seed + 5);
    for (int y = first; y < end; ++y) {
      for (int x = 0; x < size.width; ++x) {
        const float u = plan.place.x(x) / unitSize, v = plan.place.y(y) / unitSize;
        const float wander = 0.06f * wanders.at(u / 30, v / 30);
        const float value = light(x, y) + wander;
        // Three washes over warm paper, with wet edges.
        float ink = 0;
        for (const float level : {0.68f, 0.50f, 0.34f}) {
          ink += 0.21f * smoothStep(level + 0.012f, level - 0.012f, value);
          ink += 0.05f * std::exp(-std::pow((value - level + 0.012f) / 0.012f, 2.0f));
        }
        ink *= 0.86f + 0.28f * clouds.at(u / 45, v / 45) +
               0.10f * (paperGrain.at(plan.place.x(x), plan.place.y(y)) - 0.5f);
        // Dry brush in the darkest places.
        ink += 0.5f * smoothStep(0.36f, 0.22f, value) * smoothStep(0.35f, 0.6f, bristle(x, y));
        const float deep = burntIn(plan.line(x, y));
        const float pressure = blend(0.7f + 0.5f * pressures.at(u / 26, v / 26), 1.1f, deep);
        const float drawn =
            std::max(std::min(1.0f, 1.25f * plan.line(x, y)), 0.8f * smoothStep(0.25f, 0.7f, borders(x, y))) * pressure;
        ink = std::max(ink, smoothStep(0.2f, 0.6f, drawn) * 0.93f);
        ink = std::clamp(ink + 0.1f * deep, 0.0f, 0.96f + 0.04f * deep);
        const OkLab paper{0.945f, 0.003f, 0.022f};
        // The ink leans to the picture's own dark colour; one tint of the subject stays in.
        const OkLab c = plan.colour(x, y);
        const OkLab black{0.17f, 0.10f * c.a, 0.10f * c.b - 0.006f};
        OkLab mixedInk{blend(paper.l, black.l, ink), blend(paper.a, black.a, ink), blend(paper.b, black.b, ink)};
        const float tint = 0.45f * std::min(1.0f, std::hypot(c.a, c.b) / 0.13f) * (1 - ink) *
                           smoothStep(0.06f, 0.14f, std::hypot(c.a, c.b));
        mixedInk = {blend(mixedInk.l, c.l, 0.5f * tint), blend(mixedInk.a, c.a, tint), blend(mixedInk.b, c.b, tint)};
        out(x, y) = okLabToLinearInGamut(mixedInk);
      }
    }
  });
  return out;
}

Image<Rgb> cutInWood(const Plan& plan, std::uint64_t seed, StopToken stop) {
  const Size size = plan.colour.size();
  const float unitSize = plan.place.unit();
  const auto light = broadBlur(drawnLightnessOf(plan).view(), 1.2f * unitSize);
  const auto borders = contour(plan, 1.4f * unitSize);
  const auto flow = flowAlong(lightnessOf(plan), 9 * unitSize, seed, plan.course, plan.place);
  throwIfStopped(stop);
  const auto gouge = smearedNoise(flow, static_cast<int>(16 * unitSize), 2.6f * unitSize, seed + 1, plan.place);
  throwIfStopped(stop);
  // Two blocks of colour, made of the palette's own: ground tint and key.
  const OkLab key = [&] {
    OkLch c = plan.palette.parts[0];
    c.l = 0.20f;
    c.c = std::min(c.c, 0.06f);
    return okLchToOkLab(c);
  }();
  Image<Rgb> out(size);
  parallelRows(size.height, [&](int first, int end) {
    NoiseWalk wears(seed + 3);
    for (int y = first; y < end; ++y) {
      for (int x = 0; x < size.width; ++x) {
        const float v = light(x, y);
        const float threshold = blend(0.04f, 1.0f, smoothStep(0.22f, 0.74f, v));
        float printed = smoothStep(threshold - 0.07f, threshold + 0.07f, gouge(x, y));
        if (v > 0.80f) printed = 0;
        if (v < 0.25f) printed = std::max(printed, 0.96f);
        printed = std::max(printed, smoothStep(0.25f, 0.5f, std::max(1.3f * plan.line(x, y), 0.9f * borders(x, y))));
        const float wear = 0.92f + 0.16f * wears.at(plan.place.x(x) / 3, plan.place.y(y) / 2);
        printed = std::clamp(printed * wear, 0.0f, 1.0f);
        OkLab tint = plan.colour(x, y);
        tint.l = std::floor(tint.l * 4 + 0.5f) / 4 * 0.55f + 0.42f;
        const OkLab paper{std::min(0.94f, tint.l), tint.a * 0.85f, tint.b * 0.85f + 0.008f};
        const OkLab c{blend(paper.l, key.l, printed), blend(paper.a, key.a, printed), blend(paper.b, key.b, printed)};
        out(x, y) = okLabToLinearInGamut(c);
      }
    }
  });
  return out;
}

Image<Rgb> drawnInPencil(const Plan& plan, std::uint64_t seed, StopToken stop) {
  const Size size = plan.colour.size();
  const float unitSize = plan.place.unit();
  const auto light = broadBlur(drawnLightnessOf(plan).view(), 1.5f * unitSize);
  const auto borders = contour(plan, 1.1f * unitSize);
  const auto flow = flowAlong(lightnessOf(plan), 7 * unitSize, seed, plan.course, plan.place);
  throwIfStopped(stop);
  const auto along = smearedNoise(flow, static_cast<int>(14 * unitSize), 1.3f * unitSize, seed + 1, plan.place);
  // Cross hatches lie at one slant over everything.
  Image<Direction> slant(size.width, size.height, Direction{0.788f, -0.616f});
  const auto across = smearedNoise(slant, static_cast<int>(12 * unitSize), 1.3f * unitSize, seed + 2, plan.place);
  throwIfStopped(stop);
  Image<Rgb> out(size);
  parallelRows(size.height, [&](int first, int end) {
    PaperGrain paperGrain(seed + 3);
    for (int y = first; y < end; ++y) {
      for (int x = 0; x < size.width; ++x) {
        const float v = light(x, y), grain = paperGrain.at(plan.place.x(x), plan.place.y(y));
        const float need = smoothStep(0.92f, 0.18f, v);
        float lead = 0.75f * need * smoothStep(0.25f, 0.85f, along(x, y) + 0.35f * (need - 0.5f));
        lead += 0.55f * smoothStep(0.35f, 0.9f, need) * smoothStep(0.4f, 0.9f, across(x, y));
        lead *= 0.55f + 0.9f * grain;
        const float line =
            std::max(std::min(1.0f, 1.2f * plan.line(x, y)), 0.85f * smoothStep(0.15f, 0.7f, borders(x, y)));
        const float deep = burntIn(plan.line(x, y));
        lead = std::max(lead, line * blend(0.55f + 0.6f * grain, 1.0f, deep));
        lead = std::clamp(lead, 0.0f, 0.9f + 0.1f * deep);
        const OkLab c = plan.colour(x, y);
        const OkLab paper{0.955f + 0.02f * (grain - 0.5f), 0.002f + 0.10f * c.a, 0.014f + 0.10f * c.b};
        const OkLab graphite{0.27f, 0.15f * c.a, 0.15f * c.b - 0.004f};
        out(x, y) = okLabToLinearInGamut(
            {blend(paper.l, graphite.l, lead), blend(paper.a, graphite.a, lead), blend(paper.b, graphite.b, lead)});
      }
    }
  });
  return out;
}

Image<Rgb> photographed(const Plan& plan, std::uint64_t seed, StopToken stop) {
  const Size size = plan.colour.size();
  const float unitSize = plan.place.unit();
  Image<Rgb> sharp(size);
  // A camera draws no outline: what is bounded stands out by a soft dark rim.
  const auto softened = [&](View<float> lines) { return broadBlur(lines, 1.1f * unitSize); };
  Image<float> noMoreThanPlain = plan.line.clone();
  bool burns = false;
  for (int y = 0; y < size.height; ++y)
    for (float& v : noMoreThanPlain.line(y)) {
      burns = burns || v > 1;
      v = std::min(1.0f, v);
    }
  const auto plainRim = softened(noMoreThanPlain);
  const auto rim = burns ? softened(plan.line) : Image<float>();
  parallelRows(size.height, [&](int first, int end) {
    FractalWalk textures(seed, 4);
    for (int y = first; y < end; ++y) {
      for (int x = 0; x < size.width; ++x) {
        OkLab c = plan.colour(x, y);
        const float u = plan.place.x(x) / unitSize, v = plan.place.y(y) / unitSize;
        const float texture = textures.at(u / 7, v / 5) * (0.3f + 0.7f * plan.depth(x, y));
        c.l = std::clamp(c.l + 0.055f * texture, 0.03f, 0.985f);
        const float line = std::min(1.0f, 1.6f * plainRim(x, y));
        const float deep = burns && line > 0.01f ? burntIn(rim(x, y) / plainRim(x, y)) : 0.0f;
        c.l = blend(c.l, c.l > 0.3f ? c.l * blend(0.45f, 0.15f, deep) : c.l + 0.3f, 0.8f * line);
        sharp(x, y) = okLabToLinearInGamut(c);
      }
    }
  });
  throwIfStopped(stop);
  // Focus lies near; the far is soft. Light spreads a little.
  const auto soft = broadBlur(sharp.view(), 2.2f * unitSize);
  const auto glow = broadBlur(soft.view(), 9 * unitSize);
  throwIfStopped(stop);
  Image<Rgb> out(size);
  parallelRows(size.height, [&](int first, int end) {
    for (int y = first; y < end; ++y) {
      for (int x = 0; x < size.width; ++x) {
        const float line = std::min(1.0f, plan.line(x, y));
        const float blur = smoothStep(0.55f, 0.05f, plan.depth(x, y)) * 0.85f * (1 - line);
        Rgb c = sharp(x, y) * (1 - blur) + soft(x, y) * blur;
        c = c + glow(x, y) * 0.08f;
        const float u = (plan.place.x(x) + 0.5f) / static_cast<float>(plan.place.whole.width) - 0.5f;
        const float v = (plan.place.y(y) + 0.5f) / static_cast<float>(plan.place.whole.height) - 0.5f;
        const float corner = 1 - 0.55f * (u * u + v * v);
        const float grain = 1 + 0.045f * signedUnit(mixed(seed, static_cast<std::uint64_t>(plan.place.top + y) * 65536 +
                                                                    static_cast<std::uint64_t>(plan.place.left + x)));
        const auto tone = [&](float value) {
          const float exposed = value * corner * grain * 0.95f;
          return std::clamp(exposed * (1 + 0.15f * exposed) / (0.25f * exposed + 0.9f), 0.0f, 1.0f);
        };
        out(x, y) = {tone(c.r), tone(c.g), tone(c.b)};
      }
    }
  });
  return out;
}

}  // namespace hscaffold::standin
