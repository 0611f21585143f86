/// Surroundings of chance: open land, rooms, tables, heaps, and what stands about in them.
#pragma once

#include <vector>

#include "core/stage/body.h"
#include "core/stage/props.h"
#include "core/stage/raster.h"
#include "dice.h"

namespace hscaffold::training {

/// What a place asks for besides its meshes.
struct Surroundings {
  std::vector<stage::Mesh> meshes;
  stage::Lighting lighting;
  float reach = 6;      ///< metres that things may stand from the middle
  bool closed = false;  ///< within walls: the eye must stay inside
  stage::Vec3 inside{8, 4, 8};
};

Surroundings openLand(Dice& dice);
Surroundings indoors(Dice& dice);
/// Things as they stand about, a few about a place within `reach`.
void scatter(Dice& dice, std::vector<stage::Mesh>& into, const stage::Vec3& about, float reach, int count,
             bool outside);
/// Small things on a table or in a heap, about the origin, some 0.1 to 0.5 metres large.
void pile(Dice& dice, std::vector<stage::Mesh>& into, int count, bool table);
/// Rods and tubes that look like limbs and are none.
void clutter(Dice& dice, std::vector<stage::Mesh>& into, const stage::Vec3& about, float reach, int count);

}  // namespace hscaffold::training
