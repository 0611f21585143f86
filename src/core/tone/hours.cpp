// Times of day of the almanac as light tables.
#include "core/tone/light_table.h"

namespace hscaffold::light {
namespace {

Light gradient(const char* name, Point from, Point to, double light, std::optional<Hue> hue, double endLight,
               std::optional<Hue> endHue) {
  Light out;
  out.form = Light::Form::straight;
  out.name = name;
  out.spots = {from, to};
  out.light = light;
  out.hue = hue;
  out.endLight = endLight;
  out.endHue = endHue;
  return out;
}

Light lamp(const char* name, Point middle, double reach, double light, Hue hue) {
  Light out;
  out.form = Light::Form::round;
  out.name = name;
  out.spots = {middle, {middle.x + reach, middle.y}};
  out.light = light;
  out.hue = hue;
  out.softness = 1;
  return out;
}

LightTable table(std::vector<Light> lights, double tint, Hue inLight, Hue inShadow, double from, double height) {
  LightTable out;
  out.frame = {1, 1};
  out.lights = std::move(lights);
  out.tint = tint;
  out.inLight = inLight;
  out.inShadow = inShadow;
  out.from = from;
  out.height = height;
  return out;
}

}  // namespace

const std::vector<Hour>& hours() {
  static const std::vector<Hour> all = {
      {"Nets out", "first grey light, low from the left, cool all over",
       table({gradient("Sky to flat", {0.5, 0}, {0.5, 1}, 0.2, Hue{0.04, 260}, -0.35, Hue{0.05, 275}),
              lamp("First light", {0.05, 0.5}, 0.5, 0.35, {0.06, 60})},
             0.6, {0.05, 80}, {0.07, 265}, 175, 12)},
      {"Salt noon", "white and high, short shadows",
       table({gradient("Sky to flat", {0.5, 0}, {0.5, 1}, 0.3, Hue{0.04, 235}, 0.1, Hue{0.04, 90})}, 0.4, {0.04, 95},
             {0.05, 250}, -90, 75)},
      {"Rope hour", "late and golden, from the right",
       table({gradient("Right to left", {1, 0.4}, {0, 0.6}, 0.35, Hue{0.10, 75}, -0.3, Hue{0.06, 300})}, 0.8,
             {0.10, 75}, {0.08, 290}, -15, 22)},
      {"Ember tide", "the sun on the water, red against teal",
       table({gradient("Sky to flat", {0.5, 0}, {0.5, 1}, -0.25, Hue{0.09, 300}, -0.4, Hue{0.07, 200}),
              lamp("Ember", {0.72, 0.48}, 0.42, 0.6, {0.16, 45})},
             0.9, {0.13, 50}, {0.08, 205}, -10, 8)},
      {"Blue watch", "after the sun, one lamp lit",
       table({gradient("Sky to flat", {0.5, 0}, {0.5, 1}, -0.35, Hue{0.08, 260}, -0.65, Hue{0.07, 275}),
              lamp("Lamp", {0.5, 0.55}, 0.22, 0.65, {0.12, 75})},
             0.7, {0.08, 80}, {0.09, 265}, -90, 60)},
      {"Gale light", "dark above, a bright strip along the horizon",
       table({gradient("Above", {0.5, 0}, {0.5, 0.5}, -0.6, Hue{0.03, 240}, 0.3, Hue{0.04, 110}),
              gradient("Below", {0.5, 0.5}, {0.5, 1}, 0.1, std::nullopt, -0.45, Hue{0.03, 220})},
             0.4, {0.03, 110}, {0.04, 235}, 180, 30)},
  };
  return all;
}

LightTable atHour(const Hour& hour, const LightTable& before, const GuidePlace& place) {
  LightTable out = hour.table;
  out.frame = place.frame;
  out.placing = place.placing;
  for (Light& light : out.lights) {
    const double reach = std::max(place.frame.width, place.frame.height);
    const Point middle{light.spots[0].x * place.frame.width, light.spots[0].y * place.frame.height};
    // A lamp is round in every frame.
    const Point second = light.form == Light::Form::round
                             ? Point{middle.x + (light.spots[1].x - light.spots[0].x) * reach, middle.y}
                             : Point{light.spots[1].x * place.frame.width, light.spots[1].y * place.frame.height};
    light.spots = {middle, second};
  }
  out.relight = before.relight;
  for (const Light& light : before.lights)
    if (light.form == Light::Form::brush && out.lights.size() < mostLights) out.lights.push_back(light);
  return out;
}

}  // namespace hscaffold::light
