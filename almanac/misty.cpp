// Two scenes that hide their depth: sailcloth in soft morning light, and the lighthouse stair in fog.
#include <algorithm>
#include <array>

#include "core/engine/standin/noise.h"
#include "scenes.h"

namespace almanac {

using hscaffold::Rgb;
using hscaffold::standin::fractalNoise;
using hscaffold::standin::smoothStep;

Scene sailcloth() {
  Scene scene;
  scene.camera = {{-0.3f, 1.45f, -4.2f}, {0.35f, 1.25f, 3.0f}, 1.5f, 0};
  scene.sun = unit({0.5f, 0.45f, -0.35f});
  scene.sunColour = {0.42f, 0.37f, 0.31f};
  scene.skyColour = {0.98f, 0.96f, 0.93f};
  scene.fogColour = {0.87f, 0.83f, 0.78f};
  scene.fog = 0.09f;
  scene.reach = 60;
  struct Sheet {
    float x, z, wide, tall, phase;
  };
  static constexpr std::array sheets = {Sheet{-1.25f, 0.4f, 0.95f, 1.25f, 0.3f}, Sheet{1.0f, 1.9f, 1.15f, 1.35f, 1.9f},
                                        Sheet{-0.9f, 4.2f, 1.2f, 1.3f, 3.1f}, Sheet{2.6f, 5.4f, 1.3f, 1.35f, 4.4f}};
  scene.surface = [](Vec p) {
    const float dune = 0.16f * fractalNoise(3, p.x * 0.3f, p.z * 0.3f, 3) +
                       0.9f * smoothStep(7, 15, p.z) * (0.6f + 0.4f * std::sin(0.3f * p.x));
    Surface s{(p.y - dune) * 0.7f, 0};
    for (const Sheet& sheet : sheets) {
      // Hung from a line between two posts, blown a little, heavier below.
      const float across = (p.x - sheet.x) / sheet.wide, down = 2.15f - p.y;
      const float belly = (0.10f + 0.12f * down) * std::sin(3.1f * across + sheet.phase + 0.8f * down) + 0.10f * down;
      const float edge =
          std::max(std::fabs(p.x - sheet.x) - sheet.wide, std::fabs(down - sheet.tall / 2) - sheet.tall / 2);
      s = nearer(s, {std::max(std::fabs(p.z - sheet.z - belly) - 0.012f, edge) * 0.55f, 1});
      for (const float side : {-1.0f, 1.0f}) {
        const float x = sheet.x + side * (sheet.wide + 0.12f);
        s = nearer(s, {limb(p, {x, -0.2f, sheet.z}, {x, 2.3f, sheet.z}, 0.035f, 0.028f), 2});
      }
      s = nearer(s, {limb(p, {sheet.x - sheet.wide - 0.12f, 2.2f, sheet.z},
                          {sheet.x + sheet.wide + 0.12f, 2.2f, sheet.z}, 0.008f, 0.008f),
                     2});
    }
    return s;
  };
  scene.colour = [](int material, Vec p, Vec, float&) -> Rgb {
    const float fine = fractalNoise(21, p.x * 7, p.y * 7 + p.z * 5, 3);
    if (material == 0) return Rgb{0.66f, 0.60f, 0.52f} * (1 + 0.05f * fine);
    if (material == 1) return Rgb{0.70f, 0.65f, 0.58f} * (1 + 0.03f * fine);
    return Rgb{0.60f, 0.55f, 0.48f} * (1 + 0.1f * fine);
  };
  scene.sky = [](Vec way) {
    const float up = std::clamp(way.y, 0.0f, 1.0f);
    return Rgb{0.87f, 0.83f, 0.78f} * (1 - up) + Rgb{0.78f, 0.80f, 0.84f} * up;
  };
  return scene;
}

Scene stairInFog() {
  Scene scene = lighthouseStair();
  scene.fog = 0.16f;
  scene.fogColour = {0.66f, 0.67f, 0.68f};
  scene.sky = [](Vec) { return Rgb{0.68f, 0.69f, 0.70f}; };
  return scene;
}

}  // namespace almanac
