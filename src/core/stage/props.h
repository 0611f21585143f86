/// Things of the set that are no bodies. All stand on y = 0 about their place unless they say otherwise; metres.
#pragma once

#include <cstdint>

#include "core/stage/mesh.h"

namespace hscaffold::stage {

/// Where a thing stands and which way it looks: turned about the upright axis, degrees, from facing +z to the left.
struct Place {
  Vec3 at = Vec3::Zero();
  float turn = 0;
  [[nodiscard]] Vec3 map(const Vec3& local) const;
  [[nodiscard]] Vec3 direction(const Vec3& local) const;
  friend bool operator==(const Place&, const Place&) = default;
};

Mesh box(const Place& place, const Vec3& size, Rgb colour);
/// `steps` going up away from the viewer.
Mesh stair(const Place& place, int steps, float width, Rgb colour);
Mesh table(const Place& place, const Vec3& size, Rgb colour);
Mesh chair(const Place& place, float size, Rgb colour);
Mesh post(const Place& place, float height, float thick, Rgb colour);
Mesh ball(const Place& place, float radius, Rgb colour);
/// Upright, of an oval across and deep.
Mesh cylinder(const Place& place, const Vec3& size, Rgb colour);
/// A board on two blocks.
Mesh bench(const Place& place, const Vec3& size, Rgb colour);
/// An open hull, its bow away from +z, lying on the ground.
Mesh boat(const Place& place, const Vec3& size, Rgb colour);
/// Upright posts with two bars.
Mesh rail(const Place& place, float length, float height, Rgb colour);
/// An opening in a wall, round at the top.
Mesh arch(const Place& place, float width, float height, float deep, Rgb colour);
Mesh wall(const Place& place, float width, float height, Rgb colour);
/// Cloth that hangs between two posts, waved by `wind` [0, 1].
Mesh sheet(const Place& place, float width, float height, float wind, Rgb colour);
/// A lump whose surface wanders: rock, bush, crown, cloud. `rough` [0, 1]; the middle lies at the place's height.
Mesh lump(const Place& place, const Vec3& halfSize, float rough, std::uint32_t seed, Rgb colour, int around = 12);
/// Trunk, boughs and crown.
Mesh tree(const Place& place, float height, std::uint32_t seed, Rgb bark, Rgb leaves, bool bare);
/// Stalks that lean every way from one root: grass, reeds, a plant in a pot.
Mesh stalks(const Place& place, float height, int count, std::uint32_t seed, Rgb colour);

/// Land about the place: level near it, hills of that height farther off.
Mesh land(const Place& place, float reach, float hills, std::uint32_t seed, Rgb colour, Rgb far);
/// Floor, ceiling and walls round the place, without the wall behind the viewer.
Mesh room(const Place& place, const Vec3& size, Rgb floor, Rgb walls, Rgb ceiling);

}  // namespace hscaffold::stage
