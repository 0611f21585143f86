#include "core/stage/body.h"

#include <Eigen/Geometry>
#include <algorithm>
#include <array>
#include <cmath>
#include <numbers>

namespace hscaffold::stage {
namespace {

constexpr float degree = std::numbers::pi_v<float> / 180;

/// How far a foot is turned down and its toes up so that the sole lies level, as far as ankle and toes allow.
struct FootTurn {
  float down = 0, toes = 0;
};
FootTurn levelled(const Rig& rig, const SideOf& side, float lowest) {
  const char* kneeId = side.left ? "left_knee" : "right_knee";
  const char* ankleId = side.left ? "left_ankle" : "right_ankle";
  const Vec3 ankle = rig.point(ankleId), shin = (ankle - rig.point(kneeId)).normalized();
  const Vec3 x = rig.turned(side.knee, {1, 0, 0}), across = (x - shin * x.dot(shin)).normalized(),
             ahead = shin.cross(across);
  const float needed = std::atan2(ahead.y(), -shin.y()) / degree;
  constexpr float hanging = 22, lying = 55;
  // In the air it hangs; where the shin lies on the ground it lies on its back.
  const float near = smooth(0.30f, 0.10f, (ankle.y() - lowest) / rig.size);
  if (needed < -58 || needed > 120) return {lying * near + hanging * (1 - near), 0};
  const float down = std::clamp(needed, -24.0f, 50.0f);
  const float toes = std::clamp(needed < 0 ? down - needed : 0.0f, 0.0f, 48.0f);
  return {down * near + hanging * (1 - near), toes * near};
}

/// The pose that bodies are built in: arms half raised, legs a little apart.
std::vector<double> builtPose(const pose::Skeleton& skeleton) {
  std::vector<double> out(skeleton.turns.size(), 0);
  for (const char* side : {"left", "right"}) {
    out[*skeleton.findTurn(std::string(side) + "_shoulder.out")] = 42;
    out[*skeleton.findTurn(std::string(side) + "_hip.out")] = 5;
  }
  return out;
}

/// The same with upper arms and thighs not turned about their own length.
std::vector<double> withoutTwist(const pose::Skeleton& skeleton, std::vector<double> angles) {
  for (const char* turn : {"left_shoulder.twist", "right_shoulder.twist", "left_hip.twist", "right_hip.twist"})
    angles[*skeleton.findTurn(turn)] = 0;
  return angles;
}

Eigen::Isometry3f motionOf(const pose::PosedBody& from, const pose::PosedBody& to, std::size_t joint) {
  Eigen::Isometry3f out = Eigen::Isometry3f::Identity();
  out.linear() = (to.turned[joint] * from.turned[joint].transpose()).cast<float>();
  out.translation() = to.origins[joint].cast<float>() - out.linear() * from.origins[joint].cast<float>();
  return out;
}

}  // namespace

std::size_t jointNamed(const pose::Skeleton& skeleton, const char* id) {
  for (std::size_t j = 0; j < skeleton.joints.size(); ++j)
    if (skeleton.joints[j].id == id) return j;
  return 0;
}

SideOf sideOf(const Rig& rig, bool left) {
  const auto joint = [&](const char* part) {
    return jointNamed(*rig.skeleton, (std::string(left ? "left_" : "right_") + part).c_str());
  };
  return {
      left,         rig.skeleton->joints.size() + (left ? 0 : perSide), joint("shoulder"), joint("elbow"), joint("hip"),
      joint("knee")};
}

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

namespace {

/// Larger or smaller heads grow about where the neck carries them.
void growHead(pose::PosedBody& body, const pose::Skeleton& skeleton, std::size_t head, float by) {
  const Eigen::Vector3d neck = body.origins[head];
  for (const std::size_t p : skeleton.head) body.points[p] = neck + (body.points[p] - neck) * static_cast<double>(by);
}

}  // namespace

std::span<const NamedBuild> houseBuilds() {
  static const std::array<NamedBuild, 7> all = [] {
    std::array<NamedBuild, 7> out = {{{"adult", "Adult", {}, 1.7f},
                                      {"child", "Child", {}, 1.15f},
                                      {"heavy", "Heavy", {}, 1.72f},
                                      {"slight", "Slight", {}, 1.66f},
                                      {"long-limbed", "Long-limbed", {}, 1.82f},
                                      {"strong", "Strong", {}, 1.8f},
                                      {"old", "Old", {}, 1.62f}}};
    out[1].build.child = 0.6f;
    out[2].build.girth = 1.32f;
    out[2].build.belly = 0.9f;
    out[2].build.hips = 1.08f;
    out[3].build.girth = 0.84f;
    out[3].build.shoulders = 0.92f;
    out[4].build.girth = 0.9f;
    out[4].build.limbs = 1.14f;
    out[5].build.shoulders = 1.18f;
    out[5].build.muscle = 0.9f;
    out[5].build.girth = 1.08f;
    out[6].build.girth = 0.95f;
    out[6].build.shoulders = 0.92f;
    out[6].build.belly = 0.35f;
    return out;
  }();
  return all;
}

Build grownAs(const Build& build) {
  Build out = build;
  const float c = std::clamp(build.child, 0.0f, 1.0f);
  out.head *= 1 + 0.62f * c;
  out.limbs *= 1 - 0.16f * c;
  out.shoulders *= 1 - 0.06f * c;
  out.hips *= 1 - 0.04f * c;
  out.girth *= 1 + 0.06f * c;
  out.belly = std::min(1.0f, out.belly + 0.3f * c);
  out.muscle *= 1 - c;
  out.child = 0;
  return out;
}

std::vector<double> naturalLengths(const Build& grown, double size) {
  const auto& skeleton = pose::skeletonOf("human");
  std::vector<double> out;
  const auto limbs = static_cast<double>(grown.limbs);
  for (const auto& bone : skeleton.bones) {
    const std::string& to = skeleton.points[bone.to].id;
    const auto is = [&](const char* part) { return to.find(part) != std::string::npos; };
    double scale = 1;
    if (is("elbow") || is("wrist") || is("knee") || is("ankle")) scale = limbs;
    if (is("shoulder")) scale = 1 + 0.6 * static_cast<double>(grown.shoulders - 1);
    out.push_back(bone.length * scale * size);
  }
  return out;
}

pose::BodyPlace placeFor(const BodySpec& spec) {
  pose::BodyPlace place;
  place.size = static_cast<double>(spec.size);
  place.natural = spec.natural;
  if (!spec.natural.empty()) return place;
  const Build grown = grownAs(spec.build);
  // Longer legs leave less for the rest; a larger head too.
  constexpr float legsShare = 0.475f, headShare = 0.17f;
  place.size /= static_cast<double>(1 + legsShare * (grown.limbs - 1) + headShare * (grown.head - 1));
  place.natural = naturalLengths(grown, place.size);
  return place;
}

Body bodyOf(const BodySpec& given, BodyParts* parts) {
  const auto& skeleton = pose::skeletonOf("human");
  const pose::BodyPlace place = placeFor(given);
  BodySpec spec = given;
  spec.build = grownAs(given.build);
  spec.size = static_cast<float>(place.size);
  Rig rig;
  rig.skeleton = &skeleton;
  rig.size = spec.size;
  rig.build = spec.build;
  rig.pelvis = jointNamed(skeleton, "pelvis");
  rig.waist = jointNamed(skeleton, "waist");
  rig.head = jointNamed(skeleton, "head");
  rig.around = spec.around;
  Rig bind = rig;
  rig.posed = pose::posed(skeleton, spec.angles, place);
  bind.posed = pose::posed(skeleton, builtPose(skeleton), place);
  growHead(rig.posed, skeleton, rig.head, spec.build.head);

  std::vector<Eigen::Isometry3f> motions(skeleton.joints.size() + 2 * perSide, Eigen::Isometry3f::Identity());
  for (std::size_t j = 0; j < skeleton.joints.size(); ++j) motions[j] = motionOf(bind.posed, rig.posed, j);
  const auto untwisted = pose::posed(skeleton, withoutTwist(skeleton, spec.angles), place);
  float lowest = std::numeric_limits<float>::max();
  for (const char* id : {"left_ankle", "right_ankle", "left_knee", "right_knee", "left_hip", "left_wrist"})
    lowest = std::min(lowest, rig.point(id).y());
  Body out;
  for (const auto& p : rig.posed.points) out.points.push_back(p.cast<float>());
  const Clothes& wear = spec.clothes;
  Mesh others;
  std::array<Vec3, 2> balls;
  std::array<std::size_t, 2> held{};
  for (const bool left : {true, false}) {
    const SideOf side = sideOf(bind, left);
    Eigen::Isometry3f* own = motions.data() + side.motions;
    Hand hand = left ? spec.left : spec.right;
    const Held taken = left ? wear.left : wear.right;
    if (taken != Held::nothing && hand.grip == Grip::relaxed)
      hand.grip = taken == Held::ball || taken == Held::box ? Grip::ball : taken == Held::bag ? Grip::hook : Grip::rod;
    own[armMotion] = motionOf(bind.posed, untwisted, side.shoulder);
    own[thighMotion] = motionOf(bind.posed, untwisted, side.hip);
    poseHand(bind, left, hand, motions[side.elbow], own);
    carryHandPoints(bind, left, own, out.points);
    const Vec3 knee = bind.point(left ? "left_knee" : "right_knee"),
               ankle = bind.point(left ? "left_ankle" : "right_ankle"), shin = (ankle - knee).normalized(),
               x = bind.turned(side.knee, {1, 0, 0}), across = (x - shin * x.dot(shin)).normalized();
    const FootTurn foot = spec.level ? levelled(rig, side, lowest) : FootTurn{left ? spec.leftFoot : spec.rightFoot, 0};
    own[footMotion] = motions[side.knee] * turnedAbout(ankle, across, foot.down);
    const Vec3 ball = ankle + (shin.cross(across) * 0.074f + shin * 0.036f) * spec.size;
    balls[left ? 0 : 1] = own[footMotion] * ball;
    own[toeMotion] = own[footMotion] * turnedAbout(ball, across, -foot.toes);
    HandFrame frame = handFrame(bind, left);
    frame.wrist = own[handMotion] * frame.wrist;
    for (Vec3* d : {&frame.along, &frame.palm, &frame.thumb}) *d = own[handMotion].linear() * *d;
    addHeld(others, frame, spec.size, taken, wear.held);
    held[left ? 0 : 1] = others.at.size();
  }
  Flesh flesh = fleshOf(bind, wear);
  carry(flesh.mesh.at, flesh.carried, motions);
  smoothFolds(flesh.mesh);
  Mesh& mesh = out.mesh;
  mesh = std::move(flesh.mesh);
  out.skin = mesh.closed = mesh.faces.size();
  mesh.add(others);
  addHead(mesh, rig, wear);
  const std::size_t headEnd = mesh.at.size();
  addGarments(mesh, rig, wear);

  float under = std::numeric_limits<float>::max();
  for (const Vec3& p : mesh.at) under = std::min(under, p.y());
  const Vec3 shift = spec.at - Vec3(0, under, 0);
  for (Vec3& p : mesh.at) p += shift;
  for (Vec3& p : out.points) p += shift;
  out.radius.assign(out.points.size(), 0.045f * spec.size * spec.build.girth);
  for (const char* trunkPoint : {"neck", "left_shoulder", "right_shoulder", "left_hip", "right_hip"})
    out.radius[*skeleton.find(trunkPoint)] = 0.10f * spec.size * spec.build.girth;
  for (const std::size_t p : skeleton.head) out.radius[p] = 0.03f * spec.size * spec.build.head;
  computeNormals(mesh);
  if (parts != nullptr) {
    const std::size_t skin = flesh.carried.size();
    *parts = {std::move(motions), {}, balls, std::move(flesh.carried), skin + held[0], skin + held[1], headEnd};
    for (const auto& origin : rig.posed.origins) parts->origins.push_back(origin.cast<float>() + shift);
    for (Vec3& ball : parts->balls) ball += shift;
  }
  return out;
}

}  // namespace hscaffold::stage
