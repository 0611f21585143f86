// A harbour buoy gone to rust, in green water under a low sun: a picture whose colours other pictures borrow.
#include <algorithm>
#include <cmath>

#include "core/engine/standin/noise.h"
#include "scenes.h"

namespace almanac {
namespace {

using hscaffold::Rgb;
using hscaffold::standin::fractalNoise;
using hscaffold::standin::smoothStep;
using hscaffold::standin::valueNoise;

enum Material { water, hull, cage, lamp, quay };

Rgb mixed(Rgb a, Rgb b, float t) { return a * (1 - t) + b * t; }

/// The buoy heels a little in the swell.
Vec upright(Vec p) {
  constexpr float heel = 0.16f;
  const float s = std::sin(heel), c = std::cos(heel);
  return {p.x * c + p.y * s, -p.x * s + p.y * c, p.z};
}

float drum(Vec p, float bottom, float top, float radius) {
  const float side = std::hypot(p.x, p.z) - radius, ends = std::max(bottom - p.y, p.y - top);
  return std::min(std::max(side, ends), 0.0f) + std::hypot(std::max(side, 0.0f), std::max(ends, 0.0f)) - 0.03f;
}

}  // namespace

Scene rustedBuoy() {
  Scene scene;
  scene.camera = {{-0.7f, 1.2f, -3.1f}, {0.2f, 0.85f, 0.4f}, 1.5f, 0};
  scene.sun = unit({0.75f, 0.30f, -0.45f});
  scene.sunColour = {3.1f, 1.9f, 0.95f};
  scene.skyColour = {0.34f, 0.46f, 0.52f};
  scene.fogColour = {0.62f, 0.52f, 0.40f};
  scene.fog = 0.018f;
  scene.reach = 70;
  scene.surface = [](Vec p) {
    const float swell =
        0.05f * std::sin(0.9f * p.x + 0.5f * p.z) + 0.035f * fractalNoise(41, p.x * 1.1f, p.z * 0.8f, 3);
    Surface s{(p.y - swell) * 0.8f, water};
    const auto add = [&](float distance, int material) { s = nearer(s, {distance, material}); };
    const Vec q = upright(p);
    // A drum with two hoops, dented, a mast in a cage of four bars, a lamp on top.
    const float dent = 0.03f * fractalNoise(42, 2 * std::atan2(q.z, q.x), q.y * 2, 3);
    add((drum(q, -0.6f, 0.72f, 0.95f) + dent) * 0.8f, hull);
    for (const float hoop : {0.1f, 0.62f}) add(drum(q, hoop - 0.035f, hoop + 0.035f, 1.0f), hull);
    for (int bar = 0; bar < 4; ++bar) {
      const float angle = 0.6f + 1.5708f * static_cast<float>(bar);
      const Vec foot{0.62f * std::cos(angle), 0.72f, 0.62f * std::sin(angle)},
          head{0.2f * std::cos(angle), 2.15f, 0.2f * std::sin(angle)};
      add(limb(q, foot, head, 0.045f, 0.032f), cage);
    }
    for (const float ring : {1.2f, 1.7f}) {
      const float radius = 0.62f - 0.42f * (ring - 0.72f) / 1.43f;
      add(std::hypot(std::hypot(q.x, q.z) - radius, q.y - ring) - 0.028f, cage);
    }
    add(drum(q, 2.12f, 2.36f, 0.17f), lamp);
    // The quay behind, of rough stone.
    const float stone = 0.05f * fractalNoise(43, p.x * 1.7f, p.y * 2.3f, 3);
    add((block(p, {-7, 0.2f, 11}, {6.5f, 1.5f, 2}, 0.05f) + stone) * 0.8f, quay);
    return s;
  };
  scene.colour = [](int material, Vec p, Vec, float& shine) -> Rgb {
    const float fine = fractalNoise(44, p.x * 9 + p.z * 7, p.y * 9, 4);
    switch (material) {
      case water:
        shine = 0.75f;
        return mixed({0.015f, 0.075f, 0.075f}, {0.05f, 0.12f, 0.09f},
                     smoothStep(-0.3f, 0.5f, fractalNoise(45, p.x * 0.8f, p.z * 0.6f, 4)));
      case hull: {
        const Vec q = upright(p);
        // What is left of two coats of paint, and rust that runs down from where it broke.
        const float around = std::atan2(q.z, q.x);
        const float broken =
            fractalNoise(46, 3 * around, q.y * 3, 4) + 0.35f * fractalNoise(47, 11 * around, q.y * 1.2f, 3);
        const Rgb paint = q.y > 0.36f ? Rgb{0.44f, 0.33f, 0.09f} : Rgb{0.05f, 0.17f, 0.17f};
        const Rgb rust = mixed({0.34f, 0.105f, 0.03f}, {0.10f, 0.035f, 0.02f}, smoothStep(-0.2f, 0.6f, fine));
        const Rgb weed{0.03f, 0.05f, 0.02f};
        return mixed(mixed(paint, rust, smoothStep(-0.28f, 0.12f, broken)), weed,
                     0.9f * smoothStep(0.2f, 0.05f, p.y + 0.1f * fine));
      }
      case cage:
        return mixed({0.30f, 0.09f, 0.03f}, {0.12f, 0.05f, 0.03f}, smoothStep(-0.3f, 0.3f, fine));
      case lamp:
        shine = 0.5f;
        return {0.40f, 0.10f, 0.05f};
      default:
        return Rgb{0.19f, 0.16f, 0.13f} * (1 + 0.5f * fine) *
               (0.8f + 0.2f * valueNoise(48, std::floor(p.x * 0.9f) * 3, std::floor(p.y * 2) * 5));
    }
  };
  scene.sky = [](Vec d) -> Rgb {
    const float height = std::max(0.0f, d.y);
    const Rgb c = mixed({0.98f, 0.62f, 0.30f}, {0.20f, 0.34f, 0.40f}, 1 - std::exp(-3.2f * height));
    const float s = 1 / (height + 0.12f);
    return mixed(c, {0.80f, 0.50f, 0.34f},
                 0.6f * smoothStep(0.0f, 0.45f, fractalNoise(49, d.x * s * 0.5f, d.z * s * 0.9f, 5)));
  };
  return scene;
}

}  // namespace almanac
