#include "core/stage/body.h"

#include <Eigen/Geometry>
#include <algorithm>
#include <array>
#include <cmath>
#include <numbers>

namespace hscaffold::stage {
namespace {

constexpr float degree = std::numbers::pi_v<float> / 180;

std::size_t jointNamed(const pose::Skeleton& skeleton, const char* id) {
  for (std::size_t j = 0; j < skeleton.joints.size(); ++j)
    if (skeleton.joints[j].id == id) return j;
  return 0;
}

constexpr std::array<Girth, 9> arm = {{{0.0f, 0.030f, 0.034f, 0},
                                       {0.12f, 0.034f, 0.037f, 0},
                                       {0.35f, 0.031f, 0.034f, 0.002f},
                                       {0.7f, 0.026f, 0.028f, 0.001f},
                                       {1.0f, 0.024f, 0.025f, 0},
                                       {1.2f, 0.027f, 0.026f, 0},
                                       {1.5f, 0.023f, 0.022f, 0},
                                       {1.85f, 0.018f, 0.015f, 0},
                                       {2.0f, 0.017f, 0.014f, 0}}};
constexpr std::array<Girth, 10> leg = {{{0.0f, 0.050f, 0.056f, -0.004f},
                                        {0.15f, 0.052f, 0.057f, 0},
                                        {0.4f, 0.047f, 0.050f, 0.004f},
                                        {0.75f, 0.037f, 0.039f, 0.004f},
                                        {1.0f, 0.033f, 0.035f, 0.004f},
                                        {1.15f, 0.033f, 0.034f, -0.002f},
                                        {1.35f, 0.036f, 0.038f, -0.010f},
                                        {1.65f, 0.027f, 0.028f, -0.006f},
                                        {1.9f, 0.020f, 0.022f, -0.002f},
                                        {2.0f, 0.020f, 0.023f, -0.002f}}};

struct TrunkGirth {
  float height, across, deep, forward;
};
constexpr std::array<TrunkGirth, 12> trunk = {{{0.480f, 0.045f, 0.045f, -0.002f},
                                               {0.500f, 0.085f, 0.062f, -0.006f},
                                               {0.530f, 0.094f, 0.066f, -0.008f},
                                               {0.570f, 0.085f, 0.060f, -0.002f},
                                               {0.620f, 0.073f, 0.053f, 0.002f},
                                               {0.670f, 0.080f, 0.056f, 0.002f},
                                               {0.730f, 0.093f, 0.063f, 0.003f},
                                               {0.775f, 0.098f, 0.060f, 0.000f},
                                               {0.805f, 0.090f, 0.050f, -0.004f},
                                               {0.825f, 0.062f, 0.038f, -0.004f},
                                               {0.838f, 0.032f, 0.031f, -0.003f},
                                               {0.850f, 0.027f, 0.029f, 0.000f}}};

float smooth(float low, float high, float v) {
  const float t = std::clamp((v - low) / (high - low), 0.0f, 1.0f);
  return t * t * (3 - 2 * t);
}

void addTrunk(Mesh& mesh, const Rig& rig, const Clothes& wear) {
  std::vector<Ring> rings;
  const float stand = 1 + 0.45f * wear.loose;
  for (std::size_t i = 0; i < trunk.size(); ++i) {
    const TrunkGirth& g = trunk[i];
    float across = g.across * rig.build.girth, deep = g.deep * rig.build.girth, forward = g.forward;
    across *= 1 + (rig.build.hips - 1) * smooth(0.64f, 0.53f, g.height) +
              (rig.build.shoulders - 1) * smooth(0.64f, 0.76f, g.height);
    const float belly = rig.build.belly * std::exp(-std::pow((g.height - 0.61f) / 0.055f, 2.0f));
    deep += 0.035f * belly;
    forward += 0.03f * belly;
    across += 0.018f * belly;
    const float bust = rig.build.bust * std::exp(-std::pow((g.height - 0.74f) / 0.03f, 2.0f));
    deep += 0.012f * bust;
    forward += 0.014f * bust;
    const bool neck = g.height > 0.83f;
    if (!neck) across *= stand, deep *= stand;
    Rgb colour = neck ? wear.skin : g.height < 0.575f ? wear.legs : wear.top;
    if (!neck && g.height >= 0.575f && wear.stripes > 0 && static_cast<int>(i) % 2 == 0) colour = wear.stripe;
    rings.push_back(rig.trunkRing(g.height, across, deep, forward, colour));
  }
  addTube(mesh, rings, rig.around + 4);
}

/// Colours a limb to where its cloth ends, with a ring on each side of the end.
std::vector<Girth> withEnd(std::span<const Girth> profile, float end) {
  std::vector<Girth> out;
  for (std::size_t i = 0; i < profile.size(); ++i) {
    if (i > 0 && profile[i - 1].along < end && profile[i].along > end) {
      const float t = (end - profile[i - 1].along) / (profile[i].along - profile[i - 1].along);
      const auto mix = [t](float a, float b) { return a + t * (b - a); };
      for (const float off : {-0.01f, 0.01f})
        out.push_back({end + off, mix(profile[i - 1].across, profile[i].across),
                       mix(profile[i - 1].deep, profile[i].deep), mix(profile[i - 1].forward, profile[i].forward)});
    }
    out.push_back(profile[i]);
  }
  return out;
}

void addLimb(Mesh& mesh, const Rig& rig, std::span<const Girth> profile, const Vec3& a, const Vec3& b, const Vec3& c,
             const Vec3& upper, const Vec3& lower, float cover, float stand, Rgb cloth, Rgb skin) {
  const auto cut = withEnd(profile, 2 * cover);
  auto rings = limbRings(a, b, c, upper, lower, cut, rig.size * rig.build.girth);
  for (std::size_t i = 0; i < rings.size(); ++i) {
    const bool clothed = cut[i].along <= 2 * cover;
    rings[i].colour = clothed ? cloth : skin;
    if (clothed) rings[i].across *= stand, rings[i].deep *= stand;
  }
  addTube(mesh, rings, rig.around);
}

void addHand(Mesh& mesh, const Rig& rig, const Vec3& elbow, const Vec3& wrist, const Vec3& side, float inward,
             Rgb skin) {
  const float s = rig.size;
  const Vec3 along = (wrist - elbow).normalized(), across = (side - along * side.dot(along)).normalized(),
             deep = along.cross(across);
  addEllipsoid(mesh, wrist + along * (0.030f * s), deep * (0.021f * s), along * (0.036f * s), across * (0.012f * s),
               skin, 8);
  const Vec3 knuckle = wrist + along * (0.055f * s), tip = knuckle + (along * 0.042f + across * (0.018f * inward)) * s;
  const std::array fingers = {Ring{knuckle, deep * (0.019f * s), across * (0.010f * s), skin},
                              Ring{(knuckle + tip) / 2, deep * (0.018f * s), across * (0.009f * s), skin},
                              Ring{tip, deep * (0.011f * s), across * (0.006f * s), skin}};
  addTube(mesh, fingers, 6);
  const Vec3 root = wrist + (along * 0.018f + deep * 0.016f) * s,
             end = root + (along * 0.026f + deep * 0.018f + across * (0.012f * inward)) * s;
  const std::array thumb = {Ring{root, across * (0.008f * s), deep * (0.008f * s), skin},
                            Ring{end, across * (0.005f * s), deep * (0.005f * s), skin}};
  addTube(mesh, thumb, 5);
}

void addFoot(Mesh& mesh, const Rig& rig, const Vec3& knee, const Vec3& ankle, const Vec3& side, float down,
             Rgb colour) {
  const float s = rig.size;
  const Vec3 shin = (ankle - knee).normalized(), across = (side - shin * side.dot(shin)).normalized();
  Vec3 ahead = shin.cross(across);
  ahead = Eigen::AngleAxisf(down * degree, across) * ahead;
  const Vec3 low = Eigen::AngleAxisf(down * degree, across) * shin;
  const auto ring = [&](float forward, float under, float wide, float high) {
    return Ring{ankle + (ahead * forward + low * under) * s, across * (wide * s), low * (high * s), colour};
  };
  const std::array rings = {ring(-0.034f, 0.026f, 0.010f, 0.012f), ring(-0.026f, 0.022f, 0.020f, 0.024f),
                            ring(0.0f, 0.016f, 0.023f, 0.032f),    ring(0.035f, 0.026f, 0.026f, 0.020f),
                            ring(0.075f, 0.032f, 0.029f, 0.014f),  ring(0.105f, 0.035f, 0.020f, 0.010f),
                            ring(0.114f, 0.036f, 0.008f, 0.006f)};
  addTube(mesh, rings, 8);
}

}  // namespace

Vec3 Rig::point(const char* id) const { return posed.points[*skeleton->find(id)].cast<float>(); }

Vec3 Rig::by(std::size_t joint, const Vec3& rest) const {
  const auto& at = skeleton->joints[joint].rest;
  const Vec3 off = rest - Vec3(static_cast<float>(at[0]), static_cast<float>(at[1]), static_cast<float>(at[2]));
  return posed.origins[joint].cast<float>() + posed.turned[joint].cast<float>() * off * size;
}

Vec3 Rig::turned(std::size_t joint, const Vec3& direction) const {
  return posed.turned[joint].cast<float>() * direction;
}

Ring Rig::trunkRing(float height, float across, float deep, float forward, Rgb colour) const {
  const float w = smooth(0.57f, 0.68f, height);
  const Vec3 rest(0, height, forward);
  const auto mix = [&](const Vec3& a, const Vec3& b) { return Vec3(a * (1 - w) + b * w); };
  const Vec3 side = mix(turned(pelvis, {1, 0, 0}), turned(waist, {1, 0, 0})).normalized();
  Vec3 ahead = mix(turned(pelvis, {0, 0, 1}), turned(waist, {0, 0, 1}));
  ahead = (ahead - side * ahead.dot(side)).normalized();
  return {mix(by(pelvis, rest), by(waist, rest)), side * (across * size), ahead * (deep * size), colour};
}

std::vector<Ring> limbRings(const Vec3& a, const Vec3& b, const Vec3& c, const Vec3& sideUpper, const Vec3& sideLower,
                            std::span<const Girth> profile, float scale) {
  const Vec3 upper = (b - a).normalized(), lower = (c - b).normalized();
  std::vector<Ring> out;
  for (const Girth& g : profile) {
    // The bend is spread over a quarter of both parts, so that the surface stays smooth.
    const float w = smooth(0.75f, 1.25f, g.along);
    Vec3 along = upper * (1 - w) + lower * w;
    along = along.norm() > 1e-3f ? Vec3(along.normalized()) : upper;
    Vec3 side = sideUpper * (1 - w) + sideLower * w;
    side = side - along * side.dot(along);
    side = side.norm() > 1e-3f ? Vec3(side.normalized()) : Vec3(along.unitOrthogonal());
    const Vec3 ahead = along.cross(side);
    const Vec3 centre = g.along <= 1 ? Vec3(a + (b - a) * g.along) : Vec3(b + (c - b) * (g.along - 1));
    out.push_back({centre + ahead * (g.forward * scale), side * (g.across * scale), ahead * (g.deep * scale), {}});
  }
  return out;
}

Body bodyOf(const BodySpec& spec) {
  const auto& skeleton = pose::skeletonOf("human");
  Rig rig;
  rig.skeleton = &skeleton;
  pose::BodyPlace place;
  place.size = static_cast<double>(spec.size);
  place.natural = spec.natural;
  rig.posed = pose::posed(skeleton, spec.angles, place);
  rig.size = spec.size;
  rig.build = spec.build;
  rig.around = spec.around;
  rig.pelvis = jointNamed(skeleton, "pelvis");
  rig.waist = jointNamed(skeleton, "waist");
  rig.head = jointNamed(skeleton, "head");
  // A larger or smaller head grows about where the neck carries it.
  const Eigen::Vector3d neck = rig.posed.origins[rig.head];
  for (const std::size_t p : skeleton.head)
    rig.posed.points[p] = neck + (rig.posed.points[p] - neck) * static_cast<double>(spec.build.head);

  Body out;
  Mesh& mesh = out.mesh;
  const Clothes& wear = spec.clothes;
  addTrunk(mesh, rig, wear);
  for (const bool left : {true, false}) {
    const char* shoulder = left ? "left_shoulder" : "right_shoulder";
    const char* elbow = left ? "left_elbow" : "right_elbow";
    const char* hip = left ? "left_hip" : "right_hip";
    const char* knee = left ? "left_knee" : "right_knee";
    const Vec3 s = rig.point(shoulder), e = rig.point(elbow), w = rig.point(left ? "left_wrist" : "right_wrist");
    const std::size_t js = jointNamed(skeleton, shoulder), je = jointNamed(skeleton, elbow);
    addLimb(mesh, rig, arm, s, e, w, rig.turned(js, {1, 0, 0}), rig.turned(je, {1, 0, 0}), wear.sleeves,
            1.08f + 0.3f * wear.loose, wear.top, wear.skin);
    // A round shoulder, whatever the arm does.
    const Vec3 r(0.036f * spec.size * spec.build.girth, 0, 0);
    addEllipsoid(mesh, s, r, {0, r.x(), 0}, {0, 0, r.x()}, wear.sleeves > 0.02f ? wear.top : wear.skin, 8);
    addHand(mesh, rig, e, w, rig.turned(je, {1, 0, 0}), left ? -1.0f : 1.0f, wear.skin);
    const Vec3 h = rig.point(hip), k = rig.point(knee), a = rig.point(left ? "left_ankle" : "right_ankle");
    const std::size_t jh = jointNamed(skeleton, hip), jk = jointNamed(skeleton, knee);
    addLimb(mesh, rig, leg, h, k, a, rig.turned(jh, {1, 0, 0}), rig.turned(jk, {1, 0, 0}), wear.trousers,
            1.05f + 0.2f * wear.loose, wear.legs, wear.skin);
    addFoot(mesh, rig, k, a, rig.turned(jk, {1, 0, 0}), left ? spec.leftFoot : spec.rightFoot, wear.shoes);
    addHeld(mesh, rig, left ? "left_wrist" : "right_wrist", elbow, left ? wear.left : wear.right, wear.held);
  }
  addHead(mesh, rig, wear);
  addGarments(mesh, rig, wear);

  float lowest = std::numeric_limits<float>::max();
  for (const Vec3& p : mesh.at) lowest = std::min(lowest, p.y());
  const Vec3 shift = spec.at - Vec3(0, lowest, 0);
  for (Vec3& p : mesh.at) p += shift;
  for (const auto& p : rig.posed.points) out.points.push_back(p.cast<float>() + shift);
  out.radius.assign(out.points.size(), 0.045f * spec.size * spec.build.girth);
  for (const char* trunkPoint : {"neck", "left_shoulder", "right_shoulder", "left_hip", "right_hip"})
    out.radius[*skeleton.find(trunkPoint)] = 0.10f * spec.size * spec.build.girth;
  for (const std::size_t p : skeleton.head) out.radius[p] = 0.03f * spec.size * spec.build.head;
  computeNormals(mesh);
  return out;
}

}  // namespace hscaffold::stage
