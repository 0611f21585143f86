#include "app/workbench/lines/stroke_edits.h"

#include <algorithm>

#include "app/points.h"
#include "app/workbench/hand_work.h"
#include "core/strokes/curve_fit.h"

namespace hscaffold::app {

void addStroke(HandWork& work, Size frame, const std::vector<StrokePlace>& path, double tolerance) {
  // What lies wholly beside the frame would be a change that nobody can see.
  const auto seen = [&](const StrokePlace& place) {
    return place.at.x > -place.width && place.at.y > -place.width && place.at.x < frame.width + place.width &&
           place.at.y < frame.height + place.width;
  };
  if (std::none_of(path.begin(), path.end(), seen)) return;
  Stroke stroke = fittedStroke(smoothed(path, 2), tolerance);
  work.editStrokes("Draw stroke",
                   [&](HandWork::Strokes& all) { all.push_back(std::make_shared<const Stroke>(std::move(stroke))); });
}

void removeStrokes(HandWork& work, const std::set<std::size_t>& which) {
  if (which.empty()) return;
  work.editStrokes(which.size() == 1 ? "Delete stroke" : "Delete strokes", [&](HandWork::Strokes& all) {
    for (auto i = which.rbegin(); i != which.rend(); ++i)
      if (*i < all.size()) all.erase(all.begin() + static_cast<std::ptrdiff_t>(*i));
  });
}

void moveStrokes(HandWork& work, const std::set<std::size_t>& which, QPointF by, bool nudge) {
  if (which.empty() || by.isNull()) return;
  std::string merge;
  if (nudge) {
    merge = "nudge strokes";
    for (const std::size_t i : which) merge += " " + std::to_string(i);
  }
  work.editStrokes(
      "Move strokes",
      [&](HandWork::Strokes& all) {
        for (const std::size_t i : which) {
          Stroke moved = *all.at(i);
          for (Point& p : moved.points) p = p + toPoint(by);
          all[i] = std::make_shared<const Stroke>(std::move(moved));
        }
      },
      merge);
}

void smoothStrokes(HandWork& work, const std::set<std::size_t>& which) {
  if (which.empty()) return;
  work.editStrokes("Smooth strokes", [&](HandWork::Strokes& all) {
    for (const std::size_t i : which) {
      const bool closed = all.at(i)->closed;
      auto places = flattened(*all[i], 0.1);
      if (closed) places.pop_back();
      Stroke smooth = fittedStroke(smoothed(places, 6, closed), 1.2, closed);
      all[i] = std::make_shared<const Stroke>(std::move(smooth));
    }
  });
}

void scaleWidths(HandWork& work, const std::set<std::size_t>& which, double factor) {
  if (which.empty()) return;
  work.editStrokes("Line weight", [&](HandWork::Strokes& all) {
    for (const std::size_t i : which) {
      Stroke scaled = *all.at(i);
      for (double& width : scaled.widths) width = std::clamp(width * factor, 0.3, 200.0);
      all[i] = std::make_shared<const Stroke>(std::move(scaled));
    }
  });
}

void joinStrokes(HandWork& work, const std::set<std::size_t>& which) {
  if (which.size() != 2) return;
  work.editStrokes("Join strokes", [&](HandWork::Strokes& all) {
    const std::size_t i = *which.begin(), j = *which.rbegin();
    auto a = flattened(*all.at(i), 0.1), b = flattened(*all.at(j), 0.1);
    const double frontFront = distanceBetween(a.front().at, b.front().at),
                 frontBack = distanceBetween(a.front().at, b.back().at),
                 backFront = distanceBetween(a.back().at, b.front().at),
                 backBack = distanceBetween(a.back().at, b.back().at);
    const double least = std::min({frontFront, frontBack, backFront, backBack});
    // The nearest ends come to lie at the end of the one and the beginning of the other.
    if (least == frontFront || least == frontBack) std::reverse(a.begin(), a.end());
    if (least == frontBack || least == backBack) std::reverse(b.begin(), b.end());
    a.insert(a.end(), b.begin(), b.end());
    all[i] = std::make_shared<const Stroke>(fittedStroke(a, 0.5));
    all.erase(all.begin() + static_cast<std::ptrdiff_t>(j));
  });
}

}  // namespace hscaffold::app
