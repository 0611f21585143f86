/// Bodies in 3D: joint angles in, places of the key points out, seen by a camera that looks straight on from far away
/// (orthographic projection).
///
/// Axes as the picture has them: x to the right, y up, z towards the camera. At rest a body faces the camera, so its
/// left is on the right.
#pragma once

#include <numbers>
#include <vector>

#include "core/pose/figure.h"

namespace hscaffold::pose {

/// In radians.
inline constexpr double degree = std::numbers::pi / 180;

/// How large a body is and where it stands.
struct BodyPlace {
  Point at;                     ///< of the skeleton's first joint, in the frame
  double size = 100;            ///< in pixels
  std::vector<double> natural;  ///< a figure's own natural lengths, by bone; empty: as at rest
};

/// The figure that the body looks like: all points of the body itself, hidden where something of the body is before
/// them. The other parts (hands, face) are there if `parts` says so.
Figure figureFrom(const Skeleton& skeleton, const BodyPose& pose, const BodyPlace& place, bool parts = false);

/// Every angle within its limits.
BodyPose withinLimits(const Skeleton& skeleton, BodyPose pose);
/// Left for right, as in a mirror: turns of one side become those of the other; in the middle, turns about up and
/// forward change their sense.
BodyPose mirroredPose(const Skeleton& skeleton, const BodyPose& pose);
/// Angle by angle, the shorter way round; exactly the ends at 0 and 1.
BodyPose blended(const Skeleton& skeleton, const BodyPose& a, const BodyPose& b, double share);

/// A figure scaled and moved so that it just fills a box, standing on its lower side.
Figure fittedInto(const Figure& figure, const Bounds& box);

}  // namespace hscaffold::pose
