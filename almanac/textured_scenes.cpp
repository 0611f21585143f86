// Leaves before walls, machines with holes and spokes: the texture of both is stronger than their outlines.
#include <array>
#include <atomic>

#include "depth_set.h"

namespace almanac {

using hscaffold::Rgb;
using hscaffold::standin::fractalNoise;
using hscaffold::standin::hashOf;
using hscaffold::standin::mixed;
using hscaffold::standin::smoothStep;
using hscaffold::standin::unit;

void daylight(Set& set, Dice& dice) {
  Scene& scene = set.scene;
  const float turn = dice.between(0, 6.28f), high = dice.between(0.25f, 1.1f);
  scene.sun = unit({std::cos(turn) * std::cos(high), std::sin(high), std::sin(turn) * std::cos(high)});
  const bool grey = dice.chance(0.35f);
  scene.sunColour = grey ? Rgb{0.7f, 0.7f, 0.7f} : Rgb{2.3f, 2.0f, 1.6f};
  scene.skyColour = grey ? Rgb{0.8f, 0.82f, 0.86f} : Rgb{0.45f, 0.52f, 0.66f};
  scene.fogColour = grey ? Rgb{0.62f, 0.65f, 0.68f} : Rgb{0.66f, 0.72f, 0.8f};
  const Rgb low = scene.fogColour, top = grey ? Rgb{0.6f, 0.62f, 0.65f} : Rgb{0.22f, 0.38f, 0.68f};
  const float clouds = dice.between(0, 0.6f);
  const auto seed = static_cast<std::uint64_t>(dice.upTo(100000));
  scene.sky = [=](Vec way) {
    const float up = std::clamp(way.y, 0.0f, 1.0f);
    const float cloud =
        clouds * smoothStep(0.05f, 0.35f, fractalNoise(seed, way.x / (up + 0.25f) * 2, way.z / (up + 0.25f) * 2, 4));
    const Rgb clear = low * (1 - std::sqrt(up)) + top * std::sqrt(up);
    return clear * (1 - cloud) + Rgb{0.85f, 0.85f, 0.86f} * cloud;
  };
}

namespace {

struct Leaves {
  Vec middle;            ///< of the layer
  float size = 0.1f;     ///< of a leaf
  float depth = 0.1f;    ///< how far they lie before and behind the layer
  float density = 0.7f;  ///< share of places that have one, where the layer is whole
  float patches = 1;     ///< holes a unit of length
  float open = 0;        ///< the more, the larger the holes, [-0.5, 0.5]
  std::uint64_t seed = 0;
  std::uint64_t layer = 0;  ///< a number that no other one has
};

/// A leaf of the grid: whether there is one at its place, where, and how it is turned.
struct Leaf {
  std::uint64_t layer = 0, at = 0;  ///< `at`: its place, mixed
  bool there = false;
  Vec middle;
  float cosine = 1, sine = 0;
};

Leaf leafOf(const Leaves& l, std::uint64_t at, int column, int row) {
  Leaf leaf{l.layer, at, false, {}, 1, 0};
  if (unit(mixed(at, 1)) > l.density) return leaf;
  const float x = static_cast<float>(column) * l.size, y = static_cast<float>(row) * l.size;
  if (fractalNoise(l.seed + 5, x * l.patches, y * l.patches, 2) < l.open) return leaf;
  const float turn = 6.28f * unit(mixed(at, 5));
  return {l.layer,
          at,
          true,
          {x + l.size * unit(mixed(at, 2)), y + l.size * unit(mixed(at, 3)), l.depth * (2 * unit(mixed(at, 4)) - 1)},
          std::cos(turn),
          std::sin(turn)};
}

/// One leaf a place of a grid, turned and moved by chance; only those beside the point are looked at. A thread
/// remembers those that it met last.
float leavesAt(const Leaves& l, Vec p) {
  thread_local std::array<Leaf, 4096> met;
  const Vec q = p - l.middle;
  const int column = static_cast<int>(std::floor(q.x / l.size)), row = static_cast<int>(std::floor(q.y / l.size));
  float best = std::max(std::fabs(q.z) - l.depth, 0.0f) + 0.5f * l.size;
  for (int j = row - 1; j <= row + 1; ++j)
    for (int i = column - 1; i <= column + 1; ++i) {
      const auto at = mixed(l.seed, static_cast<std::uint64_t>(i + 1000), static_cast<std::uint64_t>(j + 1000));
      Leaf& leaf = met[at % met.size()];
      if (leaf.layer != l.layer || leaf.at != at) leaf = leafOf(l, at, i, j);
      if (!leaf.there) continue;
      const Vec d = q - leaf.middle;
      const float along = (leaf.cosine * d.x + leaf.sine * d.y) / (0.75f * l.size),
                  across = (leaf.cosine * d.y - leaf.sine * d.x) / (0.32f * l.size), thick = d.z / (0.1f * l.size);
      const float away = std::sqrt(along * along + across * across + thick * thick);
      best = std::min(best, (away - 1) * 0.1f * l.size * (away > 2 ? 2.0f : 1.0f));
    }
  return 0.8f * best;
}

void addLeaves(Set& set, Dice& dice, const Leaves& leaves) {
  // Three greens, or reds in autumn, of one layer: each takes its own share of places.
  const bool autumn = dice.chance(0.25f);
  for (int shade = 0; shade < 2; ++shade) {
    const int paint = set.paint(dice, 0.6f);
    const float light = dice.between(0.05f, 0.3f);
    set.paints[static_cast<std::size_t>(paint)].colour =
        autumn ? Rgb{light * 1.6f, light * 0.7f, light * 0.25f} : Rgb{light * 0.6f, light * 1.3f, light * 0.35f};
    set.paints[static_cast<std::size_t>(paint)].grain = 3 / leaves.size;
    Leaves one = leaves;
    one.seed += static_cast<std::uint64_t>(shade) * 977;
    one.density *= 0.6f;
    static std::atomic<std::uint64_t> layers = 0;
    one.layer = ++layers;
    set.add(paint, {}, 1e5f, [one](Vec p) { return leavesAt(one, p); });
  }
}

void addWheel(Set& set, Dice& dice, Vec middle, float radius) {
  const int paint = set.paint(dice, 0.5f);
  set.paints[static_cast<std::size_t>(paint)].grain *= 4;
  const int spokes = 4 + dice.upTo(9);
  const float rim = radius * dice.between(0.06f, 0.14f), spoke = radius * dice.between(0.03f, 0.06f),
              turned = dice.between(0, 6.28f), lean = dice.between(-0.5f, 0.5f);
  set.add(paint, middle, radius + rim, [=](Vec p) {
    Vec q = p - middle;
    q = {q.x * std::cos(lean) - q.z * std::sin(lean), q.y, q.x * std::sin(lean) + q.z * std::cos(lean)};
    const float away = std::hypot(q.x, q.y);
    float best = std::hypot(away - radius, q.z) - rim;
    const float sector = 6.2832f / static_cast<float>(spokes);
    float angle = std::atan2(q.y, q.x) - turned;
    angle -= sector * std::round(angle / sector);
    const Vec folded{away * std::cos(angle), away * std::sin(angle), q.z};
    best = std::min(best, limb(folded, {0, 0, 0}, {radius, 0, 0}, spoke, spoke));
    return std::min(best, std::max(away - 0.16f * radius, std::fabs(q.z) - 2 * rim));
  });
}

/// A plate with rows of round holes.
void addPlate(Set& set, Dice& dice, Vec middle, Vec half) {
  const int paint = set.paint(dice, 0.5f);
  set.paints[static_cast<std::size_t>(paint)].grain *= 3;
  const float apart = dice.between(0.22f, 0.6f) * half.y, hole = apart * dice.between(0.2f, 0.4f);
  set.add(paint, middle, length(half), [=](Vec p) {
    const Vec q = p - middle;
    const float x = q.x - apart * std::round(q.x / apart), y = q.y - apart * std::round(q.y / apart);
    return std::max(block(q, {}, half, 0.005f), hole - std::hypot(x, y));
  });
}

/// Bars side by side.
void addGrating(Set& set, Dice& dice, Vec middle, Vec half) {
  const int paint = set.paint(dice, 0.4f);
  const float apart = dice.between(0.08f, 0.25f), bar = apart * dice.between(0.1f, 0.25f);
  const bool level = dice.chance(0.4f);
  set.add(paint, middle, length(half), [=](Vec p) {
    const Vec q = p - middle;
    const float along = level ? q.y : q.x, side = along - apart * std::round(along / apart);
    return std::max(std::hypot(side, q.z) - bar, block(q, {}, {half.x, half.y, half.z + bar}, 0.01f));
  });
}

}  // namespace

void setLeaves(Set& set, Dice& dice) {
  daylight(set, dice);
  Scene& scene = set.scene;
  scene.camera = {{0, 1.5f, -2.2f}, {dice.between(-0.3f, 0.3f), dice.between(1.1f, 1.9f), 0}, 1.7f, 0};
  scene.fog = 0;
  scene.reach = 30;
  const int ground = set.paint(dice, 0.8f);
  set.paints[static_cast<std::size_t>(ground)].grain = dice.between(2, 12);
  set.add(ground, {}, 1e5f, [](Vec p) { return p.y; });
  if (dice.chance(0.75f)) {
    // A wall whose pattern is as strong as the leaves.
    const int wall = set.paint(dice, 1.0f);
    set.paints[static_cast<std::size_t>(wall)].grain = dice.between(2, 14);
    const float back = dice.between(0.6f, 3), turn = dice.between(-0.35f, 0.35f);
    set.add(wall, {}, 1e5f, [=](Vec p) { return 0.9f * (back + turn * p.x - p.z); });
  }
  const int layers = 1 + dice.upTo(3);
  for (int i = 0; i < layers; ++i) {
    Leaves leaves;
    leaves.middle = {0, 0, dice.between(-0.7f, 0.5f)};
    leaves.size = dice.between(0.07f, 0.22f);
    leaves.depth = dice.between(0.03f, 0.2f);
    leaves.density = dice.between(0.6f, 0.95f);
    leaves.patches = dice.between(0.5f, 1.4f);
    leaves.open = dice.between(-0.15f, 0.2f);
    leaves.seed = static_cast<std::uint64_t>(dice.upTo(100000));
    addLeaves(set, dice, leaves);
  }
  const int bark = set.paint(dice, 0.7f);
  for (int i = dice.upTo(3); i > 0; --i) {
    const Vec foot{dice.between(-1.2f, 1.2f), 0, dice.between(-0.8f, 0.4f)};
    addLimb(set, bark, foot, foot + Vec{dice.between(-0.6f, 0.6f), 3.5f, 0}, dice.between(0.03f, 0.12f), 0.04f);
  }
}

void setMachine(Set& set, Dice& dice) {
  Scene& scene = set.scene;
  daylight(set, dice);
  scene.camera = {{dice.between(-0.4f, 0.4f), 1.3f, -2.4f}, {0, dice.between(0.9f, 1.3f), 0}, 1.8f, 0};
  scene.fog = 0;
  scene.reach = 30;
  const int floor = set.paint(dice, 0.6f), wall = set.paint(dice, 0.6f);
  set.add(floor, {}, 1e5f, [](Vec p) { return p.y; });
  const float back = dice.between(0.8f, 3);
  set.add(wall, {}, 1e5f, [back](Vec p) { return back - p.z; });
  const int count = 4 + dice.upTo(6);
  for (int i = 0; i < count; ++i) {
    const Vec at{dice.between(-1.1f, 1.1f), dice.between(0.4f, 1.8f), dice.between(-0.9f, 0.6f)};
    switch (dice.upTo(5)) {
      case 0:
      case 1:
        addWheel(set, dice, at, dice.between(0.2f, 0.65f));
        break;
      case 2:
        addPlate(set, dice, at, {dice.between(0.2f, 0.6f), dice.between(0.2f, 0.6f), dice.between(0.02f, 0.12f)});
        break;
      case 3:
        addGrating(set, dice, at, {dice.between(0.3f, 0.8f), dice.between(0.3f, 0.8f), 0.02f});
        break;
      default: {
        const float pipe = dice.between(0.03f, 0.09f);
        const Vec way = dice.chance(0.5f) ? Vec{3, 0, dice.between(-0.8f, 0.8f)} : Vec{0, 3, 0};
        addLimb(set, set.paint(dice, 0.4f), at - way, at + way, pipe, pipe);
      }
    }
  }
}

}  // namespace almanac
