#include "core/pose/find/findings.h"

#include <algorithm>

#include "core/pose/skeleton.h"

namespace hscaffold::pose {
namespace {

/// What two boxes share, of the smaller one.
double overlapOf(const Bounds& a, const Bounds& b) {
  return sharedArea(a, b) / std::max(1.0, std::min(areaOf(a), areaOf(b)));
}

/// Whether two findings are of one figure: enough of their points lie together.
bool same(const Figure& a, const Figure& b) {
  const auto boxA = boundsOf(a), boxB = boundsOf(b);
  if (!boxA || !boxB || overlapOf(*boxA, *boxB) < 0.3) return false;
  const double near = 0.08 * std::max(longerSideOf(*boxA), longerSideOf(*boxB));
  int together = 0, both = 0;
  for (std::size_t p = 0; p < a.points.size(); ++p) {
    if (!a.points[p].there() || !b.points[p].there()) continue;
    ++both;
    const Point off = a.points[p].at - b.points[p].at;
    if (dot(off, off) < near * near) ++together;
  }
  return both > 0 ? 2 * together >= both : overlapOf(*boxA, *boxB) > 0.7;
}

/// Share of a figure's points that lie on another one: on its limbs, as broad as limbs are.
double shareOn(const Figure& figure, const Figure& other) {
  const auto box = boundsOf(other);
  if (!box) return 0;
  const double broad = 0.1 * longerSideOf(*box);
  int on = 0, all = 0;
  for (const KeyPoint& p : figure.points) {
    if (!p.there()) continue;
    ++all;
    for (const Bone& bone : other.kind().bones) {
      const KeyPoint &a = other.points[bone.from], &b = other.points[bone.to];
      if (!a.there() || !b.there() || distanceToSegment(p.at, a.at, b.at) > broad) continue;
      ++on;
      break;
    }
  }
  return all > 0 ? static_cast<double>(on) / all : 0;
}

}  // namespace

double strengthOf(const Figure& figure) {
  double sum = 0;
  for (const KeyPoint& p : figure.points) sum += p.there() ? p.confidence : 0;
  return sum;
}

double areaOf(const Bounds& box) { return box.width() * box.height(); }

double sharedArea(const Bounds& a, const Bounds& b) {
  const double w = std::min(a.right, b.right) - std::max(a.left, b.left),
               h = std::min(a.bottom, b.bottom) - std::max(a.top, b.top);
  return std::max(0.0, w) * std::max(0.0, h);
}

double longerSideOf(const Bounds& box) { return std::max(box.width(), box.height()); }

bool belongsTo(const Figure& figure, const Figure& other) {
  if (same(figure, other)) return true;
  const bool small = longerSideOf(*boundsOf(figure)) < 0.6 * longerSideOf(*boundsOf(other));
  // Somebody small before somebody large is as sure as they are.
  return shareOn(figure, other) > (small && strengthOf(figure) < 0.9 * strengthOf(other) ? 0.6 : 0.8);
}

std::vector<Figure> distinct(std::vector<Figure> found) {
  std::stable_sort(found.begin(), found.end(),
                   [](const Figure& a, const Figure& b) { return strengthOf(a) > strengthOf(b); });
  std::vector<Figure> out;
  for (Figure& figure : found)
    if (std::none_of(out.begin(), out.end(), [&](const Figure& other) {
          return other.skeleton == figure.skeleton && belongsTo(figure, other);
        }))
      out.push_back(std::move(figure));
  return out;
}

std::vector<Figure> withoutDoubles(std::vector<Figure> found) {
  std::stable_sort(found.begin(), found.end(),
                   [](const Figure& a, const Figure& b) { return confidenceOf(a) > confidenceOf(b); });
  std::vector<Figure> out;
  for (Figure& figure : found) {
    const double side = longerSideOf(*boundsOf(figure));
    const bool again = std::any_of(out.begin(), out.end(), [&](const Figure& other) {
      if (other.skeleton == figure.skeleton) return false;
      const double ratio = side / longerSideOf(*boundsOf(other));
      return ratio < 1.6 && shareOn(figure, other) > 0.7;
    });
    if (!again) out.push_back(std::move(figure));
  }
  return out;
}

}  // namespace hscaffold::pose
