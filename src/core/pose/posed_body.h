/// A body's places in 3D; apart from body.h because only what computes with them needs Eigen.
#pragma once

#include <Eigen/Core>
#include <vector>

#include "core/pose/body.h"

namespace hscaffold::pose {

struct PosedBody {
  std::vector<Eigen::Vector3d> points;   ///< pixels, y up, from the first joint
  std::vector<Eigen::Vector3d> origins;  ///< of the joints
  std::vector<Eigen::Vector3d> axes;     ///< of the turns, unit length
  std::vector<Eigen::Matrix3d> turned;   ///< of the joints: from how they are at rest
  [[nodiscard]] Point inFrame(std::size_t point, Point at) const {
    return {at.x + points[point].x(), at.y - points[point].y()};
  }
};
/// @param angles  degrees, one for each turn of the skeleton.
PosedBody posed(const Skeleton& skeleton, const std::vector<double>& angles, const BodyPlace& place);

}  // namespace hscaffold::pose
