/// Four-legged bodies for the set, over the four-legged skeleton of core/pose.
#pragma once

#include <vector>

#include "core/pose/body.h"
#include "core/stage/mesh.h"

namespace hscaffold::stage {

enum class Animal { dog, fox, horse, cow, cat };

/// How one animal differs from its kind: factors of lengths and breadths.
struct AnimalBuild {
  float legs = 1, neck = 1, muzzle = 1, tail = 1;
  float girth = 1, limbs = 1, head = 1, eyes = 1, ears = 1, brush = 1;  ///< limbs: how thick; brush: of the tail
  float droop = 0;                                                      ///< of ears: 0 upright, 1 hanging
  friend bool operator==(const AnimalBuild&, const AnimalBuild&) = default;
};

struct AnimalSpec {
  Animal kind = Animal::dog;
  AnimalBuild build;
  std::vector<double> angles;  ///< degrees, one for each turn of the four-legged skeleton
  float size = 0.9f;           ///< length from nose to tail root, metres
  Vec3 at = Vec3::Zero();      ///< where it stands
  Rgb coat{0.3f, 0.2f, 0.1f}, patch{0.7f, 0.65f, 0.6f};
  int around = 8;
};
struct AnimalBody {
  Mesh mesh;
  std::vector<Vec3> points;  ///< key points of the four-legged skeleton
  std::vector<float> radius;
};
AnimalBody animalOf(const AnimalSpec& spec);
/// How its skeleton is placed.
pose::BodyPlace placeFor(const AnimalSpec& spec);

}  // namespace hscaffold::stage
