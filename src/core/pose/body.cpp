#include "core/pose/body.h"
#include "core/pose/posed_body.h"

#include <Eigen/Geometry>
#include <cmath>

namespace hscaffold::pose {
namespace {

Eigen::Vector3d vectorOf(const Vec3& v) { return {v[0], v[1], v[2]}; }

/// What a point's offset from its joint is multiplied by: the figure's own length of the bone that runs between them.
double scaleOf(const Skeleton& skeleton, std::size_t point, const Vec3& joint, const BodyPlace& place) {
  if (place.natural.empty()) return place.size;
  const int bone = skeleton.points[point].bone;
  if (bone < 0) return place.size;
  const Bone& of = skeleton.bones[static_cast<std::size_t>(bone)];
  if (of.reach != 1 || skeleton.points[of.from].rest != joint) return place.size;
  return place.natural[static_cast<std::size_t>(bone)] / of.length;
}

/// Whether something of the body is between `point` and the camera.
bool isCovered(const Skeleton& skeleton, const PosedBody& body, std::size_t point, double size) {
  const Eigen::Vector3d p = body.points[point];
  const auto mean = [&](const std::vector<std::size_t>& points) {
    Eigen::Vector3d sum = Eigen::Vector3d::Zero();
    for (const std::size_t i : points) sum += body.points[i];
    return Eigen::Vector3d(sum / static_cast<double>(points.size()));
  };
  if (std::find(skeleton.head.begin(), skeleton.head.end(), point) != skeleton.head.end()) {
    const Eigen::Vector3d off = p - mean(skeleton.headAbout);
    if (off.z() < -0.25 * off.norm()) return true;
  }
  // The trunk is what hides: it is not hidden itself, and limbs are too thin to hide much.
  if (skeleton.points[point].mirror == point) return false;
  for (const Solid& solid : skeleton.solids) {
    if (solid.of != Solid::Of::torso && solid.of != Solid::Of::head) continue;
    if (std::find(solid.from.begin(), solid.from.end(), point) != solid.from.end() ||
        std::find(solid.to.begin(), solid.to.end(), point) != solid.to.end())
      continue;
    const Eigen::Vector3d a = mean(solid.from), b = mean(solid.to), along = b - a;
    const double flat = along.head<2>().squaredNorm();
    const double t = flat > 1e-9 ? std::clamp((p - a).head<2>().dot(along.head<2>()) / flat, 0.0, 1.0) : 0;
    const Eigen::Vector3d nearest = a + t * along;
    const double radius = size * (solid.radiusFrom + t * (solid.radiusTo - solid.radiusFrom));
    const double aside = (p - nearest).head<2>().norm();
    // Well inside its outline and well behind its front.
    if (aside < 0.75 * radius && p.z() < nearest.z() - 0.6 * radius) return true;
  }
  return false;
}

}  // namespace

PosedBody posed(const Skeleton& skeleton, const std::vector<double>& angles, const BodyPlace& place) {
  PosedBody out;
  auto& turned = out.turned;
  turned.resize(skeleton.joints.size());
  out.origins.resize(skeleton.joints.size());
  out.axes.resize(skeleton.turns.size());
  // Where a joint sits on a key point, its bone's own length counts.
  std::vector<int> pointAt(skeleton.joints.size(), -1);
  for (std::size_t i = 0; i < skeleton.points.size(); ++i) {
    const std::size_t joint = skeleton.points[i].joint;
    if (pointAt[joint] < 0 && skeleton.points[i].rest == skeleton.joints[joint].rest)
      pointAt[joint] = static_cast<int>(i);
  }
  for (std::size_t j = 0; j < skeleton.joints.size(); ++j) {
    const Joint& joint = skeleton.joints[j];
    Eigen::Matrix3d rotation = Eigen::Matrix3d::Identity();
    if (joint.parent < 0) {
      out.origins[j] = Eigen::Vector3d::Zero();
    } else {
      const auto up = static_cast<std::size_t>(joint.parent);
      const Vec3& from = skeleton.joints[up].rest;
      const double scale =
          pointAt[j] >= 0 ? scaleOf(skeleton, static_cast<std::size_t>(pointAt[j]), from, place) : place.size;
      out.origins[j] = out.origins[up] + turned[up] * (vectorOf(joint.rest) - vectorOf(from)) * scale;
      rotation = turned[up];
    }
    for (std::size_t t = joint.firstTurn; t < joint.firstTurn + joint.turns; ++t) {
      const Eigen::Vector3d axis = vectorOf(skeleton.turns[t].axis);
      out.axes[t] = rotation * axis;
      rotation = rotation * Eigen::AngleAxisd(angles[t] * degree, axis).toRotationMatrix();
    }
    turned[j] = rotation;
  }
  for (std::size_t i = 0; i < skeleton.points.size(); ++i) {
    const SkeletonPoint& point = skeleton.points[i];
    const Vec3& from = skeleton.joints[point.joint].rest;
    const double scale = point.rest == from ? 0 : scaleOf(skeleton, i, from, place);
    out.points.push_back(out.origins[point.joint] +
                         turned[point.joint] * (vectorOf(point.rest) - vectorOf(from)) * scale);
  }
  return out;
}

Figure figureFrom(const Skeleton& skeleton, const BodyPose& pose, const BodyPlace& place, bool parts) {
  const PosedBody body = posed(skeleton, pose.angles, place);
  Figure out;
  out.skeleton = skeleton.id;
  out.points.resize(skeleton.points.size());
  for (std::size_t i = 0; i < out.points.size(); ++i)
    if (parts || skeleton.isBody(i))
      out.points[i] = {body.inFrame(i, place.at),
                       isCovered(skeleton, body, i, place.size) ? Presence::hidden : Presence::seen, 1, false};
  out.natural = place.natural;
  if (out.natural.empty())
    for (const Bone& bone : skeleton.bones) out.natural.push_back(place.size * bone.length * bone.reach);
  // A back that bends may stretch what spans it beyond its usual reach.
  for (std::size_t b = 0; b < skeleton.bones.size(); ++b)
    if (out.points[skeleton.bones[b].from].there() && out.points[skeleton.bones[b].to].there())
      out.natural[b] = std::max(out.natural[b], lengthOf(out, skeleton.bones[b]));
  out.body = pose;
  return out;
}

BodyPose mirroredPose(const Skeleton& skeleton, const BodyPose& pose) {
  BodyPose out = pose;
  const auto counterpart = [](const std::string& id) {
    if (id.starts_with("left_")) return "right_" + id.substr(5);
    if (id.starts_with("right_")) return "left_" + id.substr(6);
    return id;
  };
  for (std::size_t i = 0; i < skeleton.turns.size(); ++i) {
    const Turn& turn = skeleton.turns[i];
    const std::string other = counterpart(turn.id);
    if (other == turn.id) {
      out.angles[i] = turn.axis[0] != 0 ? pose.angles[i] : -pose.angles[i];
    } else if (const auto from = skeleton.findTurn(other)) {
      out.angles[i] = pose.angles[*from];
    }
  }
  return out;
}

BodyPose withinLimits(const Skeleton& skeleton, BodyPose pose) {
  for (std::size_t t = 0; t < skeleton.turns.size(); ++t) {
    const Turn& turn = skeleton.turns[t];
    // What may turn all the way round has no limits.
    pose.angles[t] = turn.most - turn.least >= 360 ? std::remainder(pose.angles[t], 360.0)
                                                   : std::clamp(pose.angles[t], turn.least, turn.most);
  }
  return pose;
}

BodyPose blended(const Skeleton& skeleton, const BodyPose& a, const BodyPose& b, double share) {
  if (share <= 0) return a;
  if (share >= 1) return b;
  BodyPose out = a;
  for (std::size_t t = 0; t < skeleton.turns.size(); ++t) {
    double way = b.angles[t] - a.angles[t];
    if (skeleton.turns[t].most - skeleton.turns[t].least >= 360) way = std::remainder(way, 360.0);
    out.angles[t] = a.angles[t] + share * way;
  }
  return out;
}

Figure fittedInto(const Figure& figure, const Bounds& box) {
  const auto bounds = boundsOf(figure);
  if (!bounds) return figure;
  const double scale = std::max(
      1e-3, std::min(box.width() / std::max(1e-6, bounds->width()), box.height() / std::max(1e-6, bounds->height())));
  const Point foot{bounds->middle().x, bounds->bottom};
  return moved(scaledAndTurned(figure, foot, scale, 0), Point{box.middle().x, box.bottom} - foot);
}

}  // namespace hscaffold::pose
