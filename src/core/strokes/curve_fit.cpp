#include "core/strokes/curve_fit.h"

#include <algorithm>
#include <array>
#include <limits>

namespace hscaffold {
namespace {

constexpr int mostRounds = 6;
constexpr std::size_t longestPiece = 1500;  ///< points; bounds the time of one fit

struct Cubic {
  std::array<Point, 4> p;
  [[nodiscard]] Point at(double t) const {
    const double s = 1 - t;
    return p[0] * (s * s * s) + p[1] * (3 * s * s * t) + p[2] * (3 * s * t * t) + p[3] * (t * t * t);
  }
  [[nodiscard]] Point slope(double t) const {
    const double s = 1 - t;
    return (p[1] - p[0]) * (3 * s * s) + (p[2] - p[1]) * (6 * s * t) + (p[3] - p[2]) * (3 * t * t);
  }
  [[nodiscard]] Point bend(double t) const {
    return (p[2] - p[1] * 2 + p[0]) * (6 * (1 - t)) + (p[3] - p[2] * 2 + p[1]) * (6 * t);
  }
};

class Fitter {
 public:
  Fitter(std::span<const StrokePlace> path, double tolerance, Stroke& out)
      : path_(path), tolerance_(tolerance), out_(out) {}

  /// Points [first, last], leaving in direction `in` and arriving against `out`.
  void fit(std::size_t first, std::size_t last, Point leaving, Point arriving) {
    if (last - first == 1) return emitLine(first, last);
    std::size_t worst = (first + last) / 2;
    if (last - first <= longestPiece) {
      auto parameters = byChordLength(first, last);
      double before = std::numeric_limits<double>::max();
      for (int round = 0; round < mostRounds; ++round) {
        const Cubic cubic = leastSquares(first, last, parameters, leaving, arriving);
        const auto [error, where] = errorOf(cubic, first, last, parameters);
        worst = where;
        if (error <= tolerance_ && staysNear(cubic, first, last)) return emit(cubic, last);
        // Far off: better parameters will not help.
        if (error > 4 * tolerance_ || error > 0.98 * before) break;
        before = error;
        reparametrise(cubic, first, last, parameters);
      }
    }
    worst = std::clamp(worst, first + 1, last - 1);
    const Point through = directionAt(worst, first, last);
    fit(first, worst, leaving, through);
    fit(worst, last, through, arriving);
  }

  /// Where the path leaves `from`, seen over some points in direction of `to`.
  [[nodiscard]] Point directionFrom(std::size_t from, std::size_t to) const {
    const std::size_t reach = std::min<std::size_t>(4, from < to ? to - from : from - to);
    Point sum;
    for (std::size_t i = 1; i <= reach; ++i)
      sum = sum + (path_[from < to ? from + i : from - i].at - path_[from].at) * (1.0 / static_cast<double>(i));
    return normalised(sum);
  }

 private:
  [[nodiscard]] Point directionAt(std::size_t i, std::size_t first, std::size_t last) const {
    const std::size_t before = i - std::min<std::size_t>(3, i - first), after = i + std::min<std::size_t>(3, last - i);
    return normalised(path_[after].at - path_[before].at);
  }

  [[nodiscard]] std::vector<double> byChordLength(std::size_t first, std::size_t last) const {
    std::vector<double> u{0};
    for (std::size_t i = first + 1; i <= last; ++i)
      u.push_back(u.back() + distanceBetween(path_[i - 1].at, path_[i].at));
    const double whole = std::max(u.back(), 1e-9);
    for (double& value : u) value /= whole;
    return u;
  }

  [[nodiscard]] Cubic leastSquares(std::size_t first, std::size_t last, const std::vector<double>& u, Point leaving,
                                   Point arriving) const {
    const Point p0 = path_[first].at, p3 = path_[last].at, back = arriving * -1;
    double c00 = 0, c01 = 0, c11 = 0, x0 = 0, x1 = 0;
    for (std::size_t i = first; i <= last; ++i) {
      const double t = u[i - first], s = 1 - t;
      const double b0 = s * s * s, b1 = 3 * s * s * t, b2 = 3 * s * t * t, b3 = t * t * t;
      const Point a0 = leaving * b1, a1 = back * b2;
      const Point rest = path_[i].at - p0 * (b0 + b1) - p3 * (b2 + b3);
      c00 += dot(a0, a0);
      c01 += dot(a0, a1);
      c11 += dot(a1, a1);
      x0 += dot(a0, rest);
      x1 += dot(a1, rest);
    }
    const double determinant = c00 * c11 - c01 * c01, chord = distanceBetween(p0, p3);
    double alpha = 0, beta = 0;
    if (std::abs(determinant) > 1e-12) {
      alpha = (x0 * c11 - x1 * c01) / determinant;
      beta = (c00 * x1 - c01 * x0) / determinant;
    }
    // Handles that point the wrong way or reach too far make loops: the Wu-Barsky rule takes their place.
    const double least = 1e-3 * chord, most = 3 * std::max(chord, 1.0);
    if (alpha < least || beta < least || alpha > most || beta > most) alpha = beta = chord / 3;
    return {{p0, p0 + leaving * alpha, p3 + back * beta, p3}};
  }

  [[nodiscard]] std::pair<double, std::size_t> errorOf(const Cubic& cubic, std::size_t first, std::size_t last,
                                                       const std::vector<double>& u) const {
    double worst = 0;
    std::size_t where = (first + last) / 2;
    for (std::size_t i = first + 1; i < last; ++i) {
      const double d = distanceBetween(cubic.at(u[i - first]), path_[i].at);
      if (d > worst) {
        worst = d;
        where = i;
      }
    }
    return {worst, where};
  }

  /// No place of the curve farther than the tolerance from the path's polygon. Runs along both at once.
  [[nodiscard]] bool staysNear(const Cubic& cubic, std::size_t first, std::size_t last) const {
    const std::size_t samples = 2 * (last - first) + 4;
    std::size_t i = first;
    for (std::size_t k = 1; k < samples; ++k) {
      const Point p = cubic.at(static_cast<double>(k) / static_cast<double>(samples));
      double best = distanceToSegment(p, path_[i].at, path_[i + 1].at);
      for (std::size_t j = i + 1; j < std::min(i + 12, last); ++j) {
        const double d = distanceToSegment(p, path_[j].at, path_[j + 1].at);
        if (d < best) {
          best = d;
          i = j;
        }
      }
      if (best > tolerance_) return false;
    }
    return true;
  }

  void reparametrise(const Cubic& cubic, std::size_t first, std::size_t last, std::vector<double>& u) const {
    for (std::size_t i = first; i <= last; ++i) {
      double& t = u[i - first];
      const Point off = cubic.at(t) - path_[i].at, d1 = cubic.slope(t), d2 = cubic.bend(t);
      const double below = dot(d1, d1) + dot(off, d2);
      if (std::abs(below) > 1e-12) t = std::clamp(t - dot(off, d1) / below, 0.0, 1.0);
    }
  }

  void emit(const Cubic& cubic, std::size_t last) {
    out_.points.insert(out_.points.end(), {cubic.p[1], cubic.p[2], cubic.p[3]});
    out_.widths.push_back(path_[last].width);
  }
  void emitLine(std::size_t first, std::size_t last) {
    const Point a = path_[first].at, b = path_[last].at;
    emit({{a, a + (b - a) * (1.0 / 3), b - (b - a) * (1.0 / 3), b}}, last);
  }

  std::span<const StrokePlace> path_;
  double tolerance_;
  Stroke& out_;
};

/// Where the path turns sharply: the places among its points, ends not counted.
std::vector<std::size_t> cornersOf(std::span<const StrokePlace> path) {
  constexpr std::size_t reach = 5;
  constexpr double sharp = 0.5;  // cosine of 60 degrees
  std::vector<std::size_t> corners;
  std::vector<double> cosine(path.size(), 1.0);
  for (std::size_t i = reach; i + reach < path.size(); ++i)
    cosine[i] = dot(normalised(path[i].at - path[i - reach].at), normalised(path[i + reach].at - path[i].at));
  for (std::size_t i = reach; i + reach < path.size(); ++i) {
    if (cosine[i] >= sharp) continue;
    const auto from = cosine.begin() + static_cast<std::ptrdiff_t>(i - reach);
    const auto until = cosine.begin() + static_cast<std::ptrdiff_t>(i + reach + 1);
    if (std::min_element(from, until) == cosine.begin() + static_cast<std::ptrdiff_t>(i)) corners.push_back(i);
  }
  return corners;
}

}  // namespace

Stroke fittedStroke(std::span<const StrokePlace> given, double tolerance, bool closed) {
  Path path;
  for (const StrokePlace& place : given)
    if (path.empty() || distanceBetween(path.back().at, place.at) > 1e-6) path.push_back(place);
  if (closed && path.size() > 2 && distanceBetween(path.front().at, path.back().at) > 1e-6)
    path.push_back(path.front());
  Stroke out;
  if (path.empty()) return out;
  out.closed = closed && path.size() > 3;
  out.points.push_back(path.front().at);
  out.widths.push_back(path.front().width);
  if (path.size() == 1) return out;
  Fitter fitter(path, std::max(0.3, tolerance), out);
  std::vector<std::size_t> stops = cornersOf(path);
  stops.insert(stops.begin(), 0);
  stops.push_back(path.size() - 1);
  // A loop without a corner where it closes goes on smoothly there.
  Point seam;
  if (out.closed && path.size() > 8) {
    const Point forward = fitter.directionFrom(0, path.size() - 1), backward = fitter.directionFrom(path.size() - 1, 0);
    if (dot(forward, backward) < -0.5) seam = normalised(forward - backward);
  }
  for (std::size_t s = 0; s + 1 < stops.size(); ++s) {
    const std::size_t first = stops[s], last = stops[s + 1];
    Point leaving = fitter.directionFrom(first, last), arriving = fitter.directionFrom(last, first) * -1;
    if (s == 0 && lengthOf(seam) > 0) leaving = seam;
    if (s + 2 == stops.size() && lengthOf(seam) > 0) arriving = seam;
    fitter.fit(first, last, leaving, arriving);
  }
  return out;
}

Path simplified(std::span<const StrokePlace> path, double tolerance) {
  if (path.size() < 3) return {path.begin(), path.end()};
  std::vector<bool> keep(path.size(), false);
  keep.front() = keep.back() = true;
  std::vector<std::pair<std::size_t, std::size_t>> open{{0, path.size() - 1}};
  while (!open.empty()) {
    const auto [first, last] = open.back();
    open.pop_back();
    double worst = tolerance;
    std::size_t where = 0;
    for (std::size_t i = first + 1; i < last; ++i)
      if (const double d = distanceToSegment(path[i].at, path[first].at, path[last].at); d > worst) {
        worst = d;
        where = i;
      }
    if (where == 0) continue;
    keep[where] = true;
    open.emplace_back(first, where);
    open.emplace_back(where, last);
  }
  Path out;
  for (std::size_t i = 0; i < path.size(); ++i)
    if (keep[i]) out.push_back(path[i]);
  return out;
}

Path smoothed(std::span<const StrokePlace> path, int reach, bool closed) {
  Path out(path.begin(), path.end());
  const auto count = std::ssize(path);
  for (std::ptrdiff_t i = 0; i < count; ++i) {
    // Ends are held by shrinking the window towards them.
    const std::ptrdiff_t r =
        closed ? std::min<std::ptrdiff_t>(reach, (count - 1) / 2) : std::min<std::ptrdiff_t>({reach, i, count - 1 - i});
    Point at;
    double width = 0;
    for (std::ptrdiff_t k = -r; k <= r; ++k) {
      const auto& place = path[static_cast<std::size_t>((i + k + count) % count)];
      at = at + place.at;
      width += place.width;
    }
    const double share = 1.0 / static_cast<double>(2 * r + 1);
    out[static_cast<std::size_t>(i)] = {at * share, width * share};
  }
  return out;
}

}  // namespace hscaffold
