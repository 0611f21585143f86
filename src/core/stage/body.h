/// Bodies of people for the set: one skin over the skeleton of core/pose, from the neck to the knuckles and the ankles,
/// built with arms half raised and carried to the pose by its joints; with builds, faces, hands, hair and clothes as
/// geometry. Profiles are our own; lengths in them are shares of the standing height.
#pragma once

#include <array>
#include <optional>
#include <vector>

#include "core/pose/posed_body.h"
#include "core/stage/skin.h"

namespace hscaffold::stage {

/// How broad a body is, against an ordinary one.
struct Build {
  float girth = 1;      ///< of all
  float shoulders = 1;  ///< breadth of the chest
  float hips = 1;
  float belly = 0;   ///< [0, 1]
  float bust = 0;    ///< [0, 1]
  float head = 1;    ///< size of the head
  float limbs = 1;   ///< length of arms and legs, the height kept; [0.75, 1.25]
  float muscle = 0;  ///< [0, 1]
  float child = 0;   ///< [0, 1]: 0 grown, 1 about three years old
  friend bool operator==(const Build&, const Build&) = default;
};
/// Kept builds: "adult", "child", "heavy", ...
struct NamedBuild {
  const char* id;
  const char* name;
  Build build;
  float size;  ///< standing height that goes with it, metres
};
std::span<const NamedBuild> houseBuilds();
/// With `child` turned into proportions.
Build grownAs(const Build& build);
/// Lengths of the human skeleton's bones for a build that is `grownAs`, metres.
std::vector<double> naturalLengths(const Build& grown, double size);

/// What a hand does with its fingers.
enum class Grip { relaxed, open, spread, flat, fist, pointing, pinch, rod, ball, hook, pen, cupped, thumbUp, two };
/// "relaxed", "open", ... in files. @param name  for reading
const char* idOf(Grip grip);
const char* nameOf(Grip grip);
std::optional<Grip> gripNamed(const std::string& id);
inline constexpr int grips = 14;
inline constexpr float leastWristBend = -70, mostWristBend = 80;
struct Hand {
  Grip grip = Grip::relaxed;
  float bend = 0;  ///< of the wrist towards the palm, degrees, from `leastWristBend` to `mostWristBend`
  friend bool operator==(const Hand&, const Hand&) = default;
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
  friend bool operator==(const Clothes&, const Clothes&) = default;
};

struct BodySpec {
  std::vector<double> angles;   ///< degrees, one for each turn of the human skeleton
  std::vector<double> natural;  ///< lengths of bones in metres; empty: as at rest
  float size = 1.7f;            ///< standing height, metres
  Vec3 at = Vec3::Zero();       ///< where it stands: what is lowest of it touches this height
  Build build;
  Clothes clothes;
  float leftFoot = 0, rightFoot = 0;  ///< turned down, degrees
  bool level = false;                 ///< feet that are near the ground stand flat on it, as ankles and toes allow
  Hand left, right;                   ///< a relaxed hand closes round what it holds
  int around = 12;                    ///< points a ring of clothes: 8 for what is small in the picture
};

struct Body {
  Mesh mesh;                  ///< with normals
  std::size_t skin = 0;       ///< so many faces come first that are closed skin: trunk, limbs, hands, feet
  std::vector<Vec3> points;   ///< key points of the human skeleton, all of them
  std::vector<float> radius;  ///< how deep each lies under its own surface, at most
};
/// How a body was put together, for who takes it apart again: see core/stage/bones.h.
struct BodyParts {
  std::vector<Eigen::Isometry3f> motions;  ///< of the skeleton's joints, then of each side's own; from how it was built
  std::vector<Vec3> origins;               ///< of the joints
  std::array<Vec3, 2> balls;               ///< of the feet, left and right
  std::vector<Carried> carried;            ///< of the points of its skin, which come first
  std::size_t heldLeft = 0, heldRight = 0, head = 0;  ///< numbers of points where these end, in this order
};
/// @param parts  filled in, where it is given
Body bodyOf(const BodySpec& spec, BodyParts* parts = nullptr);
/// How its skeleton is placed: with the build's proportions, as high as asked.
pose::BodyPlace placeFor(const BodySpec& spec);

/// A body's places in metres, and profiles brought to them. For the files that build parts of bodies.
struct Rig {
  const pose::Skeleton* skeleton = nullptr;
  pose::PosedBody posed;
  float size = 1;
  std::size_t pelvis = 0, waist = 0, head = 0;  ///< joints
  Build build;
  int around = 12;

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

/// A hand in the pose that a body is built in.
struct HandFrame {
  Vec3 wrist, along, palm, thumb;  ///< place; directions to the knuckles, out of the palm, and to the thumb's side
};
/// @param left  side @param rig  of the pose that it is about
HandFrame handFrame(const Rig& rig, bool left);
/// @param hand  as it is posed
void addHeld(Mesh& mesh, const HandFrame& hand, float size, Held thing, Rgb colour);

/// A body while it is built: its points where they are built, and what carries each.
struct Flesh {
  Mesh mesh;
  std::vector<Carried> carried;
  std::uint32_t put(const Vec3& at, Rgb colour, const Carried& by);
  /// Fields between two lines of as many points that go round; `turned`: the other way about.
  void bridge(std::span<const std::uint32_t> low, std::span<const std::uint32_t> high, bool turned);
  /// Drawings show it: a hem.
  void draw(std::span<const std::uint32_t> ring);
  void close(std::span<const std::uint32_t> ring, const Vec3& middle, bool turned);
};
/// What carries a side of the body: joints of the skeleton, and the first of the side's own motions.
struct SideOf {
  bool left;
  std::size_t motions;
  std::size_t shoulder, elbow, hip, knee;
};
SideOf sideOf(const Rig& rig, bool left);
std::size_t jointNamed(const pose::Skeleton& skeleton, const char* id);
/// All of the body that is skin, and its feet, as they are built.
Flesh fleshOf(const Rig& bind, const Clothes& clothes);
/// From 0 below `low` to 1 above `high`, without a corner.
float smooth(float low, float high, float v);

/// Motions beyond those of the skeleton's joints, each side: the hand, three of each finger from the thumb on, the
/// foot, its toes; upper arm and thigh without the turn about their own length, which skin near the trunk does not
/// make.
inline constexpr std::size_t handMotion = 0, fingerMotion = 1, footMotion = 16, toeMotion = 17, armMotion = 18,
                             thighMotion = 19, perSide = 20;

/// From the wrist's points on, which the arm has put: palm and fingers.
/// @param first  number of the side's hand among the motions
void addHand(Flesh& flesh, const Rig& bind, bool left, std::span<const std::uint32_t> wrist, std::size_t first,
             std::size_t arm, Rgb skin);
/// Motions of the hand and its fingers. @param arm  of the forearm @param to  the side's first motion
void poseHand(const Rig& bind, bool left, const Hand& hand, const Eigen::Isometry3f& arm, Eigen::Isometry3f* to);
/// Key points of a hand as its motions have them. @param at  all points of the skeleton, changed
void carryHandPoints(const Rig& bind, bool left, const Eigen::Isometry3f* motions, std::vector<Vec3>& at);

/// One radius of a limb's profile: where along it (0 to 1 the upper part, to 2 the lower), half breadth and half depth,
/// and how far it stands forward.
struct Girth {
  float along = 0, across = 0, deep = 0, forward = 0;
};
/// @param side  direction of the breadth, in the upper and in the lower part.
std::vector<Ring> limbRings(const Vec3& a, const Vec3& b, const Vec3& c, const Vec3& sideUpper, const Vec3& sideLower,
                            std::span<const Girth> profile, float scale);

}  // namespace hscaffold::stage
