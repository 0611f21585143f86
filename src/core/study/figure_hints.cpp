#include "core/study/figure_hints.h"

#include <algorithm>
#include <cmath>
#include <optional>

namespace hscaffold {
namespace {

using depth::Hint;
using depth::Spot;
using pose::Figure;

/// As broad as a limb, a share of the figure's size: a stroke must not reach beyond what it marks.
constexpr double breadth = 0.05;

/// A walk to and fro over all bones of the body that are there, which never leaves them.
void walk(const Figure& figure, std::size_t point, std::vector<Spot>& path) {
  const auto& kind = figure.kind();
  const auto spot = [&](std::size_t p) { return Spot{figure.points[p].at.x, figure.points[p].at.y}; };
  path.push_back(spot(point));
  for (const auto& bone : kind.bones) {
    if (bone.from != point || !kind.isBody(bone.to) || !figure.points[bone.to].there()) continue;
    walk(figure, bone.to, path);
    path.push_back(spot(point));
  }
}

/// The longest walk from a point that is there and hangs on none that is.
std::vector<Spot> bonesOf(const Figure& figure) {
  const auto& kind = figure.kind();
  std::vector<Spot> best;
  for (std::size_t p = 0; p < figure.points.size(); ++p) {
    if (!figure.points[p].there() || !kind.isBody(p)) continue;
    const bool hangs = std::any_of(kind.bones.begin(), kind.bones.end(), [&](const pose::Bone& bone) {
      return bone.to == p && figure.points[bone.from].there();
    });
    if (hangs) continue;
    std::vector<Spot> path;
    walk(figure, p, path);
    if (path.size() > best.size()) best = std::move(path);
  }
  return best;
}

/// The lowest of the points that it stands on.
std::optional<Spot> footOf(const Figure& figure, Size frame) {
  std::optional<Spot> out;
  for (const std::size_t p : figure.kind().planted) {
    const auto& at = figure.points[p].at;
    if (!figure.points[p].there() || at.x < 0 || at.y < 0 || at.x >= frame.width || at.y >= frame.height) continue;
    if (!out || at.y > out->y) out = Spot{at.x, at.y};
  }
  return out;
}

/// The ground under a foot and to both sides of it: the foot itself may be guessed as something else.
double groundUnder(Spot foot, double size, View<std::uint16_t> near) {
  std::vector<std::uint16_t> there;
  const int reach = std::max(2, static_cast<int>(size * 0.12)), below = std::max(1, static_cast<int>(size * 0.05));
  for (int dx = -reach; dx <= reach; ++dx) {
    const int x = std::clamp(static_cast<int>(foot.x) + dx, 0, near.width() - 1);
    const int y = std::clamp(static_cast<int>(foot.y) + below, 0, near.height() - 1);
    there.push_back(near(x, y));
  }
  const auto middle = there.begin() + static_cast<std::ptrdiff_t>(there.size() / 2);
  std::nth_element(there.begin(), middle, there.end());
  return *middle / 65535.0;
}

}  // namespace

std::vector<Hint> hintsFromFigures(const pose::Figures& figures, View<std::uint16_t> near) {
  std::vector<Hint> out;
  if (near.empty()) return out;
  const Size frame = near.size();
  for (const auto& figure : figures.figures) {
    if (!figure->on) continue;
    const auto bounds = pose::boundsOf(*figure);
    auto path = bonesOf(*figure);
    if (!bounds || path.size() < 2 || path.size() > depth::mostSpots) continue;
    const double size = std::max({pose::sizeOf(*figure), bounds->width(), bounds->height()});
    const double width = std::max(2.0, size * breadth);
    if (const auto foot = footOf(*figure, frame)) {
      out.push_back({Hint::Form::level, std::move(path), width, groundUnder(*foot, size, near), 0.5});
      continue;
    }
    out.push_back({Hint::Form::same, std::move(path), width, 0.5, 0.5});
    // To the side that has more room.
    const double gap = 0.1 * size;
    const bool right = frame.width - bounds->right > bounds->left;
    const double beside = right ? bounds->right + gap : bounds->left - gap;
    if (beside < 0 || beside >= frame.width) continue;
    const Spot middle{bounds->middle().x, bounds->middle().y};
    out.push_back(
        {Hint::Form::front, {out.back().spots[out.back().spots.size() / 2], {beside, middle.y}}, width, 0.5, 0.5});
  }
  if (out.size() > depth::mostHints) out.resize(depth::mostHints);
  return out;
}

}  // namespace hscaffold
