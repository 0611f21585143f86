#include "core/stage/skin.h"

#include <vector>

namespace hscaffold::stage {
namespace {

struct DualQuaternion {
  Eigen::Vector4f turn = Eigen::Vector4f::Zero(), shift = Eigen::Vector4f::Zero();  ///< x, y, z, w
};

DualQuaternion dualOf(const Eigen::Isometry3f& motion) {
  const Eigen::Quaternionf q(motion.rotation());
  const Vec3 t = motion.translation();
  const Eigen::Quaternionf half = Eigen::Quaternionf(0, t.x() / 2, t.y() / 2, t.z() / 2) * q;
  return {q.coeffs(), half.coeffs()};
}

/// Points of faces whose corners all look away from where the face looks.
std::vector<bool> turnedOver(const Mesh& mesh) {
  std::vector<bool> out;
  for (const auto& [a, b, c] : mesh.faces) {
    const Vec3 n = (mesh.at[b] - mesh.at[a]).cross(mesh.at[c] - mesh.at[a]);
    if (n.dot(mesh.normal[a]) >= 0 || n.dot(mesh.normal[b]) >= 0 || n.dot(mesh.normal[c]) >= 0) continue;
    out.resize(mesh.at.size(), false);
    out[a] = out[b] = out[c] = true;
  }
  return out;
}

}  // namespace

Eigen::Isometry3f turnedAbout(const Vec3& at, const Vec3& axis, float degrees) {
  Eigen::Isometry3f out = Eigen::Isometry3f::Identity();
  out.linear() = Eigen::AngleAxisf(degrees * pi / 180, axis.normalized()).toRotationMatrix();
  out.translation() = at - out.linear() * at;
  return out;
}

void smoothFolds(Mesh& mesh) {
  constexpr int most = 60;
  for (int round = 0; round < most; ++round) {
    computeNormals(mesh);
    const auto moved = turnedOver(mesh);
    if (moved.empty()) break;
    std::vector<Vec3> sum(mesh.at.size(), Vec3::Zero());
    std::vector<float> count(mesh.at.size(), 0);
    for (const auto& face : mesh.faces)
      for (std::size_t k = 0; k < 3; ++k) {
        if (!moved[face[k]]) continue;
        sum[face[k]] += mesh.at[face[(k + 1) % 3]] + mesh.at[face[(k + 2) % 3]];
        count[face[k]] += 2;
      }
    for (std::size_t i = 0; i < moved.size(); ++i)
      if (count[i] > 0) mesh.at[i] = 0.4f * mesh.at[i] + 0.6f * sum[i] / count[i];
  }
  mesh.normal.clear();
}

void carry(std::span<Vec3> points, std::span<const Carried> carried, std::span<const Eigen::Isometry3f> motions) {
  std::vector<DualQuaternion> duals;
  duals.reserve(motions.size());
  for (const auto& motion : motions) duals.push_back(dualOf(motion));
  for (std::size_t i = 0; i < points.size(); ++i) {
    const Carried& c = carried[i];
    const DualQuaternion& lead = duals[c.by[0]];
    Eigen::Vector4f turn = lead.turn * c.share[0], shift = lead.shift * c.share[0];
    for (std::size_t k = 1; k < c.by.size(); ++k) {
      if (c.share[k] <= 0) continue;
      // A quaternion and its negative are the same turn: the near one is meant.
      const DualQuaternion& other = duals[c.by[k]];
      const float share = other.turn.dot(lead.turn) < 0 ? -c.share[k] : c.share[k];
      turn += other.turn * share;
      shift += other.shift * share;
    }
    const float length = turn.norm();
    turn /= length;
    shift /= length;
    const Vec3 r = turn.head<3>(), d = shift.head<3>();
    const float w = turn.w();
    const Vec3 p = points[i];
    points[i] = p + 2 * r.cross(Vec3(r.cross(p) + w * p)) + 2 * (w * d - shift.w() * r + r.cross(d));
  }
}

}  // namespace hscaffold::stage
