#include "core/engine/standin/plan.h"

#include <cmath>
#include <numbers>

#include "core/engine/standin/noise.h"
#include "core/image/filter.h"
#include "core/image/parallel.h"

namespace hscaffold::standin {
namespace {

constexpr float degree = std::numbers::pi_v<float> / 180;

struct Scheme {
  Trait time;
  OkLch parts[partCount];
  OkLch skyLow, accent;
  float warm, contrast, glow;
};
// Lightness, chroma, hue in degrees.
constexpr Scheme schemes[] = {
    {Trait::day,
     {{0.80f, 0.075f, 235}, {0.68f, 0.05f, 230}, {0.60f, 0.08f, 150}, {0.72f, 0.08f, 88}, {0.60f, 0.16f, 32}},
     {0.90f, 0.035f, 215},
     {0.42f, 0.09f, 262},
     0.5f,
     1.0f,
     0.3f},
    {Trait::dawn,
     {{0.80f, 0.055f, 300}, {0.64f, 0.06f, 310}, {0.56f, 0.06f, 350}, {0.60f, 0.06f, 45}, {0.52f, 0.12f, 350}},
     {0.89f, 0.085f, 65},
     {0.80f, 0.11f, 75},
     0.8f,
     0.85f,
     0.7f},
    {Trait::dusk,
     {{0.44f, 0.09f, 292}, {0.37f, 0.08f, 300}, {0.36f, 0.07f, 330}, {0.42f, 0.09f, 20}, {0.74f, 0.14f, 70}},
     {0.72f, 0.14f, 48},
     {0.33f, 0.08f, 265},
     0.9f,
     1.05f,
     0.9f},
    {Trait::night,
     {{0.27f, 0.07f, 268}, {0.23f, 0.05f, 262}, {0.24f, 0.05f, 235}, {0.32f, 0.05f, 255}, {0.58f, 0.09f, 60}},
     {0.40f, 0.07f, 250},
     {0.80f, 0.12f, 88},
     -0.6f,
     0.85f,
     0.5f}};

OkLab labOf(OkLch c) { return okLchToOkLab({c.l, c.c, c.h * degree}); }

OkLab mix(OkLab a, OkLab b, float t) { return {blend(a.l, b.l, t), blend(a.a, b.a, t), blend(a.b, b.b, t)}; }

/// A place between two pixels of one axis, as `sampleLinear` sees it.
struct Between {
  int first, second;
  float share;
  Between(float at, int size) {
    const float from = std::floor(at - 0.5f);
    share = at - 0.5f - from;
    first = std::clamp(static_cast<int>(from), 0, size - 1);
    second = std::clamp(static_cast<int>(from) + 1, 0, size - 1);
  }
};

void pullTowards(OkLch& colour, OkLch goal, float strength, float lightnessShare) {
  if (strength <= 0) return;
  const float t = std::min(1.0f, strength);
  const float lightness = blend(colour.l, goal.l, t * lightnessShare);
  const OkLch mixed = okLabToOkLch(mix(okLchToOkLab(colour), okLchToOkLab(goal), t));
  // A mix of opposite hues goes through grey; the wish is for the goal's hue with its chroma.
  colour = {lightness, blend(mixed.c, blend(colour.c, goal.c, t), 0.7f), t > 0.5f ? goal.h : mixed.h};
}

void turnHue(OkLch& colour, float degrees) { colour.h += degrees * degree; }

void applySeason(Palette& p, const Wishes& w) {
  const auto shift = [&](Trait trait, Part part, OkLch goal, float most) {
    goal.h *= degree;
    pullTowards(p.parts[static_cast<std::size_t>(part)], goal, most * std::max(0.0f, w[trait]), 0.5f);
  };
  shift(Trait::spring, Part::middle, {0.70f, 0.12f, 135}, 0.5f);
  shift(Trait::spring, Part::ground, {0.76f, 0.11f, 125}, 0.35f);
  shift(Trait::summer, Part::middle, {0.56f, 0.12f, 140}, 0.4f);
  shift(Trait::summer, Part::ground, {0.78f, 0.12f, 95}, 0.3f);
  shift(Trait::autumn, Part::middle, {0.54f, 0.13f, 50}, 0.6f);
  shift(Trait::autumn, Part::ground, {0.58f, 0.11f, 65}, 0.5f);
  shift(Trait::winter, Part::middle, {0.72f, 0.03f, 240}, 0.6f);
  shift(Trait::winter, Part::ground, {0.90f, 0.015f, 240}, 0.65f);
}

/// Snow lies over whatever is there, as light as the hour lets it be.
void applySnow(Palette& p, const Wishes& w) {
  const float snow = std::clamp(std::max(w[Trait::snow], 0.6f * w[Trait::winter]), 0.0f, 1.0f);
  const float hour = p.parts[0].l;
  for (const auto& [part, most] : {std::pair{Part::ground, 0.9f}, {Part::middle, 0.6f}})
    pullTowards(p.parts[static_cast<std::size_t>(part)],
                {blend(0.62f, 0.95f, smoothStep(0.25f, 0.75f, hour)), 0.02f, 245 * degree}, most * snow, 0.9f);
}

void applyPlace(Palette& p, const Wishes& w) {
  const auto shift = [&](Trait trait, Part part, OkLch goal, float most) {
    auto& colour = p.parts[static_cast<std::size_t>(part)];
    goal.h *= degree;
    const float before = colour.l;
    pullTowards(colour, goal, most * std::clamp(w[trait], 0.0f, 1.0f), 0.25f);
    // The time of day keeps its say in how light things are.
    colour.l = blend(colour.l, before, 0.4f);
  };
  shift(Trait::sea, Part::middle, {0.56f, 0.085f, 215}, 0.8f);
  shift(Trait::river, Part::middle, {0.60f, 0.07f, 210}, 0.7f);
  shift(Trait::dune, Part::ground, {0.78f, 0.085f, 62}, 0.75f);
  shift(Trait::dune, Part::middle, {0.70f, 0.075f, 70}, 0.4f);
  shift(Trait::field, Part::ground, {0.70f, 0.12f, 118}, 0.6f);
  shift(Trait::forest, Part::middle, {0.40f, 0.08f, 150}, 0.7f);
  shift(Trait::forest, Part::ground, {0.50f, 0.08f, 125}, 0.5f);
  shift(Trait::mountain, Part::far, {0.55f, 0.06f, 265}, 0.5f);
  shift(Trait::town, Part::middle, {0.60f, 0.07f, 45}, 0.5f);
  shift(Trait::room, Part::sky, {0.62f, 0.06f, 70}, 0.7f);
  shift(Trait::room, Part::ground, {0.48f, 0.07f, 55}, 0.7f);
  const auto subject = [&](Trait trait, OkLch goal) { shift(trait, Part::subject, goal, 0.7f); };
  subject(Trait::wood, {0.52f, 0.09f, 60});
  subject(Trait::stone, {0.66f, 0.02f, 80});
  subject(Trait::metal, {0.62f, 0.03f, 245});
  subject(Trait::glass, {0.78f, 0.05f, 200});
  subject(Trait::paper, {0.90f, 0.03f, 85});
  subject(Trait::tree, {0.46f, 0.10f, 140});
  subject(Trait::rock, {0.50f, 0.03f, 60});
  subject(Trait::animal, {0.52f, 0.11f, 52});
  subject(Trait::horse, {0.42f, 0.08f, 48});
  subject(Trait::bird, {0.84f, 0.02f, 90});
  subject(Trait::boat, {0.46f, 0.09f, 45});
  subject(Trait::arch, {0.66f, 0.04f, 75});
}

/// The second colour lies to the first as colours do that go together: opposite, beside the opposite, or near.
void harmonise(Palette& p, const Wishes& w) {
  if (w.accent.strength > 0) return;
  const float from = p.parts[static_cast<std::size_t>(Part::subject)].h;
  float best = 0, least = 10;
  for (const float interval : {180.0f, 150.0f, -150.0f, 30.0f, -30.0f}) {
    const float distance = std::abs(std::remainder(from + interval * degree - p.accent.h, 360 * degree));
    if (distance < least) {
      least = distance;
      best = from + interval * degree;
    }
  }
  p.accent.h = best;
}

}  // namespace

Palette paletteFrom(const Wishes& w, std::uint64_t seed) {
  Palette p;
  // Times of day mix by how much each was asked for; unasked, the seed picks one, mostly day.
  std::array<float, 4> weights{};
  float total = 0;
  for (std::size_t i = 0; i < 4; ++i) {
    weights[i] = std::max(0.0f, w[schemes[i].time]);
    total += weights[i];
  }
  // A clear sky and the light seasons speak of the day where no hour is named.
  if (total < 0.1f)
    weights[0] += std::max(0.0f, w[Trait::clear]) + 0.4f * std::max(0.0f, std::max(w[Trait::spring], w[Trait::summer]));
  total = std::max(total, weights[0]);
  const float chance = unit(mixed(seed, 3));
  const std::size_t chosen = chance < 0.55f ? 0 : chance < 0.72f ? 1 : chance < 0.9f ? 2 : 3;
  weights[chosen] += std::max(0.02f, 0.5f - total);
  total = weights[0] + weights[1] + weights[2] + weights[3];
  std::array<OkLab, partCount> parts{};
  OkLab skyLow{}, accent{};
  p.contrast = p.glow = 0;
  for (std::size_t i = 0; i < 4; ++i) {
    const float t = weights[i] / total;
    const auto add = [t](OkLab& to, OkLch from) {
      const OkLab lab = labOf(from);
      to = {to.l + t * lab.l, to.a + t * lab.a, to.b + t * lab.b};
    };
    for (std::size_t k = 0; k < partCount; ++k) add(parts[k], schemes[i].parts[k]);
    add(skyLow, schemes[i].skyLow);
    add(accent, schemes[i].accent);
    p.warmLight += t * schemes[i].warm;
    p.contrast += t * schemes[i].contrast;
    p.glow += t * schemes[i].glow;
  }
  for (std::size_t k = 0; k < partCount; ++k) p.parts[k] = okLabToOkLch(parts[k]);
  p.skyLow = okLabToOkLch(skyLow);
  p.accent = okLabToOkLch(accent);

  // The seed and unknown words turn hues: a little everywhere, more in subject and middle band.
  const std::uint64_t dice = mixed(seed, w.unknown + w.manner, 11);
  const float turn = (w.others > 0 ? 26.0f : 16.0f) * signedUnit(dice);
  for (auto& part : p.parts) turnHue(part, turn);
  turnHue(p.parts[2], 30 * signedUnit(mixed(dice, 1)));
  turnHue(p.parts[4], 45 * signedUnit(mixed(dice, 2)));
  turnHue(p.accent, 60 * signedUnit(mixed(dice, 3)));

  applySeason(p, w);
  applyPlace(p, w);
  applySnow(p, w);
  harmonise(p, w);
  // Living things have a second colour of their own: leaves, bark, fur.
  const auto second = [&](Trait trait, OkLch goal) {
    goal.h *= degree;
    pullTowards(p.accent, goal, 0.9f * std::clamp(w[trait], 0.0f, 1.0f), 0.6f);
  };
  second(Trait::flower, {0.52f, 0.11f, 138});
  second(Trait::tree, {0.36f, 0.05f, 55});
  second(Trait::animal, {0.40f, 0.08f, 48});
  second(Trait::horse, {0.26f, 0.04f, 45});
  second(Trait::bird, {0.36f, 0.02f, 250});
  if (w.general.strength > 0) {
    for (std::size_t k = 0; k < partCount; ++k) {
      constexpr float share[partCount] = {0.45f, 0.5f, 0.5f, 0.6f, 0.75f};
      pullTowards(p.parts[k], w.general.colour, share[k] * w.general.strength, 0.25f);
    }
    pullTowards(p.skyLow, w.general.colour, 0.35f * w.general.strength, 0.1f);
    p.accent = {p.accent.l, std::max(p.accent.c, 0.09f), w.general.colour.h + 180 * degree};
  }
  pullTowards(p.accent, w.accent.colour, 0.95f * w.accent.strength, 0.6f);
  for (std::size_t k = 0; k < partCount; ++k)
    pullTowards(p.parts[k], w.colours[k].colour, 0.95f * w.colours[k].strength, 0.6f);
  if (w.colours[0].strength > 0) pullTowards(p.skyLow, w.colours[0].colour, 0.5f * w.colours[0].strength, 0.2f);

  float chroma = 1 + 0.35f * w[Trait::vivid] + 0.12f * w[Trait::summer] - 0.45f * w[Trait::muted] -
                 0.25f * w[Trait::winter] - 0.35f * w[Trait::fog] - 0.25f * w[Trait::rain] - 0.15f * w[Trait::cloud] -
                 0.2f * w[Trait::storm];
  chroma = std::clamp(chroma, 0.04f, 1.7f);
  const float lift = 0.06f * w[Trait::bright] - 0.09f * w[Trait::dark] - 0.08f * w[Trait::storm] -
                     0.03f * w[Trait::rain] + 0.03f * w[Trait::fog];
  const float warm = 12 * (w[Trait::warm] - w[Trait::cool]);
  const auto adjust = [&](OkLch& c) {
    c.c *= chroma;
    c.l = std::clamp(c.l + lift, 0.12f, 0.96f);
    if (warm != 0) pullTowards(c, {c.l, std::max(c.c, 0.06f), (warm > 0 ? 60 : 245) * degree}, std::abs(warm) / 40, 0);
  };
  for (auto& part : p.parts) adjust(part);
  adjust(p.skyLow);
  adjust(p.accent);
  for (std::size_t b = 0; b < p.bands.size(); ++b) {
    p.bands[b] = p.parts[4];
    pullTowards(p.bands[b], w.bands[b].colour, 1, 0.6f);
    p.bandShares[b] = std::min(1.0f, 0.95f * w.bands[b].strength);
  }
  // What nobody asked for is not the loudest.
  if (w.colours[4].strength <= 0 && w.general.strength <= 0) p.parts[4].c = std::min(p.parts[4].c, 0.14f);
  if (w.accent.strength <= 0) p.accent.c = std::min(p.accent.c, 0.12f);
  p.parts[0].l = std::clamp(p.parts[0].l - 0.12f * std::max(0.0f, w[Trait::storm]), 0.1f, 1.0f);
  p.haze = std::clamp(0.30f + 0.6f * w[Trait::fog] + 0.15f * w[Trait::rain] + 0.1f * w[Trait::soft] -
                          0.15f * w[Trait::crisp] - 0.1f * w[Trait::clear],
                      0.05f, 0.95f);
  p.contrast *=
      std::clamp(1 + 0.3f * w[Trait::wild] + 0.2f * w[Trait::clear] + 0.2f * w[Trait::crisp] - 0.45f * w[Trait::fog] -
                     0.2f * w[Trait::soft] - 0.15f * w[Trait::cloud] - 0.15f * w[Trait::calm],
                 0.35f, 1.6f);
  p.glow *= std::clamp(
      1 - 0.7f * w[Trait::cloud] - 0.8f * w[Trait::storm] - 0.5f * w[Trait::fog] - 0.6f * w[Trait::room], 0.0f, 1.0f);
  return p;
}

float toneReach(const Palette& palette, float inSky) { return palette.contrast * (0.17f + 0.05f * (1 - inSky)); }

/// How much each part has of a place. Memberships are sharpened, so that soft fields make clear masses.
template <typename Member>
std::array<float, partCount> sharesOf(Member&& member) {
  std::array<float, partCount> share;
  float sum = 0;
  for (std::size_t p = 0; p < partCount; ++p) {
    const float m = std::clamp(member(p), 0.0f, 1.0f);
    share[p] = m * m * m * m + 1e-5f;
    sum += share[p];
  }
  for (float& s : share) s /= sum;
  return share;
}

/// From where to where the subject reaches from top to bottom; a few stray places left out.
ThingPlace subjectPlace(const Fields& fields) {
  const Image<float>& subject = fields.part(4);
  std::vector<double> sums(static_cast<std::size_t>(subject.height()));
  double all = 0;
  for (int y = 0; y < subject.height(); ++y)
    for (const float share : subject.line(y)) {
      const double much = static_cast<double>(std::max(0.0f, share - 0.4f));
      sums[static_cast<std::size_t>(y)] += much;
      all += much;
    }
  const auto rowAt = [&](double part) {
    double gone = 0;
    for (std::size_t y = 0; y < sums.size(); ++y)
      if ((gone += sums[y]) >= part * all) return static_cast<float>(y) / static_cast<float>(sums.size());
    return 1.0f;
  };
  ThingPlace out;
  if (all > 0) out.top = rowAt(0.01), out.bottom = rowAt(0.97);
  return out;
}

/// How much of a band lies at a place of a thing.
float bandAt(std::size_t band, const ThingPlace& thing, float u, float v) {
  if (u < thing.left || u > thing.right) return 0;
  const float down = (v - thing.top) / std::max(0.02f, thing.bottom - thing.top);
  const float upper = smoothStep(thing.upperEnds - 0.05f, thing.upperEnds + 0.05f, down),
              lower = smoothStep(0.64f, 0.74f, down);
  // What stands over or under it is another thing.
  const float within = thing.left > 0 || thing.right < 1 ? smoothStep(-0.05f, 0, down) * smoothStep(1.05f, 1, down) : 1;
  return within * (band == 0 ? 1 - upper : band == 1 ? upper * (1 - lower) : lower);
}

Plan planFrom(const Fields& fields, const Composition& composition, const Palette& palette, Size size) {
  return planFrom(fields, composition, palette, size, boxOf(size));
}

Plan planFrom(const Fields& fields, const Composition& composition, const Palette& palette, Size whole,
              const Box& part) {
  const Size size = part.size();
  Plan plan;
  plan.place = {whole, part.left, part.top};
  plan.colour = Image<OkLab>(size);
  plan.line = Image<float>(size);
  plan.depth = Image<float>(size);
  plan.course = {Image<float>(size), Image<float>(size)};
  plan.dab = Image<float>(size);
  plan.palette = palette;
  plan.lightX = composition.lightX;
  plan.lightY = composition.lightY;
  std::array<OkLab, partCount> parts;
  for (std::size_t p = 0; p < partCount; ++p) parts[p] = okLchToOkLab(palette.parts[p]);
  const OkLab skyLow = okLchToOkLab(palette.skyLow), accent = okLchToOkLab(palette.accent);
  std::array<OkLab, static_cast<std::size_t>(Band::count)> bands{};
  for (std::size_t b = 0; b < bands.size(); ++b) bands[b] = okLchToOkLab(palette.bands[b]);
  const bool banded = std::any_of(palette.bandShares.begin(), palette.bandShares.end(), [](float s) { return s > 0; });
  const ThingPlace thing = !banded ? ThingPlace{} : composition.named ? *composition.named : subjectPlace(fields);
  const float sx = static_cast<float>(fields.size().width) / static_cast<float>(whole.width);
  const float sy = static_cast<float>(fields.size().height) / static_cast<float>(whole.height);
  const float aspect = static_cast<float>(whole.width) / static_cast<float>(whole.height);
  parallelRows(size.height, [&](int first, int end) {
    NoiseWalk dabs(0xdab);
    for (int y = first; y < end; ++y) {
      const float v = (plan.place.y(y) + 0.5f) / static_cast<float>(whole.height);
      const Between down((plan.place.y(y) + 0.5f) * sy, fields.size().height);
      for (int x = 0; x < size.width; ++x) {
        const float u = (plan.place.x(x) + 0.5f) / static_cast<float>(whole.width);
        const float fx = (plan.place.x(x) + 0.5f) * sx;
        std::array<float, Fields::count> at;
        // All fields are asked at one place: where it lies among their pixels is found once.
        const Between across(fx, fields.size().width);
        for (std::size_t i = 0; i < Fields::count; ++i) {
          const float* above = fields.all[i].row(down.first);
          const float* below = fields.all[i].row(down.second);
          at[i] = blend(blend(above[across.first], above[across.second], across.share),
                        blend(below[across.first], below[across.second], across.share), down.share);
        }
        const auto share = sharesOf([&](std::size_t p) { return at[4 + p]; });
        const float height = std::clamp(v / std::max(0.1f, composition.horizon), 0.0f, 1.0f);
        const OkLab sky = mix(parts[0], skyLow, height * height * 0.9f);
        OkLab colour{0, 0, 0};
        for (std::size_t p = 0; p < partCount; ++p) {
          const OkLab c = p == 0 ? sky : parts[p];
          const float t = share[p];
          colour = {colour.l + t * c.l, colour.a + t * c.a, colour.b + t * c.b};
        }
        const float inSky = share[0], inSubject = share[4];
        // The subject has two colours, chosen by the accent field; elsewhere the field leans the hue.
        colour = mix(colour, accent, inSubject * smoothStep(0.05f, 0.45f, at[2]) * 0.9f);
        if (banded && inSubject > 0.02f)
          for (std::size_t b = 0; b < palette.bands.size(); ++b) {
            const float much = inSubject * palette.bandShares[b] * bandAt(b, thing, u, v);
            colour = mix(colour, bands[b], much);
          }
        const float darker = inSubject * smoothStep(0.25f, 0.8f, -at[2]);
        colour.l *= 1 - 0.38f * darker;
        const float lean = (1 - inSubject) * std::clamp(at[2], -1.2f, 1.2f);
        const float cosine = std::cos(0.30f * lean), sine = std::sin(0.30f * lean);
        colour = {colour.l + 0.03f * lean, colour.a * cosine - colour.b * sine, colour.a * sine + colour.b * cosine};

        // Values: tone about the part's own, drawn towards a few steps so that masses read from afar.
        float value = colour.l + toneReach(palette, inSky) * std::clamp(at[0], -mostTone, mostTone);
        const float stepped = (std::floor(value * 6) + smoothStep(0.3f, 0.7f, value * 6 - std::floor(value * 6))) / 6;
        value = blend(value, stepped, 0.55f * (1 - 0.5f * inSky));
        const float light = std::clamp(at[0], -1.0f, 1.0f) * palette.warmLight;
        colour = {std::clamp(value, 0.06f, 0.97f), colour.a + 0.010f * light, colour.b + 0.030f * light};

        // Light or dark beyond what a picture has of itself was asked for: neither haze nor the sun takes it away.
        const float asked = smoothStep(1.0f, 1.8f, std::abs(at[0]));
        // The far takes on the sky's colour and loses chroma and contrast.
        const float far =
            (1 - inSky) * palette.haze * std::pow(1 - std::clamp(at[1], 0.0f, 1.0f), 1.6f) * (1 - 0.85f * asked);
        colour = mix(colour, skyLow, std::min(0.9f, far));
        // Sun or moon with its light round it.
        const float dx = (u - composition.sunX) * aspect, dy = v - composition.sunY;
        const float distance = std::sqrt(dx * dx + dy * dy);
        const float disc = smoothStep(0.036f, 0.030f, distance) + 0.35f * std::exp(-distance * 7);
        const OkLab lamp{0.95f, 0.01f * palette.warmLight, 0.07f * palette.warmLight + 0.02f};
        colour = mix(colour, lamp, std::min(1.0f, inSky * palette.glow * disc) * (1 - asked));
        if (palette.tints) {
          const auto tint = [&](const Image<float>& of) {
            const float *above = of.row(down.first), *below = of.row(down.second);
            return blend(blend(above[across.first], above[across.second], across.share),
                         blend(below[across.first], below[across.second], across.share), down.share);
          };
          const float left = 1 - tint(palette.tints->share);
          colour.a = left * colour.a + tint(palette.tints->a);
          colour.b = left * colour.b + tint(palette.tints->b);
        }
        if (palette.grading) colour = mix(colour, palette.grading->transport(colour), palette.grading->strength);
        plan.colour(x, y) = colour;
        plan.line(x, y) = std::clamp(at[3], 0.0f, 1.5f);
        plan.depth(x, y) = std::clamp(at[1], 0.0f, 1.0f);
        // Dabs go every way.
        const float dab = std::clamp(at[Fields::dabs], 0.0f, 1.0f);
        const float turn = dab > 0.05f ? 6.2831853f * dabs.at(u * aspect * 42, v * 42) : 0;
        plan.course.x(x, y) = std::clamp(blend(at[Fields::courseX], std::cos(turn), dab), -1.0f, 1.0f);
        plan.course.y(x, y) = std::clamp(blend(at[Fields::courseY], std::sin(turn), dab), -1.0f, 1.0f);
        plan.dab(x, y) = dab;
      }
    }
  });
  return plan;
}

Image<float> toneFor(View<float> lightness, const Composition& picture, const Palette& palette) {
  // What the picture comes to at either end of tone: between them lightness goes nearly straight.
  const Size size = picture.fields.size();
  Composition lit = picture.clone();
  const auto lightnessAt = [&](float tone) {
    for (int y = 0; y < size.height; ++y)
      for (float& value : lit.fields.tone().line(y)) value = tone;
    return planFrom(lit.fields, lit, palette, size).colour;
  };
  constexpr float reach = 1;
  const auto dark = lightnessAt(-reach), light = lightnessAt(reach);
  Image<float> tone(size);
  for (int y = 0; y < size.height; ++y)
    for (int x = 0; x < size.width; ++x) {
      const float from = dark(x, y).l, step = std::max(0.02f, light(x, y).l - from);
      tone(x, y) = std::clamp(reach * (2 * (lightness(x, y) - from) / step - 1), -mostTone, mostTone);
    }
  return tone;
}

}  // namespace hscaffold::standin
