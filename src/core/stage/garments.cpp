// Clothes that stand off the body, and things in hands.
#include <Eigen/Geometry>
#include <array>
#include <cmath>

#include "core/stage/body.h"

namespace hscaffold::stage {
namespace {

/// A leg's middle line, from 0 at the hip to 1 at the ankle.
Vec3 onLeg(const Vec3& hip, const Vec3& knee, const Vec3& ankle, float t) {
  return t < 0.5f ? Vec3(hip + (knee - hip) * (2 * t)) : Vec3(knee + (ankle - knee) * (2 * t - 1));
}

/// Rings from the waist down that hold both legs, as a falling cloth does.
void addSkirt(Mesh& mesh, const Rig& rig, const Clothes& wear) {
  const float s = rig.size;
  std::vector<Ring> rings = {
      rig.trunkRing(0.615f, 0.080f * rig.build.girth, 0.060f * rig.build.girth, 0, wear.skirt),
      rig.trunkRing(0.575f, 0.096f * rig.build.girth * rig.build.hips, 0.074f * rig.build.girth, 0, wear.skirt),
      rig.trunkRing(0.535f, 0.106f * rig.build.girth * rig.build.hips, 0.084f * rig.build.girth, 0, wear.skirt)};
  const Vec3 hipL = rig.point("left_hip"), kneeL = rig.point("left_knee"), ankleL = rig.point("left_ankle");
  const Vec3 hipR = rig.point("right_hip"), kneeR = rig.point("right_knee"), ankleR = rig.point("right_ankle");
  const Vec3 hips = (hipL - hipR).normalized();
  const int steps = std::max(3, static_cast<int>(6 * wear.skirtLength));
  for (int i = 1; i <= steps; ++i) {
    const float t = wear.skirtLength * static_cast<float>(i) / static_cast<float>(steps);
    const Vec3 l = onLeg(hipL, kneeL, ankleL, t), r = onLeg(hipR, kneeR, ankleR, t);
    const Vec3 along =
        ((onLeg(hipL, kneeL, ankleL, std::min(1.0f, t + 0.2f)) + onLeg(hipR, kneeR, ankleR, std::min(1.0f, t + 0.2f))) -
         (onLeg(hipL, kneeL, ankleL, std::max(0.0f, t - 0.2f)) + onLeg(hipR, kneeR, ankleR, std::max(0.0f, t - 0.2f))))
            .normalized();
    Vec3 apart = (l - r) * 0.5f;
    const float spread = apart.norm();
    Vec3 side = spread > 0.02f * s ? Vec3((apart / spread + 0.3f * hips).normalized()) : hips;
    side = (side - along * side.dot(along)).normalized();
    const Vec3 ahead = along.cross(side);
    const float radius = (0.070f + 0.16f * wear.skirtFlare * t + 0.012f * std::sin(9 * t)) * s * rig.build.girth;
    const float deepSpread = std::fabs(apart.dot(ahead)), wideSpread = std::fabs(apart.dot(side));
    rings.push_back({(l + r) * 0.5f, side * (wideSpread + radius), ahead * (deepSpread + radius), wear.skirt});
  }
  addTube(mesh, rings, rig.around + 4, Ends::open);
}

void addCloak(Mesh& mesh, const Rig& rig, const Clothes& wear) {
  const float s = rig.size;
  const Vec3 sideW = rig.turned(rig.waist, {1, 0, 0}), backW = rig.turned(rig.waist, {0, 0, -1}),
             downW = rig.turned(rig.waist, {0, -1, 0});
  std::vector<Ring> rings;
  const Vec3 neck = rig.by(rig.waist, {0, 0.845f, 0.0f});
  rings.push_back({neck, sideW * (0.040f * s), backW * (0.040f * s), wear.cloak});
  rings.push_back({rig.by(rig.waist, {0, 0.825f, 0}), sideW * (0.120f * s * rig.build.shoulders), backW * (0.065f * s),
                   wear.cloak});
  Vec3 place = rig.by(rig.waist, {0, 0.79f, -0.005f});
  const int steps = 5;
  for (int i = 0; i <= steps; ++i) {
    const float t = static_cast<float>(i) / steps;
    rings.push_back({place, sideW * ((0.150f + 0.06f * t) * s * rig.build.shoulders),
                     backW * ((0.085f + 0.05f * t) * s), wear.cloak});
    // The farther down, the more it hangs rather than follows the back.
    const Vec3 hang = (downW * (1 - t) + Vec3(0, -1, 0) * (0.4f + t) + backW * 0.18f).normalized();
    place += hang * (wear.cloakLength * 0.74f * s / steps);
  }
  addHalfTube(mesh, rings, 12, -0.12f * pi, 1.12f * pi);
}

void addWideSleeve(Mesh& mesh, const Rig& rig, const Clothes& wear, bool left) {
  const Vec3 a = rig.point(left ? "left_shoulder" : "right_shoulder"),
             b = rig.point(left ? "left_elbow" : "right_elbow"), c = rig.point(left ? "left_wrist" : "right_wrist");
  const Vec3 side = rig.turned(rig.waist, {1, 0, 0});
  std::vector<Girth> profile;
  for (int i = 0; i <= 6; ++i) {
    const float t = static_cast<float>(i) / 6, wide = 0.040f + 0.10f * wear.sleeveFlare * t * t;
    profile.push_back({2 * wear.sleeves * t, wide, wide, 0});
  }
  auto rings = limbRings(a, b, c, side, side, profile, rig.size * rig.build.girth);
  for (std::size_t i = 0; i < rings.size(); ++i) {
    // Cloth hangs below the arm.
    rings[i].centre.y() -= 0.05f * wear.sleeveFlare * rig.size * profile[i].along * 0.5f;
    rings[i].colour = wear.top;
  }
  addTube(mesh, rings, rig.around, Ends::open);
}

void addWideLeg(Mesh& mesh, const Rig& rig, const Clothes& wear, bool left) {
  const Vec3 a = rig.point(left ? "left_hip" : "right_hip"), b = rig.point(left ? "left_knee" : "right_knee"),
             c = rig.point(left ? "left_ankle" : "right_ankle");
  const Vec3 side = rig.turned(rig.pelvis, {1, 0, 0});
  std::vector<Girth> profile;
  for (int i = 0; i <= 6; ++i) {
    const float t = static_cast<float>(i) / 6, wide = 0.056f + (0.05f * wear.legFlare - 0.012f) * t;
    profile.push_back({2 * wear.trousers * t, wide, wide, 0});
  }
  auto rings = limbRings(a, b, c, side, side, profile, rig.size * rig.build.girth);
  for (Ring& ring : rings) ring.colour = wear.legs;
  addTube(mesh, rings, rig.around, Ends::open);
}

void addScarf(Mesh& mesh, const Rig& rig, const Clothes& wear) {
  const std::array rings = {rig.trunkRing(0.858f, 0.046f, 0.046f, 0.002f, wear.hat),
                            rig.trunkRing(0.842f, 0.056f, 0.054f, 0, wear.hat),
                            rig.trunkRing(0.828f, 0.052f, 0.050f, 0, wear.hat)};
  addTube(mesh, rings, rig.around);
}

void addPack(Mesh& mesh, const Rig& rig, const Clothes& wear) {
  const float s = rig.size;
  addBox(mesh, rig.by(rig.waist, {0, 0.725f, -0.105f}), rig.turned(rig.waist, {0.075f * s, 0, 0}),
         rig.turned(rig.waist, {0, 0.095f * s, 0}), rig.turned(rig.waist, {0, 0, 0.045f * s}), wear.held);
}

}  // namespace

void addGarments(Mesh& mesh, const Rig& rig, const Clothes& wear) {
  if (wear.skirtLength > 0.05f) addSkirt(mesh, rig, wear);
  if (wear.cloakLength > 0.05f) addCloak(mesh, rig, wear);
  for (const bool left : {true, false}) {
    if (wear.sleeveFlare > 0.05f && wear.sleeves > 0.3f) addWideSleeve(mesh, rig, wear, left);
    if (wear.legFlare > 0.05f && wear.trousers > 0.5f) addWideLeg(mesh, rig, wear, left);
  }
  if (wear.belt) {
    const std::array rings = {rig.trunkRing(0.625f, 0.084f * rig.build.girth * (1 + 0.45f * wear.loose),
                                            0.064f * rig.build.girth * (1 + 0.45f * wear.loose), 0.001f, wear.shoes),
                              rig.trunkRing(0.605f, 0.084f * rig.build.girth * (1 + 0.45f * wear.loose),
                                            0.064f * rig.build.girth * (1 + 0.45f * wear.loose), 0.001f, wear.shoes)};
    addTube(mesh, rings, rig.around + 4, Ends::open);
  }
  if (wear.scarf) addScarf(mesh, rig, wear);
  if (wear.pack) addPack(mesh, rig, wear);
}

void addHeld(Mesh& mesh, const HandFrame& hand, float size, Held thing, Rgb colour) {
  if (thing == Held::nothing) return;
  // In the hollow of the closed hand, along the line of its knuckles.
  const float s = size;
  const Vec3 &along = hand.along, &across = hand.thumb, third = hand.palm;
  const Vec3 palm = hand.wrist + (along * 0.043f + hand.palm * 0.020f) * s;
  const auto stick = [&](const Vec3& from, const Vec3& to, float thick, Rgb of) {
    const Vec3 d = (to - from).normalized(), u = d.unitOrthogonal();
    const std::array rings = {Ring{from, u * (thick * s), d.cross(u) * (thick * s), of},
                              Ring{to, u * (thick * s), d.cross(u) * (thick * s), of}};
    addTube(mesh, rings, 6);
  };
  const Rgb bright{std::min(1.0f, colour.r * 2 + 0.2f), std::min(1.0f, colour.g * 2 + 0.2f),
                   std::min(1.0f, colour.b * 2 + 0.2f)};
  switch (thing) {
    case Held::nothing:
      break;
    case Held::staff:
      stick(palm - across * (0.55f * s), palm + across * (0.5f * s), 0.010f, colour);
      break;
    case Held::blade:
      stick(palm - across * (0.05f * s), palm + across * (0.07f * s), 0.010f, colour);
      stick(palm + across * (0.07f * s), palm + across * (0.46f * s), 0.012f, {0.5f, 0.52f, 0.55f});
      break;
    case Held::bag:
      stick(palm, palm + Vec3(0, -0.10f * s, 0), 0.006f, colour);
      addBox(mesh, palm + Vec3(0, -0.17f * s, 0), third * (0.065f * s), {0, 0.07f * s, 0},
             along.cross(third) * (0.03f * s), colour);
      break;
    case Held::parasol: {
      stick(palm - across * (0.05f * s), palm + across * (0.42f * s), 0.006f, colour);
      const Vec3 tip = palm + across * (0.45f * s);
      std::vector<Ring> rings;
      for (const auto& [down, wide] : {std::pair{0.10f, 0.26f}, {0.04f, 0.19f}, {0.0f, 0.02f}})
        rings.push_back({tip - across * (down * s), along * (wide * s), third * (wide * s), bright});
      addTube(mesh, rings, 12, Ends::last);
      break;
    }
    case Held::box:
      addBox(mesh, palm + third * (0.08f * s), along * (0.09f * s), across * (0.07f * s), third * (0.09f * s), bright);
      break;
    case Held::ball:
      addEllipsoid(mesh, palm + third * (0.045f * s) + along * (0.02f * s), along * (0.06f * s), across * (0.06f * s),
                   third * (0.06f * s), bright, 10);
      break;
    case Held::torch:
      stick(palm - across * (0.06f * s), palm + across * (0.16f * s), 0.012f, colour);
      addEllipsoid(mesh, palm + across * (0.20f * s), along * (0.03f * s), across * (0.06f * s), third * (0.03f * s),
                   {1.0f, 0.6f, 0.15f}, 8);
      break;
  }
}

}  // namespace hscaffold::stage
