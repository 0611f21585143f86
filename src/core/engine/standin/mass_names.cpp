#include "core/engine/standin/mass_names.h"

#include <algorithm>
#include <cmath>
#include <numeric>

#include "core/engine/standin/noise.h"
#include "core/groups.h"

namespace hscaffold::standin {
namespace {

constexpr std::size_t sky = 0, ground = 3, thing = 4;

struct Neighbour {
  std::size_t mass;
  double length;  ///< of the border, in pixels
  const MassBorder* border;
};
using Neighbours = std::vector<std::vector<Neighbour>>;

Neighbours neighboursOf(const Masses& masses) {
  Neighbours out(masses.all.size());
  for (const MassBorder& border : masses.borders) {
    const auto length = static_cast<double>(border.pixels.size());
    const auto a = static_cast<std::size_t>(border.a), b = static_cast<std::size_t>(border.b);
    out[a].push_back({b, length, &border});
    out[b].push_back({a, length, &border});
  }
  return out;
}

double shareOf(const Mass& mass, const Masses& masses) {
  return mass.area / static_cast<double>(masses.label.size().area());
}

/// Whether it is land or sky that goes on beyond the frame.
bool goesOn(const Masses& masses, std::size_t i) { return isOpenLand(masses.all[i], shareOf(masses.all[i], masses)); }

/// How much broader than high.
double flatnessOf(const Mass& mass) {
  return static_cast<double>(mass.box.right - mass.box.left + 1) / (mass.box.bottom - mass.box.top + 1);
}

/// A number of its own for where a mass lies, the same for masses that differ by a few pixels.
std::uint64_t placeOf(double x, double y) {
  const auto cell = [](double v) { return static_cast<std::uint64_t>(v / 16 + 0.5); };
  return cell(x) * 64 + cell(y);
}
std::uint64_t placeOf(const Mass& mass) { return placeOf(mass.x / mass.area, mass.y / mass.area); }

/// What a mass is by itself: from where it lies, how large it is, and what the prompt would have put there.
void nameAlone(Mass& mass, Size size) {
  const double share = mass.area / static_cast<double>(size.area());
  const double cy = mass.y / mass.area / size.height;
  for (std::size_t i = 0; i < Fields::count; ++i) mass.wanted[i] = static_cast<float>(mass.sums[i] / mass.area);
  std::array<float, partCount> score{};
  for (std::size_t p = 0; p < partCount; ++p) score[p] = mass.wanted[4 + p];
  if (mass.top && !mass.bottom && share > 0.04) score[sky] += cy < 0.5 ? 0.9f : 0.4f;
  if (mass.bottom && !mass.top && share > 0.04) score[ground] += cy > 0.5 ? 0.9f : 0.4f;
  // Small closed pieces are things; larger ones may as well be openings between things.
  if (mass.enclosed()) score[thing] += 1.2f - 1.1f * smoothStep(0.006f, 0.035f, static_cast<float>(share));
  if (!mass.top && !mass.bottom && !mass.enclosed()) score[cy < 0.55 ? 1 : 2] += 0.35f;
  if (!mass.enclosed() && share < 0.04) score[thing] += 0.35f;
  // Foliage, or rubble on the ground.
  if (mass.dense) score[cy > (mass.bottom ? 0.6 : 0.72) ? ground : thing] += 1.5f;
  float total = 0;
  for (float& s : score) {
    s = std::pow(std::max(s, 0.0f), 4.0f);
    total += s;
  }
  for (std::size_t p = 0; p < partCount; ++p) mass.wanted[4 + p] = score[p] / std::max(total, 1e-6f);
  mass.wanted[1] = 0.8f * mass.wanted[1] + 0.2f * (mass.enclosed() ? 0.85f : static_cast<float>(cy));
}

void becomes(Mass& mass, std::size_t part) {
  for (std::size_t p = 0; p < partCount; ++p) mass.wanted[4 + p] = p == part ? 1.0f : 0.0f;
}

/// What stands free before land or sky that goes on beyond the frame is a thing, however large.
void nameWhatStandsFree(Masses& masses, const Neighbours& beside) {
  for (std::size_t i = 0; i < masses.all.size(); ++i) {
    Mass& mass = masses.all[i];
    if (!mass.enclosed() || shareOf(mass, masses) > 0.15 || flatnessOf(mass) > 2.2) continue;
    double border = 0, free = 0;
    for (const Neighbour& n : beside[i]) {
      border += n.length;
      if (!masses.all[n.mass].enclosed() && !masses.all[n.mass].dense) free += n.length;
    }
    if (free > 0.55 * border) becomes(mass, thing);
  }
}

/// Clouds in the sky, and patches and slivers on the land: what lies flat within one part belongs to it.
void nameByNeighbours(Masses& masses, const Neighbours& beside) {
  for (int round = 0; round < 2; ++round)
    for (std::size_t i = 0; i < masses.all.size(); ++i) {
      Mass& mass = masses.all[i];
      if (mass.wanted[4 + thing] < 0.4f || mass.dense) continue;
      std::array<double, partCount> along{};
      double border = 0;
      for (const Neighbour& n : beside[i]) {
        border += n.length;
        for (std::size_t p = 0; p < partCount; ++p)
          along[p] += n.length * static_cast<double>(masses.all[n.mass].wanted[4 + p]);
      }
      if (border <= 0) continue;
      const double width = mass.box.right - mass.box.left + 1, flat = flatnessOf(mass);
      const double filled = mass.area / (width * width / flat);
      const double share = shareOf(mass, masses);
      const double inSky = along[sky] / border;
      if (inSky > 0.6 && flat > 1.9 && share > 0.0025) {
        becomes(mass, sky);
        mass.wanted[1] = 0;
        continue;
      }
      const auto most = static_cast<std::size_t>(std::max_element(along.begin() + 1, along.end() - 1) - along.begin());
      if (flat > 4 || (along[most] / border > 0.55 && (flat > 2.8 || (filled < 0.35 && flat > 1.5))))
        becomes(mass, most);
    }
}

/// What lies between the sky and a thing, as a roof does on its walls, is of the thing, however flat.
void nameWhatLiesOnThings(Masses& masses, const Neighbours& beside) {
  constexpr double underSky = 0.2, onThing = 0.1, onLand = 0.25;  // of its border
  for (int round = 0; round < 2; ++round)
    for (std::size_t i = 0; i < masses.all.size(); ++i) {
      Mass& mass = masses.all[i];
      if (!mass.enclosed() || mass.dense || mass.wanted[4 + thing] > 0.5f || shareOf(mass, masses) > 0.06) continue;
      double border = 0, above = 0, under = 0, land = 0;
      for (const Neighbour& n : beside[i]) {
        const Mass& other = masses.all[n.mass];
        const auto share = [&](std::size_t part) { return n.length * static_cast<double>(other.wanted[4 + part]); };
        border += n.length;
        if (!other.enclosed()) above += share(sky);
        if (other.y / other.area > mass.y / mass.area) under += share(thing);
        land += n.length - share(sky) - share(thing);
      }
      if (above > underSky * border && under > onThing * border && land < onLand * border) becomes(mass, thing);
    }
}

/// What borders on land or sky that goes on, and is the same, is seen through: between a string and the ground, say.
void findOpenings(Masses& masses, const Neighbours& beside) {
  for (std::size_t i = 0; i < masses.all.size(); ++i) {
    Mass& mass = masses.all[i];
    if (!mass.enclosed() || mass.dense || mass.wanted[4 + thing] > 0.4f || flatnessOf(mass) > 1.9) continue;
    double border = 0, open = 0;
    for (const Neighbour& n : beside[i]) {
      border += n.length;
      if (goesOn(masses, n.mass)) open += n.length;
    }
    mass.opening = open > 0.35 * border;
  }
}

/// Things: small masses side by side are one.
struct Things {
  std::vector<int> of;  ///< of each mass, or -1
  struct Thing {
    double area = 0, x = 0, y = 0, across = 0;  ///< pixels; the middle; a half of its size
  };
  std::vector<Thing> all;
};

Things thingsOf(const Masses& masses, const Neighbours& beside) {
  const std::size_t count = masses.all.size();
  Groups groups(count);
  const auto is = [&](std::size_t i) { return masses.all[i].wanted[4 + thing] > 0.5f; };
  for (std::size_t i = 0; i < count; ++i) {
    double round = 0;
    for (const Neighbour& n : beside[i]) round += n.length;
    for (const Neighbour& n : beside[i])
      if (is(i) && is(n.mass) && n.length > 0.12 * round) groups.join(i, n.mass);
  }
  Things out;
  out.of.assign(count, -1);
  std::vector<int> number(count, -1);
  for (std::size_t i = 0; i < count; ++i) {
    if (!is(i)) continue;
    int& n = number[groups.of(i)];
    if (n < 0) {
      n = static_cast<int>(out.all.size());
      out.all.emplace_back();
    }
    out.of[i] = n;
    Things::Thing& whole = out.all[static_cast<std::size_t>(n)];
    whole.area += masses.all[i].area;
    whole.x += masses.all[i].x;
    whole.y += masses.all[i].y;
  }
  for (Things::Thing& whole : out.all) {
    whole.x /= whole.area;
    whole.y /= whole.area;
    whole.across = std::sqrt(whole.area) / 2;
  }
  return out;
}

/// L of OKLab of the sky. @param down  how far to the horizon, [0, 1]
float skyAt(const Palette& palette, float down) {
  down = std::clamp(down, 0.0f, 1.0f);
  return blend(palette.parts[sky].l, palette.skyLow.l, 0.9f * down * down);
}

/// L of OKLab of the prompt's own composition along a border.
float lightnessAlong(const MassBorder& border, const Composition& place, const Palette& palette) {
  const Fields& fields = place.fields;
  const int width = fields.size().width;
  float sum = 0;
  for (const std::int32_t at : border.pixels) {
    const int x = at % width, y = at / width;
    const float down = static_cast<float>(y) / static_cast<float>(fields.size().height);
    for (std::size_t p = 0; p < partCount; ++p)
      sum += fields.part(p)(x, y) * (p == sky ? skyAt(palette, down / place.horizon) : palette.parts[p].l);
    sum += toneReach(palette, fields.part(sky)(x, y)) * fields.tone()(x, y);
  }
  return sum / static_cast<float>(std::max<std::size_t>(1, border.pixels.size()));
}

/// L of OKLab that a mass has at tone 0, as the plan will paint it.
float lightnessOf(const Mass& mass, const Palette& palette, float horizon, Size size) {
  const auto cy = static_cast<float>(mass.y / mass.area / size.height);
  float out = 0, total = 0;
  for (std::size_t p = 0; p < partCount; ++p) {
    const float share = mass.wanted[4 + p];
    float here = p == sky ? skyAt(palette, cy / horizon) : palette.parts[p].l;
    if (p == thing)
      here = blend(here, palette.accent.l, 0.9f * smoothStep(0.05f, 0.45f, mass.wanted[2])) *
             (1 - 0.38f * smoothStep(0.25f, 0.8f, -mass.wanted[2]));
    out += share * here;
    total += share;
  }
  return out / std::max(total, 1e-6f);
}

/// Colours: a thing has one of its own, and perhaps a piece of a second; land and sky lean a little.
void giveColours(Masses& masses, const Things& things, std::uint64_t seed) {
  for (std::size_t i = 0; i < masses.all.size(); ++i) {
    Mass& mass = masses.all[i];
    const double share = shareOf(mass, masses);
    if (mass.opening) continue;
    const std::uint64_t dice = mixed(seed, placeOf(mass), 2);
    const float lean = signedUnit(dice);
    if (things.of[i] < 0) {
      // Few masses have the second colour: a picture has one accent.
      const auto small = static_cast<float>(std::clamp(1.2 - share * 6, 0.25, 1.0));
      mass.wanted[2] = 0.3f * mass.wanted[2] + 0.6f * small * lean * std::abs(lean);
      continue;
    }
    const auto& whole = things.all[static_cast<std::size_t>(things.of[i])];
    const std::uint64_t own = mixed(seed, placeOf(whole.x, whole.y), 21);
    const double part = mass.area / whole.area;
    // Things lean to the dark side of their colour or not at all; a few small ones are all accent.
    float colour = -0.45f * unit(own);
    const bool allAccent = whole.area < 0.004 * static_cast<double>(masses.label.size().area());
    if (mass.dense)
      colour *= 0.5f;
    else if (allAccent ? unit(mixed(own, 1)) < 0.3f : part < 0.3 && unit(dice) < 0.22f)
      colour = 0.5f;
    mass.wanted[2] = colour + (colour < 0.1f ? 0.06f * lean : 0.0f);
  }
}

/// Strokes: things by what they are made of, what is dense in dabs.
void giveStrokes(Masses& masses, const Handling& things) {
  for (Mass& mass : masses.all) {
    const float share = mass.wanted[4 + thing];
    const auto over = [&](std::size_t field, float value) {
      mass.wanted[field] = blend(mass.wanted[field], value, share);
    };
    over(Fields::courseX, things.courseX);
    over(Fields::courseY, things.courseY);
    over(Fields::dabs, mass.dense ? std::max(0.8f, things.dab) : things.dab);
  }
}

/// Values, so that things stand out from what is behind them and neighbours can be told apart: the largest choose
/// first.
void giveValues(Masses& masses, const Neighbours& beside, const Things& things, const Composition& place,
                const Palette& palette, std::uint64_t seed) {
  const std::size_t count = masses.all.size();
  const Size size = masses.label.size();
  const Point light{static_cast<double>(place.lightX), static_cast<double>(place.lightY)};
  std::vector<std::size_t> order(count);
  std::iota(order.begin(), order.end(), std::size_t{0});
  std::stable_sort(order.begin(), order.end(),
                   [&](std::size_t a, std::size_t b) { return masses.all[a].area > masses.all[b].area; });
  std::vector<float> lightness(count), reach(count);
  for (std::size_t i = 0; i < count; ++i) {
    lightness[i] = lightnessOf(masses.all[i], palette, place.horizon, size);
    reach[i] = toneReach(palette, masses.all[i].wanted[4 + sky]);
  }
  const float contrast = std::clamp(palette.contrast, 0.5f, 1.2f);
  std::vector<bool> given(count, false);
  for (const std::size_t i : order) {
    Mass& mass = masses.all[i];
    if (mass.opening) {
      given[i] = true;
      continue;
    }
    const double share = shareOf(mass, masses);
    const float own = signedUnit(mixed(seed, placeOf(mass), static_cast<std::uint64_t>(share * 200)));
    float liked = 0.4f * mass.wanted[0];
    if (things.of[i] >= 0) {
      const auto& whole = things.all[static_cast<std::size_t>(things.of[i])];
      const Point off{mass.x / mass.area - whole.x, mass.y / mass.area - whole.y};
      const double towards = dot(off, light) / std::max(4.0, whole.across);
      liked += 0.5f * static_cast<float>(std::clamp(towards, -1.0, 1.0)) + 0.3f * own;
    } else {
      liked += (share > 0.2 ? 0.2f : 0.4f) * (own + (own > 0 ? 0.25f : -0.25f));
    }
    float best = liked;
    double least = 1e18, around = 0;
    for (const Neighbour& n : beside[i])
      if (given[n.mass]) around += n.length;
    // Large masses keep to the middle of the scale: a sky is neither white nor black.
    const float most =
        blend(things.of[i] >= 0 ? 1.3f : 0.95f, 0.5f, smoothStep(0.04f, 0.25f, static_cast<float>(share)));
    std::vector<float> there;
    for (const Neighbour& n : beside[i])
      there.push_back(goesOn(masses, n.mass) ? lightnessAlong(*n.border, place, palette)
                                             : lightness[n.mass] + reach[n.mass] * masses.all[n.mass].wanted[0]);
    for (float value = -most; value <= most + 0.01f; value += 0.1f) {
      double cost = 0.35 * static_cast<double>((value - liked) * (value - liked));
      for (std::size_t k = 0; k < beside[i].size(); ++k) {
        const Neighbour& n = beside[i][k];
        if (!given[n.mass]) continue;
        const bool same = things.of[i] >= 0 && things.of[i] == things.of[n.mass];
        const bool apart = (things.of[i] < 0) != (things.of[n.mass] < 0);
        const float need = contrast * (same ? 0.11f : apart ? 0.23f : 0.12f);
        const float here = lightness[i] + reach[i] * value;
        const float lacks = std::max(0.0f, need - std::abs(here - there[k])) / reach[i];
        // Short borders within a thing are seen as well.
        const double seen = std::max(n.length / std::max(around, 1.0), same ? 0.3 : 0.0);
        cost += seen * static_cast<double>(lacks * lacks) * 2.5;
      }
      if (cost < least) {
        least = cost;
        best = value;
      }
    }
    mass.wanted[0] = best;
    given[i] = true;
  }
}

}  // namespace

void nameMasses(Masses& masses, const Composition& place, const Palette& palette, std::uint64_t seed, bool openings) {
  const auto beside = neighboursOf(masses);
  for (Mass& mass : masses.all) nameAlone(mass, masses.label.size());
  nameWhatStandsFree(masses, beside);
  nameByNeighbours(masses, beside);
  nameWhatLiesOnThings(masses, beside);
  if (openings) findOpenings(masses, beside);
  const auto things = thingsOf(masses, beside);
  giveColours(masses, things, seed);
  giveStrokes(masses, place.things);
  giveValues(masses, beside, things, place, palette, seed);
}

}  // namespace hscaffold::standin
