/// What of the figures lies under the pointer.
#pragma once

#include "app/workbench/pose/pose_work.h"

namespace hscaffold::app {

/// A point of a figure.
struct PosePoint {
  std::size_t figure = 0, point = 0;
  friend bool operator==(const PosePoint&, const PosePoint&) = default;
  friend auto operator<=>(const PosePoint&, const PosePoint&) = default;
};

/// Nearest point within `reach` frame pixels, of the selected figure rather than of others.
[[nodiscard]] std::optional<PosePoint> pointAt(const PoseWork& work, QPointF at, double reach);
/// The bone within reach, by its outer point.
[[nodiscard]] std::optional<PosePoint> boneAt(const PoseWork& work, QPointF at, double reach);
/// The nearest figure on top whose box holds the place.
[[nodiscard]] std::optional<std::size_t> figureAt(const PoseWork& work, QPointF at, double reach);

}  // namespace hscaffold::app
