#include "core/stage/bones.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <limits>

#include "core/pose/posed_body.h"

namespace hscaffold::stage {
namespace {

Eigen::Isometry3f placed(const Eigen::Matrix3f& turned, const Vec3& at) {
  Eigen::Isometry3f out = Eigen::Isometry3f::Identity();
  out.linear() = turned;
  out.translation() = at;
  return out;
}

float distanceTo(const Vec3& p, const Vec3& a, const Vec3& b) {
  const Vec3 along = b - a;
  const float length = along.squaredNorm();
  const float t = length > 0 ? std::clamp(along.dot(p - a) / length, 0.0f, 1.0f) : 0.0f;
  return (p - a - t * along).norm();
}

/// Follows the two bones whose lengths, from where they are to where their children are, come nearest.
Carried nearestBones(const std::vector<Bone>& bones, const Vec3& p) {
  std::array<std::size_t, 2> best{0, 0};
  std::array<float, 2> far{std::numeric_limits<float>::max(), std::numeric_limits<float>::max()};
  const auto take = [&](std::size_t bone, float distance) {
    if (bone == best[0] && far[0] < std::numeric_limits<float>::max()) {
      far[0] = std::min(far[0], distance);
    } else if (distance < far[0]) {
      best[1] = best[0], far[1] = far[0];
      best[0] = bone, far[0] = distance;
    } else if (distance < far[1]) {
      best[1] = bone, far[1] = distance;
    }
  };
  for (std::size_t b = 0; b < bones.size(); ++b) {
    take(b, (p - bones[b].at.translation()).norm());
    if (const int parent = bones[b].parent; parent >= 0) {
      const auto from = static_cast<std::size_t>(parent);
      take(from, distanceTo(p, bones[from].at.translation(), bones[b].at.translation()));
    }
  }
  if (!(far[1] < std::numeric_limits<float>::max()) || best[0] == best[1]) return Carried::wholly(best[0]);
  // Halves where both are as near, none of the other where it is twice as far.
  const float other = std::clamp(1 - far[1] / std::max(1e-4f, 2 * far[0]), 0.0f, 0.5f);
  return Carried::between(best[0], best[1], other);
}

Skinned animalSkin(const Beast& beast) {
  const AnimalSpec spec = specOf(beast);
  AnimalBody body = animalOf(spec);
  const auto& skeleton = pose::skeletonOf("four-legged");
  const auto posed = pose::posed(skeleton, spec.angles, placeFor(spec));
  const Vec3 shift = body.points.front() - posed.points.front().cast<float>();
  Skinned out;
  for (std::size_t j = 0; j < skeleton.joints.size(); ++j)
    out.bones.push_back({skeleton.joints[j].id, skeleton.joints[j].parent,
                         placed(posed.turned[j].cast<float>(), posed.origins[j].cast<float>() + shift)});
  out.mesh = std::move(body.mesh);
  for (const Vec3& p : out.mesh.at) out.carried.push_back(nearestBones(out.bones, p));
  return out;
}

Skinned personSkin(const Person& person) {
  BodyParts parts;
  Body body = bodyOf(specOf(person), &parts);
  const auto& skeleton = pose::skeletonOf("human");
  const std::size_t joints = skeleton.joints.size();
  Skinned out;
  out.bones.resize(parts.motions.size());
  const auto named = [&](const std::string& id) { return static_cast<int>(jointNamed(skeleton, id.c_str())); };
  for (std::size_t j = 0; j < joints; ++j)
    out.bones[j] = {skeleton.joints[j].id, skeleton.joints[j].parent,
                    placed(parts.motions[j].linear(), parts.origins[j])};
  for (const bool left : {true, false}) {
    const std::string side = left ? "left_" : "right_";
    const std::size_t first = joints + (left ? 0 : perSide);
    const auto own = [&](std::size_t motion, const std::string& id, int parent, const Vec3& at) {
      out.bones[first + motion] = {side + id, parent, placed(parts.motions[first + motion].linear(), at)};
    };
    const auto point = [&](const std::string& id) { return body.points[*skeleton.find(side + id)]; };
    const auto number = [&](std::size_t motion) { return static_cast<int>(first + motion); };
    own(handMotion, "hand", named(side + "elbow"), point("wrist"));
    std::size_t finger = 0;
    for (const char* id : {"thumb", "index", "middle", "ring", "little"}) {
      for (std::size_t i = 0; i < 3; ++i)
        own(fingerMotion + 3 * finger + i, fmt::format("{}_{}", id, i + 1),
            number(i == 0 ? handMotion : fingerMotion + 3 * finger + i - 1), point(fmt::format("{}_{}", id, i + 1)));
      ++finger;
    }
    own(footMotion, "foot", named(side + "knee"), point("ankle"));
    own(toeMotion, "toes", number(footMotion), parts.balls[left ? 0 : 1]);
    // Upper arm and thigh turn about their own length in the joint below that does not.
    for (const auto& [motion, id] : {std::pair{armMotion, "shoulder"}, {thighMotion, "hip"}}) {
      const auto joint = static_cast<std::size_t>(named(side + id));
      own(motion, std::string(id) + "_swing", out.bones[joint].parent, out.bones[joint].at.translation());
      out.bones[joint].parent = number(motion);
    }
  }
  out.mesh = std::move(body.mesh);
  out.carried = std::move(parts.carried);
  const std::size_t skin = out.carried.size();
  for (std::size_t i = skin; i < out.mesh.at.size(); ++i) {
    if (i < parts.heldLeft || i < parts.heldRight) {
      out.carried.push_back(Carried::wholly(joints + (i < parts.heldLeft ? 0 : perSide) + handMotion));
    } else if (i < parts.head) {
      out.carried.push_back(Carried::wholly(jointNamed(skeleton, "head")));
    } else {
      std::size_t nearest = 0;
      float least = std::numeric_limits<float>::max();
      for (std::size_t k = 0; k < skin; ++k)
        if (const float far = (out.mesh.at[k] - out.mesh.at[i]).squaredNorm(); far < least) least = far, nearest = k;
      out.carried.push_back(out.carried[nearest]);
    }
  }
  return out;
}

}  // namespace

Skinned skinnedOf(const Thing& figure) {
  if (const auto* person = std::get_if<Person>(&figure.is)) return personSkin(*person);
  return animalSkin(std::get<Beast>(figure.is));
}

}  // namespace hscaffold::stage
