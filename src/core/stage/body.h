/// Bodies of people for the set: smooth tubes over the skeleton of core/pose, with builds, faces, hair and clothes as
/// geometry. Profiles are our own; lengths in them are shares of the standing height.
#pragma once

#include <optional>
#include <vector>

#include "core/pose/posed_body.h"
#include "core/stage/mesh.h"

namespace hscaffold::stage {

/// How broad a body is, against an ordinary one.
struct Build {
  float girth = 1;      ///< of all
  float shoulders = 1;  ///< breadth of the chest
  float hips = 1;
  float belly = 0;  ///< [0, 1]
  float bust = 0;   ///< [0, 1]
  float head = 1;   ///< size of the head
};

enum class HairStyle { none, cropped, bob, lengthy, bun, tail, full };
enum class Hat { none, brimmed, cap, cone, hood, helmet, band };
enum class Held { nothing, staff, blade, bag, parasol, box, ball, torch };

/// What a body wears. Lengths are shares: of the arm for sleeves, of the leg for legs and skirt.
struct Clothes {
  Rgb skin{0.5f, 0.3f, 0.2f}, hair{0.05f, 0.03f, 0.02f}, top{0.3f, 0.3f, 0.5f}, legs{0.1f, 0.1f, 0.2f},
      skirt{0.4f, 0.1f, 0.1f}, cloak{0.2f, 0.2f, 0.1f}, hat{0.3f, 0.2f, 0.1f}, shoes{0.05f, 0.04f, 0.03f},
      held{0.3f, 0.2f, 0.1f};
  HairStyle hairStyle = HairStyle::cropped;
  bool beard = false;
  Hat headgear = Hat::none;
  float loose = 0;                        ///< how far the top stands off, [0, 1]
  float sleeves = 0.9f, sleeveFlare = 0;  ///< 0 bare to 1 the wrist; flare [0, 1]
  float trousers = 0.95f, legFlare = 0;
  float skirtLength = 0, skirtFlare = 0.3f;  ///< 0: none; 1: to the ankles
  float cloakLength = 0;                     ///< 0: none; 1: to the ground
  bool belt = false, scarf = false, pack = false;
  int stripes = 0;  ///< across the top
  Rgb stripe{0.8f, 0.8f, 0.8f};
  Held left = Held::nothing, right = Held::nothing;
};

struct BodySpec {
  std::vector<double> angles;   ///< degrees, one for each turn of the human skeleton
  std::vector<double> natural;  ///< lengths of bones in metres; empty: as at rest
  float size = 1.7f;            ///< standing height, metres
  Vec3 at = Vec3::Zero();       ///< where it stands: what is lowest of it touches this height
  Build build;
  Clothes clothes;
  float leftFoot = 0, rightFoot = 0;  ///< turned down, degrees
  int around = 10;                    ///< points a ring: 8 for what is small in the picture
};

struct Body {
  Mesh mesh;                  ///< with normals
  std::vector<Vec3> points;   ///< key points of the human skeleton, all of them
  std::vector<float> radius;  ///< how deep each lies under its own surface, at most
};
Body bodyOf(const BodySpec& spec);

/// A body's places in metres, and profiles brought to them. For the files that build parts of bodies.
struct Rig {
  const pose::Skeleton* skeleton = nullptr;
  pose::PosedBody posed;
  float size = 1;
  std::size_t pelvis = 0, waist = 0, head = 0;  ///< joints
  Build build;
  int around = 10;

  [[nodiscard]] Vec3 point(const char* id) const;
  /// A place of the body at rest, carried by a joint.
  [[nodiscard]] Vec3 by(std::size_t joint, const Vec3& rest) const;
  /// A direction at rest, turned by a joint; not scaled.
  [[nodiscard]] Vec3 turned(std::size_t joint, const Vec3& direction) const;
  /// Between pelvis and waist as the height at rest asks.
  [[nodiscard]] Ring trunkRing(float height, float across, float deep, float forward, Rgb colour) const;
};
void addHead(Mesh& mesh, const Rig& rig, const Clothes& clothes);
void addGarments(Mesh& mesh, const Rig& rig, const Clothes& clothes);
void addHeld(Mesh& mesh, const Rig& rig, const char* wrist, const char* elbow, Held thing, Rgb colour);

/// One radius of a limb's profile: where along it (0 to 1 the upper part, to 2 the lower), half breadth and half depth,
/// and how far it stands forward.
struct Girth {
  float along = 0, across = 0, deep = 0, forward = 0;
};
/// @param side  direction of the breadth, in the upper and in the lower part.
std::vector<Ring> limbRings(const Vec3& a, const Vec3& b, const Vec3& c, const Vec3& sideUpper, const Vec3& sideLower,
                            std::span<const Girth> profile, float scale);

}  // namespace hscaffold::stage
