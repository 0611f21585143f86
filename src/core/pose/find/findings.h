/// What several looks at a picture found, put together: which findings are of one figure.
#pragma once

#include <vector>

#include "core/pose/figure.h"

namespace hscaffold::pose {

/// Sum of the confidences of the points that are there.
double strengthOf(const Figure& figure);
double longerSideOf(const Bounds& box);
double areaOf(const Bounds& box);
/// Of what both boxes cover, in pixels; 0 where they lie apart.
double sharedArea(const Bounds& a, const Bounds& b);

/// Whether a finding is nobody of its own: the same figure as another one, or only a part of it, as folds and locks are
/// that look like somebody small. Both have points that are there.
bool belongsTo(const Figure& figure, const Figure& other);

/// The strongest first, without those that belong to a stronger one of the same skeleton.
std::vector<Figure> distinct(std::vector<Figure> found);

/// Of people and animals that lie on one place only the surest; one that rides or holds another one stays.
std::vector<Figure> withoutDoubles(std::vector<Figure> found);

}  // namespace hscaffold::pose
