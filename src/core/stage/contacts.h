/// Where things run into each other: segments in which the faces of two of them cross (triangles by the intervals that
/// each cuts out of the line in which their planes meet: Möller 1997, "A fast triangle-triangle intersection test").
#pragma once

#include <span>
#include <vector>

#include "core/problem.h"
#include "core/stage/mesh.h"

namespace hscaffold::stage {

struct Contact {
  std::uint16_t object = 0;  ///< of the first of both
  Vec3 from, to;
};
/// Of each two of these meshes, and of each with the plane y = `ground`, where one is given and it reaches through it.
/// Ends that meet are the same to the last bit. What only touches, and a heap that would take more than `mostTries`
/// pairs of faces, gives nothing more. @throws Cancelled
std::vector<Contact> contactsOf(std::span<const Mesh* const> meshes, const float* ground, StopToken stop = {});
inline constexpr std::size_t mostTries = 20'000'000;

}  // namespace hscaffold::stage
