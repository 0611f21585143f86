// Heads: skull, face, hair and what is worn on it.
#include <Eigen/Geometry>
#include <array>
#include <cmath>

#include "core/stage/body.h"

namespace hscaffold::stage {
namespace {

struct SkullRing {
  float height, across, deep, forward;
};
constexpr std::array<SkullRing, 10> skull = {{{0.852f, 0.008f, 0.008f, 0.034f},
                                              {0.858f, 0.020f, 0.022f, 0.028f},
                                              {0.872f, 0.032f, 0.038f, 0.016f},
                                              {0.892f, 0.040f, 0.050f, 0.008f},
                                              {0.914f, 0.0445f, 0.056f, 0.003f},
                                              {0.936f, 0.046f, 0.059f, 0.000f},
                                              {0.958f, 0.045f, 0.058f, -0.002f},
                                              {0.977f, 0.037f, 0.048f, -0.004f},
                                              {0.990f, 0.022f, 0.029f, -0.005f},
                                              {0.996f, 0.006f, 0.008f, -0.005f}}};

/// Places on the head at rest, carried and scaled.
struct OnHead {
  const Rig& rig;
  [[nodiscard]] Vec3 at(float x, float y, float z) const {
    const float neck = 0.83f;
    return rig.by(rig.head, Vec3(0, neck, 0) + (Vec3(x, y, z) - Vec3(0, neck, 0)) * rig.build.head);
  }
  [[nodiscard]] Vec3 axis(float x, float y, float z) const {
    return rig.turned(rig.head, {x, y, z}) * (rig.size * rig.build.head);
  }
  [[nodiscard]] Ring ring(const SkullRing& r, float more, Rgb colour) const {
    return {at(0, r.height, r.forward), axis(r.across + more, 0, 0), axis(0, 0, r.deep + more), colour};
  }
  void ball(Mesh& mesh, Vec3 place, Vec3 half, Rgb colour, int around = 6) const {
    addEllipsoid(mesh, at(place.x(), place.y(), place.z()), axis(half.x(), 0, 0), axis(0, half.y(), 0),
                 axis(0, 0, half.z()), colour, around);
  }
};

void addFace(Mesh& mesh, const OnHead& head, const Clothes& wear) {
  const Rgb skin = wear.skin, dark{0.02f, 0.015f, 0.01f}, white{0.75f, 0.73f, 0.7f},
            lip{skin.r * 0.75f, skin.g * 0.4f, skin.b * 0.4f};
  head.ball(mesh, {0, 0.914f, 0.061f}, {0.0085f, 0.016f, 0.013f}, skin, 6);
  for (const float side : {-1.0f, 1.0f}) {
    head.ball(mesh, {0.019f * side, 0.941f, 0.049f}, {0.0095f, 0.0055f, 0.007f}, white, 6);
    head.ball(mesh, {0.019f * side, 0.941f, 0.0545f}, {0.0045f, 0.0052f, 0.004f}, dark, 6);
    head.ball(mesh, {0.019f * side, 0.953f, 0.052f}, {0.012f, 0.0022f, 0.005f}, wear.hair, 5);
    head.ball(mesh, {0.046f * side, 0.930f, -0.005f}, {0.006f, 0.016f, 0.010f}, skin, 6);
  }
  head.ball(mesh, {0, 0.886f, 0.053f}, {0.015f, 0.0035f, 0.006f}, lip, 6);
  if (wear.beard) {
    head.ball(mesh, {0, 0.868f, 0.040f}, {0.030f, 0.022f, 0.020f}, wear.hair, 8);
    head.ball(mesh, {0, 0.895f, 0.055f}, {0.020f, 0.004f, 0.006f}, wear.hair, 6);
  }
}

/// The cap of the hair: over the head but for an opening before the face. The half tube runs round the back from one
/// temple to the other.
void addCap(Mesh& mesh, const OnHead& head, float lowest, float more, Rgb colour) {
  std::vector<Ring> back, top;
  for (const SkullRing& r : skull) {
    if (r.height < lowest) continue;
    back.push_back(head.ring(r, more, colour));
    if (r.height > 0.955f) top.push_back(head.ring(r, more, colour));
  }
  addHalfTube(mesh, back, 10, 0.84f * pi, 2.16f * pi);
  addTube(mesh, top, 10, Ends::last);
}

void addHair(Mesh& mesh, const OnHead& head, const Clothes& wear) {
  const Rig& rig = head.rig;
  const Rgb c = wear.hair;
  const auto fall = [&](float from, float length, float wide, float thick, float behind) {
    // Hangs down by itself from the back of the head.
    const Vec3 start = head.at(0, from, behind), side = head.axis(1, 0, 0).normalized();
    const Vec3 along =
        (head.axis(0, -1, 0).normalized() * 0.4f + Vec3(0, -0.6f, 0) - head.axis(0, 0, 1).normalized() * 0.15f)
            .normalized();
    std::vector<Ring> rings;
    for (int i = 0; i <= 4; ++i) {
      const float t = static_cast<float>(i) / 4, w = wide * (1 - 0.5f * t * t) * rig.size;
      rings.push_back(
          {start + along * (length * t * rig.size), side * w, along.cross(side).normalized() * (thick * rig.size), c});
    }
    addTube(mesh, rings, 8);
  };
  switch (wear.hairStyle) {
    case HairStyle::none:
      break;
    case HairStyle::cropped:
      addCap(mesh, head, 0.905f, 0.005f, c);
      break;
    case HairStyle::bob:
      addCap(mesh, head, 0.855f, 0.012f, c);
      break;
    case HairStyle::lengthy:
      addCap(mesh, head, 0.87f, 0.010f, c);
      fall(0.93f, 0.22f, 0.055f, 0.022f, -0.050f);
      break;
    case HairStyle::bun:
      addCap(mesh, head, 0.89f, 0.005f, c);
      head.ball(mesh, {0, 0.965f, -0.075f}, {0.028f, 0.026f, 0.026f}, c, 8);
      break;
    case HairStyle::tail:
      addCap(mesh, head, 0.89f, 0.005f, c);
      fall(0.955f, 0.17f, 0.022f, 0.020f, -0.068f);
      break;
    case HairStyle::full:
      head.ball(mesh, {0, 0.955f, -0.022f}, {0.080f, 0.078f, 0.076f}, c, 12);
      break;
  }
}

void addHat(Mesh& mesh, const OnHead& head, const Clothes& wear) {
  const Rgb c = wear.hat, darker{c.r * 0.5f, c.g * 0.5f, c.b * 0.5f};
  const auto ring = [&](float height, float across, float deep, float forward, Rgb colour) {
    return Ring{head.at(0, height, forward), head.axis(across, 0, 0), head.axis(0, 0, deep), colour};
  };
  switch (wear.headgear) {
    case Hat::none:
      break;
    case Hat::brimmed: {
      const std::array brim = {ring(0.962f, 0.115f, 0.125f, 0, darker), ring(0.970f, 0.112f, 0.122f, 0, c),
                               ring(0.972f, 0.05f, 0.06f, 0, c)};
      addTube(mesh, brim, 14);
      const std::array crown = {ring(0.968f, 0.052f, 0.064f, 0, darker), ring(0.985f, 0.052f, 0.064f, 0, c),
                                ring(1.022f, 0.044f, 0.055f, 0, c), ring(1.030f, 0.02f, 0.03f, 0, c)};
      addTube(mesh, crown, 10);
      break;
    }
    case Hat::cap: {
      addCap(mesh, head, 0.955f, 0.010f, c);
      const std::array crown = {ring(0.958f, 0.056f, 0.068f, 0, c), ring(0.985f, 0.050f, 0.060f, -0.002f, c),
                                ring(1.006f, 0.02f, 0.03f, -0.004f, c)};
      addTube(mesh, crown, 10);
      const std::array peak = {ring(0.962f, 0.045f, 0.020f, 0.055f, darker),
                               ring(0.958f, 0.035f, 0.030f, 0.075f, darker)};
      addTube(mesh, peak, 8);
      break;
    }
    case Hat::cone: {
      const std::array cone = {ring(0.955f, 0.130f, 0.140f, 0, darker), ring(0.962f, 0.128f, 0.138f, 0, c),
                               ring(1.045f, 0.010f, 0.012f, 0, c)};
      addTube(mesh, cone, 14);
      break;
    }
    case Hat::hood: {
      std::vector<Ring> rings;
      for (const SkullRing& r : skull)
        if (r.height > 0.856f) rings.push_back(head.ring(r, 0.022f, c));
      rings.insert(rings.begin(), ring(0.835f, 0.075f, 0.062f, 0, c));
      addHalfTube(mesh, rings, 12, 0.72f * pi, 2.28f * pi);
      const std::array top = {ring(0.975f, 0.060f, 0.072f, 0, c), ring(1.005f, 0.040f, 0.050f, -0.006f, c),
                              ring(1.016f, 0.010f, 0.014f, -0.01f, c)};
      addTube(mesh, top, 10);
      break;
    }
    case Hat::helmet: {
      addCap(mesh, head, 0.90f, 0.014f, c);
      const std::array top = {ring(0.950f, 0.060f, 0.074f, 0, c), ring(0.985f, 0.048f, 0.060f, -0.004f, c),
                              ring(1.012f, 0.012f, 0.016f, -0.004f, c)};
      addTube(mesh, top, 10);
      break;
    }
    case Hat::band: {
      const std::array band = {ring(0.955f, 0.051f, 0.064f, -0.001f, c), ring(0.972f, 0.048f, 0.060f, -0.003f, c)};
      addTube(mesh, band, 12, Ends::open);
      break;
    }
  }
}

}  // namespace

void addHead(Mesh& mesh, const Rig& rig, const Clothes& wear) {
  const OnHead head{rig};
  // The neck bridges trunk and head, each of which may turn.
  const Vec3 side = (rig.turned(rig.waist, {1, 0, 0}) + rig.turned(rig.head, {1, 0, 0})).normalized();
  const Vec3 low = rig.by(rig.waist, {0, 0.825f, -0.004f}), high = head.at(0, 0.885f, 0.002f);
  const Vec3 along = (high - low).normalized(), across = (side - along * side.dot(along)).normalized();
  std::vector<Ring> neck;
  for (const float t : {0.0f, 0.5f, 1.0f})
    neck.push_back({low + (high - low) * t, across * (0.029f * rig.size * rig.build.girth),
                    across.cross(along) * (0.030f * rig.size * rig.build.girth), wear.skin});
  addTube(mesh, neck, rig.around);
  std::vector<Ring> rings;
  for (const SkullRing& r : skull) rings.push_back(head.ring(r, 0, wear.skin));
  addTube(mesh, rings, rig.around + 2);
  addFace(mesh, head, wear);
  if (wear.headgear != Hat::hood && wear.headgear != Hat::helmet) addHair(mesh, head, wear);
  addHat(mesh, head, wear);
}

}  // namespace hscaffold::stage
