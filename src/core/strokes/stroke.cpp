#include "core/strokes/stroke.h"

#include <algorithm>

#include "core/image/parallel.h"

namespace hscaffold {
namespace {

constexpr int stripRows = 32;

/// One straight piece with its radii, and half a pixel of soft border.
struct Piece {
  float ax, ay, bx, by, ra, rb;
};

void paint(const Piece& p, int y0, int y1, Image<std::uint16_t>& map) {
  const float reach = std::max(p.ra, p.rb) + 1;
  const int left = std::max(0, static_cast<int>(std::floor(std::min(p.ax, p.bx) - reach)));
  const int right = std::min(map.width() - 1, static_cast<int>(std::ceil(std::max(p.ax, p.bx) + reach)));
  const int top = std::max(y0, static_cast<int>(std::floor(std::min(p.ay, p.by) - reach)));
  const int bottom = std::min(y1 - 1, static_cast<int>(std::ceil(std::max(p.ay, p.by) + reach)));
  const float dx = p.bx - p.ax, dy = p.by - p.ay, squared = dx * dx + dy * dy;
  for (int y = top; y <= bottom; ++y) {
    for (int x = left; x <= right; ++x) {
      const float px = static_cast<float>(x) + 0.5f - p.ax, py = static_cast<float>(y) + 0.5f - p.ay;
      const float t = squared > 0 ? std::clamp((px * dx + py * dy) / squared, 0.0f, 1.0f) : 0.0f;
      const float ex = px - t * dx, ey = py - t * dy;
      const float radius = p.ra + t * (p.rb - p.ra);
      // A line thinner than a pixel is a fainter one.
      const float most = std::min(1.0f, 2 * radius);
      const float cover = std::clamp(std::max(radius, 0.5f) + 0.5f - std::sqrt(ex * ex + ey * ey), 0.0f, 1.0f) * most;
      const auto value = static_cast<std::uint16_t>(cover * 65535.0f + 0.5f);
      map(x, y) = std::max(map(x, y), value);
    }
  }
}

void flatten(Point a, Point b, Point c, Point d, double wa, double wd, double flatness, std::vector<StrokePlace>& out) {
  // Pieces from the second differences (Wang's formula): the polygon stays within `flatness`.
  const double bend = std::max(lengthOf(a - b * 2 + c), lengthOf(b - c * 2 + d));
  const int pieces = std::clamp(static_cast<int>(std::ceil(std::sqrt(0.75 * bend / flatness))), 1, 400);
  for (int i = 1; i <= pieces; ++i) {
    const double t = static_cast<double>(i) / pieces, s = 1 - t;
    out.push_back({a * (s * s * s) + b * (3 * s * s * t) + c * (3 * s * t * t) + d * (t * t * t), wa + (wd - wa) * t});
  }
}

}  // namespace

std::vector<StrokePlace> flattened(const Stroke& stroke, double flatness) {
  std::vector<StrokePlace> out;
  if (stroke.points.empty()) return out;
  out.push_back({stroke.points.front(), stroke.widths.front()});
  for (std::size_t i = 0; i < stroke.curves(); ++i) {
    const Point* p = &stroke.points[3 * i];
    flatten(p[0], p[1], p[2], p[3], stroke.widths[i], stroke.widths[i + 1], flatness, out);
  }
  return out;
}

double lengthOf(const Stroke& stroke) {
  const auto places = flattened(stroke, 0.05);
  double sum = 0;
  for (std::size_t i = 1; i < places.size(); ++i) sum += distanceBetween(places[i - 1].at, places[i].at);
  return sum;
}

double meanWidth(const Stroke& stroke) {
  double sum = 0;
  for (const double width : stroke.widths) sum += width;
  return stroke.widths.empty() ? 0 : sum / static_cast<double>(stroke.widths.size());
}

double distanceTo(const Stroke& stroke, Point p) {
  const auto places = flattened(stroke, 0.1);
  double least = places.empty() ? 1e9 : distanceBetween(p, places.front().at);
  for (std::size_t i = 1; i < places.size(); ++i)
    least = std::min(least, distanceToSegment(p, places[i - 1].at, places[i].at));
  return least;
}

Image<std::uint16_t> drawnStrokes(const std::vector<std::shared_ptr<const Stroke>>& strokes, Size size,
                                  StopToken stop) {
  Image<std::uint16_t> map(size);
  const int strips = (size.height + stripRows - 1) / stripRows;
  std::vector<std::vector<Piece>> byStrip(static_cast<std::size_t>(strips));
  const auto add = [&](const StrokePlace& a, const StrokePlace& b) {
    const Piece piece{static_cast<float>(a.at.x), static_cast<float>(a.at.y),      static_cast<float>(b.at.x),
                      static_cast<float>(b.at.y), static_cast<float>(a.width / 2), static_cast<float>(b.width / 2)};
    const double reach = std::max(a.width, b.width) / 2 + 1.5;
    const double top = std::min(a.at.y, b.at.y) - reach, bottom = std::max(a.at.y, b.at.y) + reach;
    if (!(bottom >= 0) || !(top < size.height)) return;
    const int first = std::clamp(static_cast<int>(std::floor(top / stripRows)), 0, strips - 1);
    const int last = std::clamp(static_cast<int>(std::floor(bottom / stripRows)), 0, strips - 1);
    for (int s = first; s <= last; ++s) byStrip[static_cast<std::size_t>(s)].push_back(piece);
  };
  for (const auto& stroke : strokes) {
    const auto places = flattened(*stroke);
    if (places.size() == 1) add(places[0], places[0]);
    for (std::size_t i = 1; i < places.size(); ++i) add(places[i - 1], places[i]);
  }
  throwIfStopped(stop);
  parallelRows(
      strips,
      [&](int first, int end) {
        for (int s = first; s < end; ++s)
          for (const Piece& piece : byStrip[static_cast<std::size_t>(s)])
            paint(piece, s * stripRows, std::min(size.height, (s + 1) * stripRows), map);
      },
      1);
  throwIfStopped(stop);
  return map;
}

}  // namespace hscaffold
