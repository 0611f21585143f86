#include "core/pose/finder.h"

#include <algorithm>
#include <cmath>

namespace hscaffold::pose {

double similarity(const Figure& a, const Figure& b) {
  if (a.skeleton != b.skeleton) return 0;
  const auto area = [](const Figure& figure) {
    const auto box = boundsOf(figure);
    return box ? std::max(1.0, box->width() * box->height()) : 1.0;
  };
  constexpr double spread = 0.08;  // the mean of COCO's own
  const double scale = 2 * std::sqrt(area(a) * area(b)) * 4 * spread * spread;
  double sum = 0;
  int count = 0;
  for (std::size_t i = 0; i < a.points.size(); ++i) {
    if (!a.points[i].there() || !b.points[i].there()) continue;
    const Point off = a.points[i].at - b.points[i].at;
    sum += std::exp(-dot(off, off) / scale);
    ++count;
  }
  return count > 0 ? sum / count : 0;
}

std::vector<std::size_t> doubtfulPoints(const Figure& figure) {
  constexpr double doubtful = 0.52;
  std::vector<std::size_t> out;
  for (std::size_t p = 0; p < figure.points.size(); ++p)
    if (figure.points[p].there() && figure.kind().isBody(p) && figure.points[p].confidence < doubtful) out.push_back(p);
  std::stable_sort(out.begin(), out.end(), [&](std::size_t a, std::size_t b) {
    return figure.points[a].confidence < figure.points[b].confidence;
  });
  return out;
}

std::vector<Figure> tidied(std::vector<Figure> found, const FinderTuning& tuning) {
  for (Figure& figure : found) {
    for (KeyPoint& p : figure.points)
      if (p.there() && p.confidence < tuning.leastPoint) p.presence = Presence::absent;
    figure.natural = naturalFor(figure);
  }
  std::erase_if(found,
                [&](const Figure& figure) { return !boundsOf(figure) || confidenceOf(figure) < tuning.leastFigure; });
  std::stable_sort(found.begin(), found.end(),
                   [](const Figure& a, const Figure& b) { return confidenceOf(a) > confidenceOf(b); });
  std::vector<Figure> kept;
  for (Figure& figure : found)
    if (std::none_of(kept.begin(), kept.end(),
                     [&](const Figure& other) { return similarity(figure, other) >= tuning.same; }))
      kept.push_back(std::move(figure));
  std::stable_sort(kept.begin(), kept.end(), [](const Figure& a, const Figure& b) { return sizeOf(a) < sizeOf(b); });
  return kept;
}

}  // namespace hscaffold::pose
