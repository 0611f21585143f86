#include "places.h"

#include <Eigen/Geometry>
#include <algorithm>
#include <array>

namespace hscaffold::training {
namespace {

using stage::Lighting;
using stage::Mesh;
using stage::Place;
using stage::Vec3;

Vec3 anyDirection(Dice& dice) { return Vec3(dice.normal(), dice.normal(), dice.normal()).normalized(); }

void light(Dice& dice, Lighting& lighting, bool inside) {
  const Rgb warm{1.0f, 0.85f, 0.65f}, cool{0.7f, 0.85f, 1.0f};
  const float all = dice.between(0.5f, 1.1f), contrast = dice.even();
  const auto tint = [&] {
    const float t = dice.even();
    return warm * t + cool * (1 - t);
  };
  lighting.above = tint() * (all * (0.75f - 0.55f * contrast));
  lighting.below = tint() * (all * (0.45f - 0.35f * contrast));
  lighting.lights.clear();
  Vec3 from = anyDirection(dice);
  from.y() = std::fabs(from.y()) + (inside ? 0.1f : 0.25f);
  lighting.lights.push_back({from.normalized(), tint() * (all * (0.3f + 0.9f * contrast))});
  if (dice.chance(0.3f)) lighting.lights.push_back({anyDirection(dice), dice.colour(0.1f, 0.6f)});
  lighting.skyTop = dice.chance(0.7f) ? Rgb{0.15f, 0.35f, 0.75f} * dice.ratio(0.2f, 1.5f) : dice.colour(0.05f, 0.9f);
  lighting.skyRim = dice.chance(0.7f) ? lighting.skyTop * 0.4f + Rgb{0.55f, 0.55f, 0.52f} : dice.colour(0.1f, 0.95f);
  lighting.veil = lighting.skyRim;
  lighting.veilLength = dice.chance(0.25f) ? dice.ratio(14, 120) : dice.chance(0.5f) ? 300.0f : 0.0f;
  if (inside) lighting.veilLength = 0;
}

void texture(Dice& dice, Mesh& mesh, float size) {
  mesh.material.grain = dice.chance(0.7f) ? dice.between(0.1f, 0.8f) : 0;
  mesh.material.grainSize = size * dice.ratio(0.02f, 0.6f);
  mesh.material.shine = dice.chance(0.2f) ? dice.even() : 0;
}

}  // namespace

Surroundings openLand(Dice& dice) {
  Surroundings out;
  light(dice, out.lighting, false);
  const Rgb ground = dice.colour(0.04f, 0.7f),
            far = dice.chance(0.6f) ? ground * 0.6f + out.lighting.veil * 0.4f : dice.colour();
  auto land = stage::land({}, 120, dice.chance(0.6f) ? dice.between(0, 14) : 0.0f, dice.seed(), ground, far);
  texture(dice, land, 2);
  out.meshes.push_back(std::move(land));
  scatter(dice, out.meshes, {0, 0, -8}, 14, dice.whole(0, 10), true);
  out.reach = 5;
  return out;
}

Surroundings indoors(Dice& dice) {
  Surroundings out;
  light(dice, out.lighting, true);
  out.closed = true;
  out.inside = {dice.between(3.5f, 10), dice.between(2.4f, 5), dice.between(4, 11)};
  const float turn = dice.chance(0.5f) ? dice.between(-45, 45) : 0.0f;
  auto walls = stage::room({{0, 0, 0}, turn}, out.inside, dice.colour(), dice.colour(0.05f), dice.colour(0.2f, 0.9f));
  texture(dice, walls, 2);
  out.meshes.push_back(std::move(walls));
  const float reach = 0.42f * std::min(out.inside.x(), out.inside.z());
  scatter(dice, out.meshes, {0, 0, -0.5f}, reach, dice.whole(1, 8), false);
  // Pictures and windows.
  for (int i = dice.whole(0, 4); i > 0; --i) {
    const float w = dice.between(0.3f, 1.2f);
    Mesh picture = stage::box(
        {{dice.between(-0.4f, 0.4f) * out.inside.x(), dice.between(0.9f, 1.6f), -out.inside.z() / 2 + 0.04f}, turn},
        {w, w * dice.between(0.6f, 1.4f), 0.04f}, dice.colour());
    out.meshes.push_back(std::move(picture));
  }
  out.reach = reach;
  return out;
}

void scatter(Dice& dice, std::vector<Mesh>& into, const Vec3& about, float reach, int count, bool outside) {
  for (int i = 0; i < count; ++i) {
    const Place place{about + Vec3(dice.between(-1, 1), 0, dice.between(-1, 1)) * reach, dice.between(-180, 180)};
    const Rgb colour = dice.colour();
    Mesh mesh;
    switch (dice.whole(0, outside ? 12 : 8)) {
      case 0:
        mesh = stage::box(place, Vec3(dice.ratio(0.2f, 1.6f), dice.ratio(0.2f, 2), dice.ratio(0.2f, 1.6f)), colour);
        break;
      case 1:
        mesh = stage::table(place, {dice.between(0.8f, 1.8f), dice.between(0.5f, 1), dice.between(0.6f, 1)}, colour);
        break;
      case 2:
        mesh = stage::chair(place, dice.between(0.8f, 1.2f), colour);
        break;
      case 3:
        mesh = stage::post(place, dice.ratio(0.6f, 5), dice.ratio(0.02f, 0.2f), colour);
        break;
      case 4:
        mesh = stage::ball(place, dice.ratio(0.1f, 0.8f), colour);
        break;
      case 5:
        mesh = stage::rail(place, dice.between(1.5f, 6), dice.between(0.7f, 1.4f), colour);
        break;
      case 6:
        mesh = stage::stalks(place, dice.ratio(0.4f, 1.6f), dice.whole(5, 20), dice.seed(), colour);
        break;
      case 7:
        mesh = stage::stair(place, dice.whole(3, 12), dice.between(0.8f, 3), colour);
        break;
      case 8:
        mesh = stage::sheet(place, dice.between(0.8f, 3), dice.between(1, 2.4f), dice.even(), colour);
        break;
      case 9:
        mesh = stage::arch(place, dice.between(1, 3), dice.between(2, 5), dice.between(0.3f, 2), colour);
        break;
      case 10:
        mesh = stage::wall(place, dice.between(1, 8), dice.between(0.6f, 5), colour);
        break;
      case 11:
        mesh = stage::lump(place, Vec3(dice.ratio(0.2f, 2), dice.ratio(0.2f, 1.4f), dice.ratio(0.2f, 2)), dice.even(),
                           dice.seed(), colour);
        break;
      default:
        mesh =
            stage::tree(place, dice.between(1.5f, 7), dice.seed(), dice.colour(0.01f, 0.3f), colour, dice.chance(0.4f));
    }
    texture(dice, mesh, 0.6f);
    into.push_back(std::move(mesh));
  }
}

void pile(Dice& dice, std::vector<Mesh>& into, int count, bool table) {
  const float high = table ? 0.75f : 0.0f;
  if (table) {
    auto board = stage::table({{0, 0, 0}, dice.between(-30, 30)}, {1.6f, high, 1.1f}, dice.colour());
    texture(dice, board, 0.5f);
    into.push_back(std::move(board));
  }
  for (int i = 0; i < count; ++i) {
    const float size = dice.ratio(0.03f, 0.22f);
    const Place place{{0.35f * dice.normal(), high + (table ? 0 : 0.1f * dice.even()), 0.28f * dice.normal()},
                      dice.between(-180, 180)};
    const Rgb colour = dice.colour();
    Mesh mesh;
    switch (dice.whole(0, 4)) {
      case 0:
        mesh = stage::box(place, Vec3(dice.between(0.5f, 2), dice.between(0.3f, 2.2f), dice.between(0.5f, 2)) * size,
                          colour);
        break;
      case 1:
        mesh = stage::ball(place, size, colour);
        break;
      case 2: {
        Place up = place;
        up.at.y() += size;
        mesh = stage::lump(up, Vec3(dice.between(0.6f, 1.6f), 1, dice.between(0.6f, 1.6f)) * size, dice.even(),
                           dice.seed(), colour, 14);
        break;
      }
      case 3: {
        // Lathed: vases, cups, bottles.
        std::vector<stage::Ring> rings;
        float radius = size * dice.between(0.3f, 1);
        for (int r = 0; r < 6; ++r) {
          const float y = place.at.y() + size * 2.2f * static_cast<float>(r) / 5;
          rings.push_back({{place.at.x(), y, place.at.z()}, {radius, 0, 0}, {0, 0, -radius}, colour});
          radius = std::clamp(radius * dice.ratio(0.6f, 1.6f), 0.15f * size, 1.3f * size);
        }
        stage::addTube(mesh, rings, 14);
        stage::computeNormals(mesh);
        break;
      }
      default:
        mesh = stage::stalks(place, 2.5f * size, dice.whole(6, 24), dice.seed(), colour);
    }
    texture(dice, mesh, size);
    into.push_back(std::move(mesh));
  }
}

void clutter(Dice& dice, std::vector<Mesh>& into, const Vec3& about, float reach, int count) {
  Mesh mesh;
  for (int i = 0; i < count; ++i) {
    const Vec3 a = about + Vec3(dice.between(-1, 1) * reach, dice.between(0, 2), dice.between(-1, 1) * reach);
    const Vec3 b = a + anyDirection(dice) * dice.between(0.2f, 0.8f),
               c = b + anyDirection(dice) * dice.between(0.2f, 0.6f);
    const float thick = dice.between(0.03f, 0.10f);
    const std::array profile = {stage::Girth{0, 1, 1, 0}, stage::Girth{1, 0.8f, 0.8f, 0},
                                stage::Girth{2, 0.6f, 0.6f, 0}};
    auto rings = stage::limbRings(a, b, c, {1, 0, 0}, {1, 0, 0}, profile, thick);
    const Rgb colour = dice.colour();
    for (auto& ring : rings) ring.colour = colour;
    stage::addTube(mesh, rings, 7);
  }
  stage::computeNormals(mesh);
  into.push_back(std::move(mesh));
}

}  // namespace hscaffold::training
