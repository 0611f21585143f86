/// Fitting a body in 3D to places in the picture: the least squares over joint angles, within anatomical limits
/// (Levenberg 1944, Marquardt 1963; limits by projection), with a mild wish to stay near the pose it began from.
#pragma once

#include "core/pose/body.h"

namespace hscaffold::pose {

/// Where a point should be, and how much that counts (1: about as much as any other).
struct FitTarget {
  std::size_t point = 0;
  Point at;
  double weight = 1;
};

struct FitResult {
  BodyPose pose;
  BodyPlace place;
  double error = 0;  ///< root mean square distance of the targets, as a share of the figure's size
};

struct FitOptions {
  double stay = 0.02;  ///< how much an angle's change by 1 radian counts against a target missed by the whole size
  int rounds = 40;
};

/// @param start  the pose to begin from and to stay near; `place` where it is now.
FitResult fitted(const Skeleton& skeleton, const BodyPose& start, const BodyPlace& place,
                 const std::vector<FitTarget>& targets, const FitOptions& options = {});

/// Where a body in this pose stands so that its points lie about those of the figure, as large as the figure is.
BodyPlace placeOf(const Figure& figure, const BodyPose& pose);

/// The body that a figure known only in the picture most likely has: fits from several starts, of which the one that
/// meets the points best while least bent away wins.
/// @param starts  poses to begin from; those that are far off are soon given up.
FitResult lifted(const Figure& figure, const std::vector<BodyPose>& starts);

/// The figure with `point` dragged to `to`: wrists, ankles, head and hips lead, the rest follows as a body would.
/// @param figure  has a body pose, or is given one of `starts` first.
/// @param led     the points that were led before and should stay.
Figure ledBy(const Figure& figure, std::size_t point, Point to, const std::vector<std::size_t>& led,
             const std::vector<BodyPose>& starts);

}  // namespace hscaffold::pose
