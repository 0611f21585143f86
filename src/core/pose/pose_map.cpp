#include "core/pose/pose_map.h"

#include <algorithm>
#include <cmath>

#include "core/image/parallel.h"

namespace hscaffold::pose {
namespace {

constexpr double thinnest = 0.6;  ///< half width in pixels: thinner lines would break up

Rgb8 blendOf(Rgb8 a, Rgb8 b, double t) {
  const auto mix = [t](std::uint8_t x, std::uint8_t y) {
    return static_cast<std::uint8_t>(std::lround(x + t * (y - x)));
  };
  return {mix(a.r, b.r), mix(a.g, b.g), mix(a.b, b.b)};
}

struct Mean {
  Point at;
  bool there = false, hidden = false;
};
Mean meanOf(const Figure& figure, const std::vector<std::size_t>& points) {
  Mean out;
  double count = 0;
  for (const std::size_t i : points) {
    const KeyPoint& p = figure.points[i];
    if (!p.there()) continue;
    out.at = out.at + p.at;
    out.there = true;
    out.hidden |= p.presence == Presence::hidden;
    ++count;
  }
  if (count > 0) out.at = out.at * (1 / count);
  // The middle of two points is seen where one of them is.
  if (points.size() > 1)
    out.hidden = std::all_of(points.begin(), points.end(),
                             [&](std::size_t i) { return figure.points[i].presence != Presence::seen; });
  return out;
}

Box boxOf(const Mark& mark) {
  const double reach = std::max({mark.radius, mark.radiusTo, 1.0}) + mark.width + 2;
  return {static_cast<int>(std::floor(std::min(mark.a.x, mark.b.x) - reach)),
          static_cast<int>(std::floor(std::min(mark.a.y, mark.b.y) - reach)),
          static_cast<int>(std::ceil(std::max(mark.a.x, mark.b.x) + reach)),
          static_cast<int>(std::ceil(std::max(mark.a.y, mark.b.y) + reach))};
}

struct Ink {
  double cover = 0;
  Rgb8 colour;
};

double coverOf(double distance) { return std::clamp(0.5 - distance, 0.0, 1.0); }

Ink strokeAt(const Mark& m, Point p) {
  const Point way = m.b - m.a, off = p - m.a;
  const double square = dot(way, way);
  const double t = square > 0 ? std::clamp(dot(off, way) / square, 0.0, 1.0) : 0;
  double cover = coverOf(lengthOf(off - way * t) - (m.radius + t * (m.radiusTo - m.radius)));
  if (cover > 0 && m.dash > 0) {
    const double along = std::fmod(t * std::sqrt(square), m.dash + m.gap);
    cover *= coverOf(std::max(-along, along - m.dash));
  }
  return {cover, cover > 0 ? blendOf(m.colour, m.colourTo, t) : m.colour};
}

Ink ringAt(const Mark& m, Point p) {
  const double distance = lengthOf(p - m.a);
  const double disc = coverOf(distance - m.radius - 0.5 * m.width),
               line = coverOf(std::abs(distance - m.radius) - m.width / 2);
  if (disc <= 0) return {};
  // Dark inside and beside the line.
  const auto dim = [&](std::uint8_t v) { return static_cast<std::uint8_t>(std::lround(v * line)); };
  return {disc, {dim(m.colour.r), dim(m.colour.g), dim(m.colour.b)}};
}

Ink eggAt(const Mark& m, Point p) {
  const Point off = p - m.a;
  const double along = dot(off, m.direction), across = off.x * m.direction.y - off.y * m.direction.x;
  // Narrower towards the chin, which lies against the direction.
  const double side = m.radius * (1 + 0.16 * std::clamp(along / m.radiusTo, -1.0, 1.0));
  const double u = across / side, v = along / m.radiusTo, r = std::hypot(u, v);
  if (r < 1e-6) return {};
  // Distance to first order: how far off by the gradient there.
  const double slope = std::hypot(u / (r * side), v / (r * m.radiusTo));
  const double distance = (r - 1) / slope;
  double cover = coverOf(std::abs(distance) - m.width / 2);
  if (cover > 0 && m.dash > 0) {
    const double around = std::fmod((std::atan2(v, u) + 7) * 0.5 * (m.radius + m.radiusTo), m.dash + m.gap);
    cover *= coverOf(std::max(-around, around - m.dash));
  }
  return {cover, m.colour};
}

Ink wedgeAt(const Mark& m, Point p) {
  const Point way = m.b - m.a;
  const double length = lengthOf(way);
  if (length < 1e-6) return {};
  const Point along = way * (1 / length), off = p - m.a;
  const double x = dot(off, along), y = std::abs(off.x * along.y - off.y * along.x);
  // Two edges: the base, and the slanted side mirrored about the axis.
  const double slant = std::hypot(length, m.radius);
  return {coverOf(std::max(-x, (x * m.radius + y * length - m.radius * length) / slant)), m.colour};
}

Ink inkAt(const Mark& mark, Point p) {
  switch (mark.shape) {
    case Mark::Shape::stroke:
      return strokeAt(mark, p);
    case Mark::Shape::ring:
      return ringAt(mark, p);
    case Mark::Shape::egg:
      return eggAt(mark, p);
    case Mark::Shape::wedge:
      return wedgeAt(mark, p);
  }
  return {};
}

void drawMark(MutableView<Rgb8> picture, const Box& part, const Mark& mark) {
  const Box box = boxOf(mark);
  const int left = std::max(part.left, box.left), right = std::min(part.right, box.right),
            top = std::max(part.top, box.top), bottom = std::min(part.bottom, box.bottom);
  for (int y = top; y < bottom; ++y) {
    Rgb8* row = picture.row(y);
    for (int x = left; x < right; ++x) {
      const Ink ink = inkAt(mark, {x + 0.5, y + 0.5});
      if (ink.cover > 0) row[x] = blendOf(row[x], ink.colour, ink.cover);
    }
  }
}

}  // namespace

FigureMarks marksOf(const Figure& figure, const Inks& inks, double thickness) {
  FigureMarks out;
  const auto found = inks.skeletons.find(figure.skeleton);
  if (found == inks.skeletons.end() || !figure.on) return out;
  const double size = sizeOf(figure), broad = size * thickness;
  const auto half = [&](double share) { return std::max(thinnest, share * broad / 2); };
  std::vector<Mark> seen;
  for (const InkStroke& stroke : found->second.strokes) {
    const Mean from = meanOf(figure, stroke.from), to = meanOf(figure, stroke.to);
    if (!from.there || !to.there) continue;
    Mark mark;
    mark.a = from.at;
    mark.b = to.at;
    mark.radius = half(stroke.widthFrom);
    mark.radiusTo = half(stroke.widthTo);
    mark.colour = stroke.colourFrom;
    mark.colourTo = stroke.colourTo;
    // A limb that comes out from behind something is seen.
    const bool hidden = to.hidden;
    if (hidden) {
      mark.dash = std::max(2.5, inks.dash * size);
      mark.gap = std::max(2.0, inks.gap * size + mark.radius);
    }
    // What is hidden lies behind.
    (hidden ? out.marks : seen).push_back(mark);
  }
  out.marks.insert(out.marks.end(), seen.begin(), seen.end());
  for (const InkHead& head : found->second.heads) {
    const Mean about = meanOf(figure, head.about);
    if (!about.there) continue;
    const KeyPoint &above = figure.points[head.above], &towards = figure.points[head.towards];
    Mark mark;
    mark.shape = Mark::Shape::egg;
    mark.a = mark.b = about.at;
    mark.direction = above.there() ? normalised(about.at - above.at) : Point{0, -1};
    if (mark.direction == Point{0, 0}) mark.direction = {0, -1};
    mark.radius = std::max(2.0, head.across * size);
    mark.radiusTo = std::max(2.0, head.along * size);
    mark.width = 2 * half(head.width);
    mark.colour = head.colour;
    out.marks.push_back(mark);
    if (towards.presence != Presence::seen || head.above == head.towards) continue;
    // Longer the more it faces aside; short when it faces the camera.
    mark.shape = Mark::Shape::wedge;
    mark.b = about.at + (towards.at - about.at) * 1.45;
    if (lengthOf(mark.b - mark.a) < 0.35 * mark.radius) mark.b = mark.a + mark.direction * (-0.35 * mark.radius);
    mark.radius *= 0.42;
    out.marks.push_back(mark);
  }
  for (const InkRing& ring : found->second.rings) {
    const KeyPoint& p = figure.points[ring.point];
    if (p.presence != Presence::seen) continue;
    Mark mark;
    mark.shape = Mark::Shape::ring;
    mark.a = mark.b = p.at;
    mark.radius = std::max(1.6, ring.radius * broad);
    mark.width = std::max(1.2, ring.width * broad);
    mark.colour = ring.colour;
    // Too small to be open, a ring would only be a blot.
    if (ring.radius * broad >= 1.2) out.marks.push_back(mark);
  }
  for (const Mark& mark : out.marks) out.bounds = out.bounds.empty() ? boxOf(mark) : joined(out.bounds, boxOf(mark));
  return out;
}

void drawInto(MutableView<Rgb8> picture, const Box& part, std::span<const FigureMarks> figures) {
  const Box inside = cut(part, {picture.width(), picture.height()});
  for (const FigureMarks& figure : figures) {
    const Box both{std::max(inside.left, figure.bounds.left), std::max(inside.top, figure.bounds.top),
                   std::min(inside.right, figure.bounds.right), std::min(inside.bottom, figure.bounds.bottom)};
    if (both.empty()) continue;
    for (const Mark& mark : figure.marks) drawMark(picture, both, mark);
  }
}

Image<Rgb8> drawnFigures(const Figures& figures, Size size, const Inks& inks, double thickness, StopToken stop) {
  std::vector<FigureMarks> marks;
  for (const auto& figure : figures.figures) marks.push_back(marksOf(*figure, inks, thickness));
  Image<Rgb8> out(size);
  parallelRows(size.height, [&](int first, int end) {
    for (int y = first; y < end; ++y) std::fill_n(out.row(y), size.width, inks.background);
    if (!stop.stop_requested()) drawInto(out.view(), {0, first, size.width, end}, marks);
  });
  throwIfStopped(stop);
  return out;
}

const TuningFields& poseTuningFields() {
  static const TuningFields fields = {{"thickness",
                                       "Thickness",
                                       "%",
                                       30,
                                       300,
                                       100,
                                       5,
                                       0,
                                       {},
                                       "How thick limbs are drawn; they get thinner with distance by themselves.",
                                       {}}};
  return fields;
}

double thicknessIn(const Tuning& tuning) { return valueOf(poseTuningFields(), tuning, "thickness") / 100; }

}  // namespace hscaffold::pose
