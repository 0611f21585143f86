#include "app/workbench/pose/figure_hits.h"

#include "app/points.h"

namespace hscaffold::app {

std::optional<PosePoint> pointAt(const PoseWork& work, QPointF at, double reach) {
  const auto* all = work.figures();
  const auto selected = work.selected();
  if (all == nullptr) return {};
  std::optional<PosePoint> best;
  double least = reach;
  const auto look = [&](std::size_t f, double favour) {
    const pose::Figure& figure = *all->figures[f];
    if (!figure.on) return;
    for (std::size_t i = 0; i < figure.points.size(); ++i) {
      if (!figure.points[i].there()) continue;
      const double distance = distanceBetween(figure.points[i].at, toPoint(at));
      if (distance > reach || distance - favour >= least) continue;
      least = distance - favour;
      best = {f, i};
    }
  };
  for (std::size_t f = 0; f < all->figures.size(); ++f)
    if (f != selected) look(f, 0);
  // The one in hand comes first where both are near.
  if (selected) look(*selected, reach / 2);
  return best;
}

std::optional<PosePoint> boneAt(const PoseWork& work, QPointF at, double reach) {
  const auto* all = work.figures();
  const auto selected = work.selected();
  if (all == nullptr) return {};
  std::optional<PosePoint> best;
  double least = reach;
  for (std::size_t f = 0; f < all->figures.size(); ++f) {
    const pose::Figure& figure = *all->figures[f];
    if (!figure.on) continue;
    for (const pose::Bone& bone : figure.kind().bones) {
      const auto &from = figure.points[bone.from], &to = figure.points[bone.to];
      if (!from.there() || !to.there()) continue;
      const double distance = distanceToSegment(toPoint(at), from.at, to.at) - (f == selected ? reach / 2 : 0);
      if (distance >= least) continue;
      least = distance;
      best = {f, bone.to};
    }
  }
  return best;
}

std::optional<std::size_t> figureAt(const PoseWork& work, QPointF at, double reach) {
  const auto* all = work.figures();
  if (all == nullptr) return {};
  const auto holds = [&](std::size_t f) {
    const auto bounds = pose::boundsOf(*all->figures[f]);
    return bounds && at.x() >= bounds->left - reach && at.x() <= bounds->right + reach &&
           at.y() >= bounds->top - reach && at.y() <= bounds->bottom + reach;
  };
  // Small figures before large ones: they are the harder to hit.
  std::optional<std::size_t> best;
  double least = 1e18;
  for (std::size_t f = 0; f < all->figures.size(); ++f)
    if (holds(f)) {
      const auto bounds = *pose::boundsOf(*all->figures[f]);
      if (const double area = bounds.width() * bounds.height(); area < least) {
        least = area;
        best = f;
      }
    }
  return best;
}

}  // namespace hscaffold::app
