/// Bodies in 3D: joint angles in, places of the key points out, seen by a camera that looks straight on from far away
/// (orthographic projection).
///
/// Axes as the picture has them: x to the right, y up, z towards the camera. At rest a body faces the camera, so its
/// left is on the right.
#pragma once

#include <Eigen/Core>
#include <vector>

#include "core/pose/figure.h"

namespace hscaffold::pose {

/// How large a body is and where it stands.
struct BodyPlace {
  Point at;                     ///< of the skeleton's first joint, in the frame
  double size = 100;            ///< in pixels
  std::vector<double> natural;  ///< a figure's own natural lengths, by bone; empty: as at rest
};

struct PosedBody {
  std::vector<Eigen::Vector3d> points;   ///< pixels, y up, from the first joint
  std::vector<Eigen::Vector3d> origins;  ///< of the joints
  std::vector<Eigen::Vector3d> axes;     ///< of the turns, unit length
  [[nodiscard]] Point inFrame(std::size_t point, Point at) const {
    return {at.x + points[point].x(), at.y - points[point].y()};
  }
};
/// @param angles  degrees, one for each turn of the skeleton.
PosedBody posed(const Skeleton& skeleton, const std::vector<double>& angles, const BodyPlace& place);

/// The figure that the body looks like: all points of the body itself, hidden where something of the body is before
/// them. The other parts (hands, face) are there if `parts` says so.
Figure figureFrom(const Skeleton& skeleton, const BodyPose& pose, const BodyPlace& place, bool parts = false);

/// Every angle within its limits.
BodyPose withinLimits(const Skeleton& skeleton, BodyPose pose);
/// Angle by angle, the shorter way round; exactly the ends at 0 and 1.
BodyPose blended(const Skeleton& skeleton, const BodyPose& a, const BodyPose& b, double share);

/// A figure scaled and moved so that it just fills a box, standing on its lower side.
Figure fittedInto(const Figure& figure, const Bounds& box);

}  // namespace hscaffold::pose
