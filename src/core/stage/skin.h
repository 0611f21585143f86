/// Skin that is carried by joints: each point follows several of them by dual quaternions (Kavan, Collins, Zara and
/// O'Sullivan 2008, "Geometric skinning with approximate dual quaternion blending"), which neither pinches nor shrinks
/// where limbs are twisted.
#pragma once

#include <Eigen/Geometry>
#include <array>
#include <cstdint>
#include <span>

#include "core/stage/mesh.h"

namespace hscaffold::stage {

/// What carries a point, and by how much each; shares sum to 1, what is not used has none.
struct Carried {
  std::array<std::uint8_t, 4> by{};
  std::array<float, 4> share{1, 0, 0, 0};

  static Carried wholly(std::size_t joint) { return {{static_cast<std::uint8_t>(joint)}, {1, 0, 0, 0}}; }
  /// @param second  share of `b`, [0, 1]
  static Carried between(std::size_t a, std::size_t b, float second) {
    return {{static_cast<std::uint8_t>(a), static_cast<std::uint8_t>(b)}, {1 - second, second, 0, 0}};
  }
};

/// A turn about a place. @param axis  of any length but 0
Eigen::Isometry3f turnedAbout(const Vec3& at, const Vec3& axis, float degrees);

/// Points brought from where they were built to where their joints have gone.
/// @param carried  one a point, from `first` on  @param motions  rigid, one a joint, from the pose that it was built in
void carry(std::span<Vec3> points, std::span<const Carried> carried, std::span<const Eigen::Isometry3f> motions);

/// Where a deep fold has turned faces over (all their corners look the other way), their points are drawn towards their
/// neighbours until none is left, as skin there gives way. Leaves the mesh without normals.
void smoothFolds(Mesh& mesh);

}  // namespace hscaffold::stage
