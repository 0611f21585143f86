#include "depth_scenes.h"

#include <algorithm>
#include <array>

#include "core/image/filter.h"
#include "depth_set.h"

namespace almanac {
namespace {

using hscaffold::Image;
using hscaffold::Rgb;
using hscaffold::standin::fractalNoise;
using hscaffold::standin::hashOf;

/// A standing person, `tall` high; what is not seen of it lies outside the frame.
void addPerson(Set& set, Dice& dice, Vec feet, float tall) {
  const int skin = set.paint(dice, 0.05f), coat = set.paint(dice, 0.3f), legs = set.paint(dice, 0.2f),
            hair = set.paint(dice, 0.4f);
  set.paints[static_cast<std::size_t>(skin)].colour = {0.5f, 0.3f, 0.2f};
  const float s = tall / 1.75f, turn = dice.between(-1.2f, 1.2f), c = std::cos(turn), z = std::sin(turn);
  const auto at = [&](float side, float up) { return feet + Vec{side * s * c, up * s, side * s * z}; };
  const float stride = dice.between(0.08f, 0.28f);
  for (const float side : {-1.0f, 1.0f}) {
    addLimb(set, legs, at(side * 0.09f, 0.92f), at(side * stride, 0.06f), 0.09f * s, 0.06f * s);
    const Vec elbow = at(side * dice.between(0.26f, 0.42f), dice.between(1.0f, 1.35f));
    addLimb(set, coat, at(side * 0.19f, 1.40f), elbow, 0.065f * s, 0.05f * s);
    addLimb(set, skin, elbow, at(side * dice.between(0.2f, 0.6f), dice.between(0.85f, 1.6f)), 0.045f * s, 0.035f * s);
  }
  addLimb(set, coat, at(0, 0.95f), at(0, 1.38f), 0.15f * s, 0.18f * s);
  addLimb(set, skin, at(0, 1.45f), at(0, 1.55f), 0.055f * s, 0.05f * s);
  addBall(set, skin, at(0, 1.64f), 0.115f * s);
  addBall(set, hair, at(0, 1.68f) + Vec{0, 0, 0.03f * s}, 0.118f * s);
}

void addBeast(Set& set, Dice& dice, Vec feet, float tall) {
  const int fur = set.paint(dice, 0.6f);
  const float turn = dice.between(-1.4f, 1.4f), c = std::cos(turn), z = std::sin(turn);
  const auto at = [&](float along, float up, float side) {
    return feet + Vec{tall * (along * c - side * z), tall * up, tall * (along * z + side * c)};
  };
  addLimb(set, fur, at(-0.5f, 0.72f, 0), at(0.5f, 0.75f, 0), 0.2f * tall, 0.22f * tall);
  for (const float along : {-0.5f, 0.5f})
    for (const float side : {-0.12f, 0.12f})
      addLimb(set, fur, at(along, 0.65f, side), at(along, 0.04f, side), 0.09f * tall, 0.05f * tall);
  addLimb(set, fur, at(0.55f, 0.85f, 0), at(0.8f, 1.1f, 0), 0.13f * tall, 0.1f * tall);
  addLimb(set, fur, at(0.8f, 1.1f, 0), at(1.05f, 1.02f, 0), 0.12f * tall, 0.06f * tall);
  addLimb(set, fur, at(-0.6f, 0.8f, 0), at(-1.0f, 0.6f, 0), 0.05f * tall, 0.03f * tall);
}

void addTree(Set& set, Dice& dice, Vec foot, float tall) {
  const int bark = set.paint(dice, 0.6f), leaves = set.paint(dice, 1.0f);
  set.paints[static_cast<std::size_t>(leaves)].colour = {0.08f, dice.between(0.1f, 0.25f), 0.05f};
  addLimb(set, bark, foot, foot + Vec{0, 0.7f * tall, 0}, 0.05f * tall, 0.03f * tall);
  for (int i = 0; i < 4; ++i)
    addBall(set, leaves,
            foot + Vec{tall * dice.between(-0.22f, 0.22f), tall * dice.between(0.6f, 0.95f),
                       tall * dice.between(-0.22f, 0.22f)},
            tall * dice.between(0.15f, 0.28f));
}

Vec somewhere(Dice& dice, float nearest, float farthest, float spread) {
  const float z = nearest * std::pow(farthest / nearest, dice.between(0, 1));
  return {dice.between(-spread, spread) * (1 + z * 0.5f), 0, z};
}

/// Hills or flat ground under the open sky.
void openGround(Set& set, Dice& dice, float roughness) {
  const int ground = set.paint(dice, 0.7f);
  set.paints[static_cast<std::size_t>(ground)].grain = dice.between(0.5f, 4);
  const auto seed = static_cast<std::uint64_t>(dice.upTo(100000));
  set.add(ground, {}, 1e5f, [=](Vec p) {
    const float swell = fractalNoise(seed, p.x * 0.12f, p.z * 0.12f, 3) * (1 + 0.05f * std::max(0.0f, p.z));
    return 0.7f * (p.y - roughness * swell);
  });
}

void setLand(Set& set, Dice& dice) {
  daylight(set, dice);
  const float eye = dice.between(1.2f, 5);
  set.scene.camera = {{0, eye, -2}, {dice.between(-2, 2), eye * dice.between(0.5f, 1.15f), 14}, 1.6f, 0};
  set.scene.fog = dice.chance(0.6f) ? dice.between(0.004f, 0.05f) : 0;
  openGround(set, dice, dice.between(0, 2.2f));
  const int count = 3 + dice.upTo(9);
  for (int i = 0; i < count; ++i) {
    const Vec foot = somewhere(dice, 2.5f, 45, 0.9f);
    switch (dice.upTo(4)) {
      case 0:
        addTree(set, dice, foot, dice.between(1.5f, 7));
        break;
      case 1: {
        const Vec half{dice.between(0.5f, 2.5f), dice.between(0.5f, 2.5f), dice.between(0.5f, 2)};
        addBlock(set, set.paint(dice, 0.5f), foot + Vec{0, half.y * 0.8f, 0}, half, dice.between(-1, 1));
        break;
      }
      case 2:
        addBall(set, set.paint(dice, 0.7f), foot, dice.between(0.3f, 1.4f));
        break;
      default:
        addLimb(set, set.paint(dice, 0.4f), foot, foot + Vec{0, dice.between(0.8f, 4), 0}, 0.12f, 0.08f);
    }
  }
  // A branch that hangs into the picture from above, nearer than all that stands below.
  if (dice.chance(0.3f)) {
    const int leaves = set.paint(dice, 1.0f);
    for (int i = 0; i < 7; ++i)
      addBall(set, leaves, set.scene.camera.eye + Vec{dice.between(-1.6f, 1.6f), dice.between(0.7f, 1.1f), 2.4f},
              dice.between(0.1f, 0.3f));
  }
}

void setRoom(Set& set, Dice& dice) {
  Scene& scene = set.scene;
  const float wide = dice.between(1.6f, 4), tall = dice.between(2.3f, 3.6f), deep = dice.between(3.5f, 9);
  scene.camera = {{dice.between(-0.6f, 0.6f) * wide, dice.between(1.1f, 1.8f), -1.5f},
                  {dice.between(-0.8f, 0.8f) * wide, dice.between(0.7f, 1.7f), 4},
                  dice.between(1.2f, 1.8f),
                  0};
  scene.sun = unit({dice.between(-0.6f, 0.6f), 1, dice.between(-0.8f, 0.2f)});
  scene.sunColour = {0.5f, 0.46f, 0.4f};
  scene.skyColour = {0.9f, 0.86f, 0.8f};
  scene.sky = [](Vec) { return Rgb{}; };
  const int walls = set.paint(dice, 0.15f), floor = set.paint(dice, 0.5f), ceiling = set.paint(dice, 0.05f);
  set.paints[static_cast<std::size_t>(ceiling)].colour = {0.6f, 0.58f, 0.55f};
  set.add(walls, {}, 1e5f, [=](Vec p) { return std::min({wide - p.x, p.x + wide, deep - p.z}); });
  set.add(floor, {}, 1e5f, [](Vec p) { return p.y; });
  set.add(ceiling, {}, 1e5f, [=](Vec p) { return tall - p.y; });
  for (int i = dice.upTo(4); i > 0; --i) {  // frames and doors on the walls, rugs on the floor
    const int paint = set.paint(dice, 0.4f);
    const float x = dice.between(0.3f, 0.7f), y = dice.between(0.3f, 0.9f);
    switch (dice.upTo(4)) {
      case 0:
        addBlock(set, paint, {dice.between(-0.7f, 0.7f) * wide, dice.between(1, 1.7f), deep}, {x, y, 0.04f});
        break;
      case 1:
        addBlock(set, paint, {wide, dice.between(1, 1.7f), dice.between(0.5f, 1) * deep}, {0.04f, y, x});
        break;
      case 2:
        addBlock(set, paint, {-wide, dice.between(1, 1.7f), dice.between(0.5f, 1) * deep}, {0.04f, y, x});
        break;
      default:
        addBlock(set, paint, {dice.between(-0.4f, 0.4f) * wide, 0, dice.between(0.3f, 0.7f) * deep},
                 {2 * x, 0.02f, 2 * y});
    }
  }
  const int count = 2 + dice.upTo(5);
  for (int i = 0; i < count; ++i) {
    const Vec foot{dice.between(-0.9f, 0.9f) * wide, 0, dice.between(0.8f, 0.95f * deep)};
    const int paint = set.paint(dice, 0.4f);
    switch (dice.upTo(4)) {
      case 0: {  // a table
        const float h = dice.between(0.6f, 0.8f), x = dice.between(0.4f, 0.8f), z = dice.between(0.3f, 0.6f);
        addBlock(set, paint, foot + Vec{0, h, 0}, {x, 0.03f, z});
        for (const float sx : {-1.0f, 1.0f})
          for (const float sz : {-1.0f, 1.0f})
            addLimb(set, paint, foot + Vec{sx * x * 0.9f, 0, sz * z * 0.9f},
                    foot + Vec{sx * x * 0.9f, h, sz * z * 0.9f}, 0.035f, 0.035f);
        addBall(set, set.paint(dice, 0.4f), foot + Vec{0, h + 0.12f, 0}, 0.12f);
        break;
      }
      case 1: {
        const Vec half{dice.between(0.25f, 0.7f), dice.between(0.4f, 1.1f), dice.between(0.2f, 0.5f)};
        addBlock(set, paint, foot + Vec{0, half.y, 0}, half, dice.between(-0.4f, 0.4f));
        break;
      }
      case 2: {  // a lamp from the ceiling
        addLimb(set, paint, foot + Vec{0, tall, 0}, foot + Vec{0, tall - 0.7f, 0}, 0.015f, 0.015f);
        addBall(set, set.paint(dice, 0.1f), foot + Vec{0, tall - 0.8f, 0}, 0.2f);
        break;
      }
      default:
        addLimb(set, paint, foot, foot + Vec{0, dice.between(0.5f, 1.9f), 0}, 0.15f, 0.08f);
    }
  }
}

/// Things that fill the picture before something far: leaves, fruit on twigs, a heap seen from close by.
void setCloseUp(Set& set, Dice& dice) {
  daylight(set, dice);
  Scene& scene = set.scene;
  scene.camera = {{0, 1.2f, -0.8f}, {dice.between(-0.1f, 0.1f), 1.2f + dice.between(-0.25f, 0.15f), 0}, 2.0f, 0};
  scene.fog = 0;
  openGround(set, dice, 0);
  if (dice.chance(0.5f)) addBlock(set, set.paint(dice, 0.5f), {0, 1, dice.between(1, 4)}, {6, 5, 0.2f}, 0);
  const int leaves = set.paint(dice, 0.5f), fruit = set.paint(dice, 0.4f), twig = set.paint(dice, 0.5f);
  for (const int paint : {leaves, fruit, twig}) set.paints[static_cast<std::size_t>(paint)].grain *= 5;
  const Vec middle{dice.between(-0.15f, 0.15f), 1.2f + dice.between(-0.1f, 0.15f), 0};
  const int count = 4 + dice.upTo(10);
  for (int i = 0; i < count; ++i) {
    const Vec at = middle + Vec{dice.between(-0.35f, 0.35f), dice.between(-0.25f, 0.25f), dice.between(-0.2f, 0.3f)};
    switch (dice.upTo(3)) {
      case 0:
        addBall(set, fruit, at, dice.between(0.04f, 0.11f));
        break;
      case 1:
        addLimb(set, leaves, at, at + Vec{dice.between(-0.15f, 0.15f), dice.between(-0.15f, 0.15f), 0.05f}, 0.05f,
                0.01f);
        break;
      default:
        addLimb(set, twig, at, at + Vec{dice.between(-0.6f, 0.6f), dice.between(-0.6f, 0.6f), 0.2f}, 0.02f, 0.015f);
    }
  }
  set.focus = 0.8f;
  if (dice.chance(0.7f)) set.opening = dice.between(0.02f, 0.06f);
}

/// A heap on the ground or table seen from above: no horizon, what is on top is nearest.
void setFromAbove(Set& set, Dice& dice) {
  daylight(set, dice);
  Scene& scene = set.scene;
  scene.camera = {{0, dice.between(0.9f, 1.5f), -dice.between(0.1f, 0.5f)}, {0, 0, 0}, 2.2f, 0};
  scene.fog = 0;
  const int table = set.paint(dice, 0.5f);
  set.paints[static_cast<std::size_t>(table)].grain = dice.between(6, 30);
  set.add(table, {}, 1e5f, [](Vec p) { return p.y; });
  const int count = 3 + dice.upTo(12);
  for (int i = 0; i < count; ++i) {
    const int paint = set.paint(dice, 0.5f);
    set.paints[static_cast<std::size_t>(paint)].grain *= 6;
    const float size = dice.between(0.03f, 0.13f);
    const Vec foot{dice.between(-0.45f, 0.45f), 0, dice.between(-0.3f, 0.3f)};
    if (dice.chance(0.5f))
      addBall(set, paint, foot + Vec{0, size, 0}, size);
    else
      addBlock(set, paint, foot + Vec{0, size, 0}, {size, size * dice.between(0.3f, 1), size}, dice.between(-1, 1));
  }
}

void setTable(Set& set, Dice& dice) {
  const float which = dice.between(0, 1);
  if (which < 0.35f) return setCloseUp(set, dice);
  if (which < 0.55f) return setFromAbove(set, dice);
  daylight(set, dice);
  Scene& scene = set.scene;
  const float high = dice.between(0.25f, 0.8f), back = dice.between(0.5f, 2.2f);
  scene.camera = {{0, high, -0.75f}, {dice.between(-0.08f, 0.08f), dice.between(0, 0.12f), 0}, 2.0f, 0};
  scene.fog = 0;
  const int table = set.paint(dice, 0.6f), wall = set.paint(dice, 0.25f);
  set.paints[static_cast<std::size_t>(table)].grain = dice.between(6, 30);
  set.add(table, {}, 1e5f, [](Vec p) { return p.y; });
  set.add(wall, {}, 1e5f, [back](Vec p) { return back - p.z; });
  const int count = 1 + dice.upTo(6);
  for (int i = 0; i < count; ++i) {
    const Vec foot{dice.between(-0.32f, 0.32f), 0, dice.between(-0.3f, 0.35f)};
    const int paint = set.paint(dice, 0.5f);
    set.paints[static_cast<std::size_t>(paint)].grain *= 6;
    const float size = dice.between(0.03f, 0.11f);
    switch (dice.upTo(3)) {
      case 0:
        addBall(set, paint, foot + Vec{0, size, 0}, size);
        break;
      case 1: {
        addLimb(set, paint, foot + Vec{0, size, 0}, foot + Vec{0, size * 2.4f, 0}, size * 0.9f, size * 0.8f);
        addLimb(set, paint, foot + Vec{0, size * 2.8f, 0}, foot + Vec{0, size * 4, 0}, size * 0.35f, size * 0.3f);
        break;
      }
      default:
        addBlock(set, paint, foot + Vec{0, size * 0.7f, 0}, {size, size * 0.7f, size * 0.8f}, dice.between(-1, 1));
    }
  }
  if (dice.chance(0.6f)) {
    set.focus = 0.8f + dice.between(-0.15f, 0.1f);
    set.opening = dice.between(0.02f, 0.06f);
  }
}

void setFigures(Set& set, Dice& dice) {
  daylight(set, dice);
  Scene& scene = set.scene;
  const bool portrait = dice.chance(0.35f);
  openGround(set, dice, portrait ? 0 : dice.between(0, 0.6f));
  if (portrait) {
    const float eye = dice.between(1.4f, 1.7f);
    scene.camera = {{0, eye, -1}, {0, dice.between(1.35f, 1.6f), 0}, 1.9f, 0};
    addPerson(set, dice, {dice.between(-0.15f, 0.15f), 0, 0.1f}, 1.75f);
    if (dice.chance(0.5f)) addBlock(set, set.paint(dice, 0.3f), {0, 2, 4}, {8, 4, 0.2f}, 0);
    for (int i = 0; i < 3; ++i) addTree(set, dice, {dice.between(-4, 4), 0, dice.between(4, 12)}, dice.between(2, 5));
    set.focus = 1.1f;
    set.opening = dice.between(0, 0.05f);
    return;
  }
  const float eye = dice.between(1.0f, 2.4f);
  scene.camera = {{0, eye, -2}, {dice.between(-0.5f, 0.5f), dice.between(0.7f, 1.3f), 4}, 1.6f, 0};
  scene.fog = dice.chance(0.4f) ? dice.between(0.005f, 0.04f) : 0;
  const int count = 1 + dice.upTo(5);
  for (int i = 0; i < count; ++i) {
    const Vec feet = somewhere(dice, 1.5f, 14, 0.5f);
    if (dice.chance(0.3f))
      addBeast(set, dice, feet, dice.between(0.4f, 1.1f));
    else
      addPerson(set, dice, feet, dice.between(1.2f, 1.9f));
  }
  for (int i = 0; i < 4; ++i) addTree(set, dice, somewhere(dice, 8, 40, 0.8f), dice.between(2, 6));
}

Image<Rgb> outOfFocus(const Set& set, const Image<Rgb>& sharp, const Image<float>& near) {
  std::array<Image<Rgb>, 5> levels;
  const auto height = static_cast<float>(sharp.height());
  levels[0] = sharp.clone();
  for (std::size_t i = 1; i < levels.size(); ++i)
    levels[i] = hscaffold::gaussianBlur(sharp.view(), 0.25f * static_cast<float>(i) * set.opening * height);
  const auto blurOf = hscaffold::gaussianBlur(near.view(), 0.004f * height);
  Image<Rgb> out(sharp.size());
  for (int y = 0; y < sharp.height(); ++y) {
    for (int x = 0; x < sharp.width(); ++x) {
      const float level = 4 * std::min(0.999f, std::fabs(1 - set.focus * blurOf(x, y)));
      const auto i = static_cast<std::size_t>(level);
      const float t = level - static_cast<float>(i);
      out(x, y) = levels[i](x, y) * (1 - t) + levels[i + 1](x, y) * t;
    }
  }
  return out;
}

}  // namespace

const char* nameOf(DepthFamily family) {
  switch (family) {
    case DepthFamily::land:
      return "open land";
    case DepthFamily::room:
      return "rooms";
    case DepthFamily::table:
      return "close-ups and table tops";
    case DepthFamily::figures:
      return "figures";
    case DepthFamily::leaves:
      return "leaves";
    default:
      return "machines";
  }
}

DepthScene depthScene(DepthFamily family, std::uint64_t seed, hscaffold::Size size) {
  Dice dice(hscaffold::standin::mixed(hashOf(nameOf(family)), seed));
  Set set;
  set.flat = dice.chance(0.15f);
  switch (family) {
    case DepthFamily::land:
      setLand(set, dice);
      break;
    case DepthFamily::room:
      setRoom(set, dice);
      break;
    case DepthFamily::table:
      setTable(set, dice);
      break;
    case DepthFamily::figures:
      setFigures(set, dice);
      break;
    case DepthFamily::leaves:
      setLeaves(set, dice);
      break;
    case DepthFamily::machines:
      setMachine(set, dice);
  }
  Scene& scene = set.scene;
  scene.surface = [&set](Vec p) {
    Surface s;
    for (const Thing& thing : set.things) {
      const float away = length(p - thing.centre) - thing.radius;
      if (away > std::max(0.3f * thing.radius, s.distance)) continue;
      s = nearer(
          s, away > 0.3f * thing.radius + 0.1f ? Surface{away, thing.paint} : Surface{thing.distance(p), thing.paint});
    }
    return s;
  };
  scene.colour = [&set](int material, Vec p, Vec, float&) {
    const Paint& paint = set.paints[static_cast<std::size_t>(material)];
    const auto id = static_cast<std::uint64_t>(material);
    const float uneven = set.flat ? 0 : paint.unevenness;
    const float patch = fractalNoise(100 + id, (p.x + 0.37f * p.y) * paint.grain, (p.z + 0.71f * p.y) * paint.grain, 3);
    return paint.colour * std::max(0.15f, 1 + uneven * patch);
  };
  DepthScene out{family, seed, photograph(scene, size, seed), nearness(scene, size)};
  if (set.opening > 0) out.picture = outOfFocus(set, out.picture, out.nearness);
  return out;
}

}  // namespace almanac
