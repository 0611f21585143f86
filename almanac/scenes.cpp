#include "scenes.h"

#include <algorithm>
#include <array>

#include "core/engine/standin/noise.h"

namespace almanac {
namespace {

using hscaffold::Rgb;
using hscaffold::standin::blend;
using hscaffold::standin::fractalNoise;
using hscaffold::standin::smoothStep;
using hscaffold::standin::valueNoise;

Rgb mixed(Rgb a, Rgb b, float t) { return a * (1 - t) + b * t; }

float noise2(std::uint64_t seed, float x, float z, int octaves) { return fractalNoise(seed, x, z, octaves); }

float duneHeight(float x, float z) {
  const float crest = 0.75f * std::exp(-0.10f * (z - 6 - 0.4f * x) * (z - 6 - 0.4f * x)) +
                      0.30f * std::sin(0.35f * x + 0.5f * z + 0.6f);
  const float ripple = 0.008f * std::sin(16 * z + 3 * x + 5 * noise2(5, x * 0.7f, z * 0.7f, 2));
  const float near = smoothStep(40, 18, z);
  return (crest + 0.25f * noise2(3, x * 0.22f, z * 0.22f, 3)) * near + ripple * smoothStep(14, 4, z) -
         0.55f * smoothStep(10, 22, z);
}

Vec turnedAboutX(Vec p, float lean) {
  const float s = std::sin(lean), c = std::cos(lean);
  return {p.x * c - p.y * s, p.x * s + p.y * c, p.z};
}

/// A person 1.75 high, feet at the origin, leaning to the left (into the wind from there), reins in both hands.
Surface flyerSurface(Vec p) {
  const float ground = 0;
  Surface s;
  const auto add = [&](float d, int m) { s = nearer(s, {d, m}); };
  const Vec hip{0.24f, 0.92f, 0}, chest{-0.02f, 1.34f, 0}, neck{-0.08f, 1.50f, 0};
  // Legs: one braced behind, one bent in front.
  add(limb(p, hip + Vec{0, 0, 0.09f}, {0.40f, 0.50f, 0.16f}, 0.085f, 0.062f), 2);
  add(limb(p, {0.40f, 0.50f, 0.16f}, {0.66f, 0.08f, 0.18f}, 0.062f, 0.045f), 2);
  add(limb(p, {0.66f, 0.06f + ground, 0.18f}, {0.50f, 0.04f, 0.20f}, 0.05f, 0.04f), 3);
  add(limb(p, hip + Vec{0, 0, -0.09f}, {0.02f, 0.56f, -0.13f}, 0.088f, 0.065f), 2);
  add(limb(p, {0.02f, 0.56f, -0.13f}, {0.14f, 0.09f, -0.14f}, 0.062f, 0.045f), 2);
  add(limb(p, {0.14f, 0.06f + ground, -0.14f}, {-0.04f, 0.04f, -0.15f}, 0.05f, 0.04f), 3);
  // Coat: body with a skirt blown to the right.
  float coat = limb(p, hip, chest, 0.155f, 0.175f);
  coat = joined(coat, limb(p, hip, {0.55f, 0.78f, 0.02f}, 0.13f, 0.05f), 0.12f);
  coat += 0.008f * valueNoise(9, p.x * 22 + p.y * 10, p.y * 9 + p.z * 14);
  add(coat, 1);
  const Vec shoulderA = chest + Vec{-0.02f, 0.05f, 0.17f}, shoulderB = chest + Vec{-0.02f, 0.05f, -0.17f};
  const Vec elbowA{0.22f, 1.40f, 0.26f}, elbowB{0.20f, 1.52f, -0.20f}, handA{0.45f, 1.56f, 0.14f},
      handB{0.44f, 1.68f, -0.05f};
  add(limb(p, shoulderA, elbowA, 0.075f, 0.058f), 1);
  add(limb(p, elbowA, handA, 0.056f, 0.040f), 1);
  add(limb(p, shoulderB, elbowB, 0.075f, 0.058f), 1);
  add(limb(p, elbowB, handB, 0.056f, 0.040f), 1);
  add(sphere(p, handA, 0.047f), 4);
  add(sphere(p, handB, 0.047f), 4);
  add(limb(p, neck, neck + Vec{-0.02f, 0.10f, 0}, 0.055f, 0.052f), 4);
  const Vec head = neck + Vec{-0.015f, 0.215f, 0};
  float face = length(Vec{(p.x - head.x) / 0.88f, (p.y - head.y) / 1.12f, (p.z - head.z) / 0.85f}) - 0.115f;
  face = joined(face, sphere(p, head + Vec{0.105f, -0.015f, 0}, 0.022f), 0.03f);
  add(face * 0.85f, 4);
  // Cap with a brim, scarf flying to the right.
  add(std::max(length(Vec{p.x - head.x, (p.y - head.y - 0.03f) * 1.1f, p.z - head.z}) - 0.128f, head.y + 0.035f - p.y),
      5);
  add(block(p, head + Vec{0.11f, 0.04f, 0}, {0.075f, 0.012f, 0.09f}), 5);
  const float wave = 0.03f * std::sin(14 * p.x);
  add(block({p.x, p.y - wave, p.z}, neck + Vec{-0.28f, 0.04f, 0.03f}, {0.26f, 0.045f, 0.018f}, 0.015f) * 0.8f, 6);
  return s;
}

constexpr float flyerLean = 0.10f;
Vec flyerStand() { return {-0.55f, duneHeight(-0.2f, 2.2f) - 0.01f, 2.2f}; }

}  // namespace

float duneGround(float x, float z) { return duneHeight(x, z); }

Vec flyerPlace(Vec local) { return flyerStand() + turnedAboutX(local, -flyerLean); }

Scene kiteFlyer() {
  Scene scene;
  scene.camera = {{-0.1f, 1.25f, -2.6f}, {1.25f, 1.75f, 4.0f}, 1.55f, 0};
  scene.sun = unit({-0.75f, 0.62f, -0.45f});
  scene.sunColour = {2.5f, 2.2f, 1.75f};
  scene.skyColour = {0.42f, 0.52f, 0.68f};
  scene.fogColour = {0.68f, 0.76f, 0.84f};
  scene.fog = 0.010f;
  scene.reach = 90;
  const Vec stand = flyerStand();
  const Vec kite{4.3f, 4.45f, 6.2f};
  scene.surface = [=](Vec p) {
    Surface s{(p.y - duneHeight(p.x, p.z)) * 0.75f, 0};
    if (p.z > 20) s = nearer(s, {p.y + 0.62f, 9});
    const Vec local = turnedAboutX(p - stand, flyerLean);
    const float away = length(local - Vec{0.1f, 0.9f, 0}) - 1.3f;
    s = nearer(s, away > 0.3f ? Surface{away, 1} : flyerSurface(local));
    // The line from both hands to the kite, sagging a little.
    const Vec hand = stand + Vec{0.56f, 1.57f, 0.02f};
    const Vec middle = (hand + kite) * 0.5f + Vec{0.15f, -0.22f, 0};
    s = nearer(s, {std::fmin(limb(p, hand, middle, 0.006f, 0.007f), limb(p, middle, kite, 0.007f, 0.009f)), 7});
    // A lozenge with two spars and a tail.
    const Vec k = p - kite;
    const float a = (k.x * 0.80f + k.y * 0.60f), b = (-k.x * 0.60f + k.y * 0.80f);
    const float flat =
        std::max(std::fabs(a) * 0.62f + std::fabs(b) * 0.78f - 0.42f, std::fabs(k.z + 0.2f * std::fabs(a)) - 0.012f);
    s = nearer(s, {flat * 0.75f, 8});
    const float tail = std::hypot(k.x + 0.35f - 0.10f * std::sin(7 * k.y), k.z) - 0.025f;
    s = nearer(s, {std::max(tail * 0.7f, std::max(k.y + 0.35f, -1.35f - k.y)), 6});
    // A far lighthouse on its spit.
    const Vec l = p - Vec{13.5f, -0.6f, 34.0f};
    const float shaft = std::hypot(l.x, l.z) - (0.95f - 0.075f * std::clamp(l.y, 0.0f, 6.0f));
    s = nearer(s, {std::max(shaft, std::fabs(l.y - 3.0f) - 3.0f) * 0.8f, 10});
    s = nearer(s, {std::max(std::hypot(l.x, l.z) - 0.62f, std::fabs(l.y - 6.1f) - 0.10f) * 0.8f, 11});
    s = nearer(s, {std::max(std::hypot(l.x, l.z) - 0.40f, std::fabs(l.y - 6.6f) - 0.45f) * 0.8f, 12});
    s = nearer(s, {std::max(std::hypot(l.x, l.z) - 0.62f * (7.9f - l.y), std::fabs(l.y - 7.4f) - 0.42f) * 0.6f, 11});
    s = nearer(s, {(length(Vec{l.x / 6, l.y * 2.2f, l.z / 3}) - 0.8f) * 0.4f, 13});
    return s;
  };
  scene.colour = [](int material, Vec p, Vec n, float& shine) -> Rgb {
    const float fine = fractalNoise(21, p.x * 9 + p.z * 2, p.y * 9 + p.z * 7, 3);
    switch (material) {
      case 0: {
        const float grains = valueNoise(31, p.x * 55, p.z * 55);
        const Rgb sand = mixed({0.60f, 0.43f, 0.25f}, {0.70f, 0.54f, 0.33f}, 0.5f + fractalNoise(11, p.x, p.z, 4));
        const float grass = smoothStep(0.16f, 0.3f, fractalNoise(17, p.x * 0.8f + 3, p.z * 0.8f, 3)) *
                            smoothStep(0.9f, 0.99f, n.y) * smoothStep(5, 9, p.z);
        return mixed(sand * (1 + 0.045f * grains), Rgb{0.24f, 0.30f, 0.12f} * (1 + fine), grass * 0.8f);
      }
      case 1:
        return Rgb{0.045f, 0.10f, 0.16f} * (1 + 0.5f * fine);
      case 2:
        return Rgb{0.16f, 0.12f, 0.09f} * (1 + 0.5f * fine);
      case 3:
        return {0.05f, 0.035f, 0.03f};
      case 4:
        return {0.52f, 0.30f, 0.20f};
      case 5:
        return {0.30f, 0.08f, 0.05f};
      case 6:
        return Rgb{0.72f, 0.16f, 0.09f} * (1 + 0.3f * fine);
      case 7:
        return {0.80f, 0.80f, 0.76f};
      case 8:
        return p.x * 0.8f + p.y * 0.6f > 4.3f * 0.8f + 4.45f * 0.6f ? Rgb{0.78f, 0.20f, 0.08f}
                                                                    : Rgb{0.86f, 0.66f, 0.18f};
      case 9:
        shine = 0.8f;
        return Rgb{0.05f, 0.14f, 0.18f} * (1 + 0.6f * fractalNoise(7, p.x * 1.4f, p.z * 5, 3));
      case 10:
        return std::fmod(p.y + 10, 2.4f) < 1.2f ? Rgb{0.85f, 0.83f, 0.78f} : Rgb{0.60f, 0.12f, 0.08f};
      case 11:
        return {0.10f, 0.10f, 0.11f};
      case 12:
        return {0.75f, 0.70f, 0.45f};
      default:
        return Rgb{0.16f, 0.17f, 0.13f} * (1 + fine);
    }
  };
  scene.sky = [](Vec d) -> Rgb {
    const float height = std::fmax(0.0f, d.y);
    Rgb c = mixed({0.74f, 0.82f, 0.90f}, {0.20f, 0.42f, 0.74f}, 1 - std::exp(-3.2f * height));
    const float s = 1 / (height + 0.12f);
    const float cloud = fractalNoise(41, d.x * s * 0.9f, d.z * s * 0.5f + 2, 5);
    return mixed(c, {1.05f, 1.02f, 0.98f}, 0.75f * smoothStep(0.04f, 0.42f, cloud));
  };
  return scene;
}

Scene teaHouse() {
  Scene scene;
  scene.camera = {{-4.6f, 1.35f, -6.2f}, {0.5f, 1.75f, 1.0f}, 1.55f, 0};
  scene.sun = unit({0.62f, 0.55f, -0.56f});
  scene.sunColour = {2.3f, 1.95f, 1.5f};
  scene.skyColour = {0.46f, 0.50f, 0.60f};
  scene.fogColour = {0.78f, 0.78f, 0.78f};
  scene.fog = 0.014f;
  scene.reach = 80;
  scene.surface = [](Vec p) {
    const float mud =
        0.05f * noise2(3, p.x * 0.5f, p.z * 0.5f, 4) + 0.008f * std::sin(9 * p.z + 4 * noise2(4, p.x, p.z, 2));
    Surface s{(p.y - mud) * 0.8f, 0};
    const auto add = [&](float d, int m) { s = nearer(s, {d, m}); };
    // Stilts with braces.
    const float sx = std::fabs(p.x), sz = std::fabs(p.z);
    add(limb({sx, p.y, sz}, {1.7f, -0.3f, 1.25f}, {1.55f, 1.6f, 1.15f}, 0.075f, 0.065f), 1);
    add(limb({sx, p.y, sz}, {0.55f, -0.3f, 1.25f}, {0.52f, 1.6f, 1.15f}, 0.065f, 0.06f), 1);
    add(limb({sx, p.y, sz}, {1.66f, 0.35f, 1.24f}, {0.54f, 1.35f, 1.18f}, 0.03f, 0.03f), 1);
    // Floor, walls, window openings, door.
    add(block(p, {0, 1.62f, 0}, {2.05f, 0.07f, 1.6f}), 1);
    float walls = block(p, {0.1f, 2.30f, 0}, {1.45f, 0.66f, 1.05f});
    for (const float wx : {-0.75f, 0.25f, 1.0f})
      walls = std::max(walls, -block(p, {wx, 2.38f, -1.05f}, {0.27f, 0.30f, 0.14f}));
    walls = std::max(walls, -block(p, {-1.38f, 2.15f, 0.1f}, {0.16f, 0.46f, 0.34f}));
    add(walls, 2);
    add(block(p, {0.1f, 2.3f, 0}, {1.32f, 0.6f, 0.92f}), 5);
    for (const float wx : {-0.75f, 0.25f, 1.0f}) {
      add(block(p, {wx, 2.38f, -1.06f}, {0.018f, 0.30f, 0.025f}), 1);
      add(block(p, {wx, 2.38f, -1.06f}, {0.27f, 0.018f, 0.025f}), 1);
    }
    // Railing.
    add(block(p, {0, 2.02f, -1.52f}, {2.0f, 0.025f, 0.025f}), 1);
    const float post = std::remainder(p.x, 0.4f);
    if (sx < 2.05f) add(block({post, p.y, p.z}, {0, 1.85f, -1.52f}, {0.02f, 0.2f, 0.02f}) * 0.9f, 1);
    // Two hipped roofs with upturned eaves.
    const auto roof = [&](float base, float half, float deep, float rise) {
      const float across = std::max(sx - half * 0.35f, 0.0f) / (half * 0.65f), along = sz / deep;
      const float out = std::max(across, along);
      const float top = base + rise * (1 - out) + 0.16f * out * out * out;
      const float d = std::max(std::fabs(p.y - top + 0.05f) - 0.05f, std::max(sx - half, sz - deep));
      add(d * 0.55f, 3);
    };
    roof(2.98f, 2.2f, 1.75f, 0.62f);
    roof(3.62f, 1.2f, 0.95f, 0.55f);
    add(block(p, {0, 3.55f, 0}, {0.72f, 0.16f, 0.5f}), 2);
    // A ladder to the flat and a moored boat.
    const Vec l{p.x + 2.25f - 0.32f * (1.6f - p.y) * -1.0f, p.y, p.z + 0.2f};
    add(block({std::fabs(l.x) - 0.0f, l.y, std::fabs(l.z) - 0.22f}, {0, 0.8f, 0}, {0.035f, 0.85f, 0.03f}) * 0.8f, 1);
    if (l.y > 0 && l.y < 1.6f)
      add(block({l.x, std::remainder(l.y, 0.26f), l.z}, {0, 0, 0}, {0.03f, 0.02f, 0.22f}) * 0.8f, 1);
    const Vec b{p.x + 2.1f, p.y - 0.16f, p.z + 2.6f};
    const float hull = length(Vec{b.x / 1.0f, (b.y - 0.22f) / 0.36f, b.z / 0.34f}) - 1;
    add(std::max(std::max(hull * 0.30f, b.y - 0.18f),
                 -(length(Vec{b.x / 0.9f, (b.y - 0.26f) / 0.32f, b.z / 0.27f}) - 1) * 0.27f),
        4);
    // Far hills.
    add((p.y - 3.4f * std::max(0.0f, 0.5f + noise2(8, p.x * 0.07f, 3.0f, 4)) + 0.16f * std::max(0.0f, 42 - p.z)) * 0.5f,
        6);
    return s;
  };
  scene.colour = [](int material, Vec p, Vec, float& shine) -> Rgb {
    const float fine = fractalNoise(21, p.x * 8, p.y * 8 + p.z * 6, 3);
    switch (material) {
      case 0: {
        const float wet = smoothStep(-0.10f, 0.12f, fractalNoise(5, p.x * 0.45f, p.z * 0.8f, 4));
        shine = 0.85f * wet;
        return mixed({0.34f, 0.28f, 0.21f}, {0.13f, 0.12f, 0.11f}, wet) * (1 + 0.25f * fine);
      }
      case 1:
        return Rgb{0.17f, 0.11f, 0.07f} * (1 + 0.5f * fractalNoise(22, p.x * 3, p.y * 16, 3));
      case 2:
        return Rgb{0.70f, 0.62f, 0.48f} *
               (0.92f + 0.25f * fine - 0.12f * (std::fmod(p.x + 20, 0.5f) < 0.035f ? 2.0f : 0.0f));
      case 3:
        return Rgb{0.24f, 0.085f, 0.05f} * (0.85f + 0.4f * fine + 0.35f * std::fabs(std::sin(p.x * 18 + p.z * 2)));
      case 4:
        return Rgb{0.06f, 0.17f, 0.22f} * (1 + 0.5f * fine);
      case 5:
        return {0.55f, 0.30f, 0.10f};
      default:
        return Rgb{0.18f, 0.23f, 0.20f} * (1 + fine);
    }
  };
  scene.sky = [](Vec d) -> Rgb {
    const float height = std::fmax(0.0f, d.y);
    const Rgb c = mixed({0.92f, 0.84f, 0.74f}, {0.40f, 0.54f, 0.72f}, 1 - std::exp(-2.6f * height));
    const float s = 1 / (height + 0.15f);
    return mixed(c, {0.98f, 0.95f, 0.92f},
                 0.7f * smoothStep(-0.02f, 0.4f, fractalNoise(44, d.x * s * 0.7f, d.z * s * 0.4f, 5)));
  };
  return scene;
}

Scene lighthouseStair() {
  Scene scene;
  scene.camera = {{-0.45f, 0.15f, -0.55f}, {0.25f, 8.0f, 0.35f}, 1.25f, 0};
  scene.sun = unit({0.35f, 0.90f, 0.25f});
  scene.sunColour = {2.6f, 2.35f, 1.9f};
  scene.skyColour = {0.95f, 0.98f, 1.05f};
  scene.fogColour = {0.75f, 0.78f, 0.82f};
  scene.fog = 0.012f;
  scene.reach = 40;
  constexpr float turn = 6.2831853f, rise = 2.6f, outer = 2.0f;
  constexpr int stepsATurn = 18;
  scene.surface = [=](Vec p) {
    const float radius = std::hypot(p.x, p.z), angle = std::atan2(p.z, p.x);
    const auto inWall = [&](float wallAngle, float y) {
      return std::max(std::fabs(std::remainder(angle - wallAngle, turn)) * outer - 0.24f, std::fabs(p.y - y) - 0.5f);
    };
    float wall = outer - radius + 0.010f * valueNoise(3, angle * 16, p.y * 8);
    for (const auto& [a, y] : {std::pair{0.6f, 2.6f}, {2.4f, 4.4f}, {4.4f, 6.2f}, {0.2f, 8.2f}})
      wall = std::max(wall, -inWall(a, y));
    Surface s{p.y > 15.5f ? 0.6f : wall * 0.8f, 0};
    const auto add = [&](float d, int m) { s = nearer(s, {d, m}); };
    // The step whose slab is nearest: steps repeat round and up.
    const float along = angle / turn * stepsATurn;
    const float nearest = std::floor((p.y / rise - angle / turn) + 0.5f);
    for (const float loop : {nearest, nearest - 1}) {
      for (float k = -1; k <= 1; ++k) {
        const float index = std::floor(along) + 0.5f + k;
        const float stepAngle = index / stepsATurn * turn, top = (index / stepsATurn + loop) * rise;
        if (top < 0.3f || top > 13.5f) continue;
        const float side = std::fabs(std::remainder(angle - stepAngle, turn)) * std::max(radius, 0.2f) -
                           radius * turn / stepsATurn * 0.52f;
        const float d =
            std::max(std::max(side, std::fabs(p.y - top) - 0.055f), std::max(radius - 2.05f, 1.12f - radius));
        add(d * 0.65f, 2);
        const float cx = 1.16f * std::cos(stepAngle), cz = 1.16f * std::sin(stepAngle);
        add(limb(p, {cx, top, cz}, {cx, top + 0.85f, cz}, 0.016f, 0.016f), 3);
      }
      // Handrail: a helix.
      const float level = (angle / turn + loop) * rise + 0.88f;
      if (level > 0.8f && level < 14.3f) add((std::hypot(radius - 1.16f, (p.y - level) * 0.93f) - 0.032f) * 0.8f, 3);
    }
    add(std::max(std::fabs(p.y + 0.2f) - 0.2f, radius - 3), 0);
    return s;
  };
  scene.colour = [=](int material, Vec p, Vec, float& shine) -> Rgb {
    const float angle = std::atan2(p.z, p.x);
    switch (material) {
      case 0: {
        const float course = std::floor(p.y / 0.32f), brick = angle * 6 + 0.5f * std::fmod(course, 2.0f);
        const float seam =
            std::min(std::fabs(std::remainder(p.y, 0.32f)) * 10, std::fabs(std::remainder(brick, 1.0f)) * 8);
        const float tint = valueNoise(5, std::floor(brick) * 3.7f, course * 5.3f);
        return Rgb{0.66f, 0.60f, 0.52f} * (0.86f + 0.14f * tint) * (0.72f + 0.28f * std::min(1.0f, seam)) *
               (1 + 0.15f * fractalNoise(6, p.x * 6 + p.z * 5, p.y * 6, 3));
      }
      case 2:
        return Rgb{0.30f, 0.15f, 0.09f} * (1 + 0.5f * fractalNoise(8, p.x * 9, p.z * 9, 3));
      default:
        shine = 0.3f;
        return {0.42f, 0.28f, 0.10f};
    }
  };
  scene.sky = [](Vec d) -> Rgb {
    return mixed({0.9f, 0.92f, 0.95f}, {1.5f, 1.45f, 1.35f}, smoothStep(0.6f, 1.0f, d.y));
  };
  return scene;
}

}  // namespace almanac
