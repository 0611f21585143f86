#include "core/finish/touch_region.h"

#include <fmt/format.h>

#include <array>
#include <cmath>

#include "core/guides/json_fields.h"
#include "core/image/colour.h"
#include "core/image/filter.h"
#include "core/image/flood.h"
#include "core/image/parallel.h"
#include "core/image/resample.h"
#include "core/strokes/curve_fit.h"

namespace hscaffold {
namespace {

/// Sigma of the softening that reaches so far and no further: kernels end at three of them.
float sigmaOf(double feather) { return static_cast<float>(std::max(0.0, feather)) / 3; }

/// How far it softens, in whole pixels.
int reachOf(double feather) { return feather > 0 ? static_cast<int>(std::ceil(3 * sigmaOf(feather))) : 0; }

struct Scaled {
  double across, down;
  Point operator()(Point p) const { return {p.x * across, p.y * down}; }
};

/// Between two values, `value` at full cover.
void put(float& at, float cover, bool takes) { at = takes ? std::max(0.0f, at - cover) : std::max(at, cover); }

void brushOver(Image<float>& mask, const TouchShape& shape, Size whole, const Box& part) {
  const Scaled scaled{static_cast<double>(whole.width), static_cast<double>(whole.height)};
  const double radius = std::max(0.5, 0.5 * shape.width * std::max(whole.width, whole.height));
  for (const auto& line : shape.lines)
    for (std::size_t i = 0; i < std::max<std::size_t>(1, line.size() > 0 ? line.size() - 1 : 0) && !line.empty(); ++i) {
      const Point a = scaled(line[i]), b = scaled(line[std::min(i + 1, line.size() - 1)]);
      const auto low = [&](double u, double v, int origin) {
        return std::max(0, static_cast<int>(std::floor(std::min(u, v) - radius - 1)) - origin);
      };
      const auto high = [&](double u, double v, int origin, int most) {
        return std::min(most, static_cast<int>(std::ceil(std::max(u, v) + radius + 1)) - origin);
      };
      const int x0 = low(a.x, b.x, part.left), x1 = high(a.x, b.x, part.left, mask.width());
      for (int y = low(a.y, b.y, part.top); y < high(a.y, b.y, part.top, mask.height()); ++y)
        for (int x = x0; x < x1; ++x) {
          const Point at{part.left + x + 0.5, part.top + y + 0.5};
          const double cover = std::clamp(radius - distanceToSegment(at, a, b) + 0.5, 0.0, 1.0);
          if (cover > 0) put(mask(x, y), static_cast<float>(cover), shape.takes);
        }
    }
}

/// Filled line by line, four to a pixel's height.
void fill(Image<float>& mask, const TouchShape& shape, Size whole, const Box& part) {
  constexpr int fine = 4;
  const Scaled scaled{static_cast<double>(whole.width), static_cast<double>(whole.height)};
  struct Edge {
    Point a, b;
  };
  std::vector<Edge> edges;
  for (const auto& line : shape.lines)
    for (std::size_t i = 0; i < line.size() && line.size() > 2; ++i)
      edges.push_back({scaled(line[i]), scaled(line[(i + 1) % line.size()])});
  parallelRows(mask.height(), [&](int first, int end) {
    std::vector<float> cover(static_cast<std::size_t>(mask.width()));
    std::vector<double> crossings;
    for (int y = first; y < end; ++y) {
      std::fill(cover.begin(), cover.end(), 0.0f);
      for (int s = 0; s < fine; ++s) {
        const double at = part.top + y + (s + 0.5) / fine;
        crossings.clear();
        for (const Edge& edge : edges)
          if ((edge.a.y <= at) != (edge.b.y <= at))
            crossings.push_back(edge.a.x + (at - edge.a.y) / (edge.b.y - edge.a.y) * (edge.b.x - edge.a.x));
        std::sort(crossings.begin(), crossings.end());
        for (std::size_t i = 0; i + 1 < crossings.size(); i += 2) {
          const double from = std::max(0.0, crossings[i] - part.left),
                       to = std::min(static_cast<double>(mask.width()), crossings[i + 1] - part.left);
          for (int x = static_cast<int>(from); x < to; ++x)
            cover[static_cast<std::size_t>(x)] +=
                static_cast<float>(
                    std::clamp(std::min(to, x + 1.0) - std::max(from, static_cast<double>(x)), 0.0, 1.0)) /
                fine;
        }
      }
      for (int x = 0; x < mask.width(); ++x)
        if (cover[static_cast<std::size_t>(x)] > 0)
          put(mask(x, y), std::min(1.0f, cover[static_cast<std::size_t>(x)]), shape.takes);
    }
  });
}

/// Whether its lines could reach into a part.
Box boundsOf(const TouchShape& shape, Size whole) {
  const double radius = shape.brush ? std::max(0.5, 0.5 * shape.width * std::max(whole.width, whole.height)) + 1 : 0;
  double left = 1e9, top = 1e9, right = -1e9, bottom = -1e9;
  for (const auto& line : shape.lines)
    for (const Point p : line) {
      left = std::min(left, p.x * whole.width);
      right = std::max(right, p.x * whole.width);
      top = std::min(top, p.y * whole.height);
      bottom = std::max(bottom, p.y * whole.height);
    }
  if (left > right) return {};
  const auto whole32 = [](double value) { return static_cast<int>(std::clamp(value, -1e8, 1e8)); };
  return {whole32(std::floor(left - radius)), whole32(std::floor(top - radius)), whole32(std::ceil(right + radius)),
          whole32(std::ceil(bottom + radius))};
}

/// All that is covered within a box, seen in a picture of this size: as large, or larger by what one of its pixels is.
Box coveredOf(const TouchRegion& region, Size whole, const Box& within, Size seen) {
  const auto mask = maskOf(region, seen, boxOf(seen));
  Box covered;
  for (int y = 0; y < mask.height(); ++y)
    for (int x = 0; x < mask.width(); ++x)
      if (mask(x, y) > 0) covered = joined(covered, {x, y, x + 1, y + 1});
  if (covered.empty()) return {};
  const auto low = [](int at, int from, int to) {
    return static_cast<int>(std::floor(static_cast<double>(at) * to / from));
  };
  const auto high = [](int at, int from, int to) {
    return static_cast<int>(std::ceil(static_cast<double>(at) * to / from));
  };
  const Box large{low(covered.left, seen.width, whole.width), low(covered.top, seen.height, whole.height),
                  high(covered.right, seen.width, whole.width), high(covered.bottom, seen.height, whole.height)};
  return {std::max(large.left, within.left), std::max(large.top, within.top), std::min(large.right, within.right),
          std::min(large.bottom, within.bottom)};
}

}  // namespace

void keepWithinLimits(TouchRegion& region) {
  if (region.size() > mostShapes) region.resize(mostShapes);
  const auto keep = [](double& value) {
    keepWithin(value, limits::centre);
    value = std::round(value * 1e6) / 1e6;
  };
  for (TouchShape& shape : region) {
    keepWithin(shape.width, limits::share);
    if (!shape.brush) shape.width = 0;
    std::size_t places = 0;
    for (auto& line : shape.lines) {
      line.resize(std::min(line.size(), mostShapePlaces - std::min(places, mostShapePlaces)));
      places += line.size();
      for (Point& p : line) {
        keep(p.x);
        keep(p.y);
      }
    }
    std::erase_if(shape.lines, [](const auto& line) { return line.empty(); });
  }
}

Image<float> maskOf(const TouchRegion& region, Size whole, const Box& part, double feather) {
  const int reach = reachOf(feather);
  // What lies near by is softened into it. Outside of the picture there is nothing to soften.
  const Box round = cut(grown(part, reach), whole);
  Image<float> mask(round.size());
  for (const TouchShape& shape : region) {
    if (shape.brush)
      brushOver(mask, shape, whole, round);
    else
      fill(mask, shape, whole, round);
  }
  if (reach > 0) mask = gaussianBlur(mask.view(), sigmaOf(feather));
  return copied(partOf(std::as_const(mask).view(), {part.left - round.left, part.top - round.top,
                                                    part.right - round.left, part.bottom - round.top}));
}

Box boundsOf(const TouchRegion& region, Size whole, double feather) {
  Box all;
  bool takes = false;
  for (const TouchShape& shape : region) {
    if (!shape.takes) all = joined(all, boundsOf(shape, whole));
    takes = takes || shape.takes;
  }
  all = cut(all, whole);
  if (all.empty()) return {};
  // What was taken away again counts for nothing; in large pictures that is looked at in a small one.
  constexpr double longest = 512;
  if (takes) all = coveredOf(region, whole, all, within(whole, longest));
  return all.empty() ? Box{} : cut(grown(all, reachOf(feather)), whole);
}

TouchShape shapeFrom(View<std::uint8_t> mask) {
  // Each border runs along the edges of pixels with what is set to its right.
  const int width = mask.width(), height = mask.height();
  const auto set = [&](int x, int y) { return x >= 0 && y >= 0 && x < width && y < height && mask(x, y) != 0; };
  struct Step {
    int x, y;
  };
  constexpr std::array<Step, 4> ways = {{{1, 0}, {0, 1}, {-1, 0}, {0, -1}}};
  // Whether the border at a corner goes this way: set on its right, not on its left.
  const auto goes = [&](int x, int y, std::size_t way) {
    switch (way) {
      case 0:
        return set(x, y) && !set(x, y - 1);
      case 1:
        return set(x - 1, y) && !set(x, y);
      case 2:
        return set(x - 1, y - 1) && !set(x - 1, y);
      default:
        return set(x, y - 1) && !set(x - 1, y - 1);
    }
  };
  Image<std::uint8_t> done(width + 1, height + 1);
  TouchShape shape;
  for (int y = 0; y < height; ++y)
    for (int x = 0; x < width; ++x) {
      if (!goes(x, y, 0) || done(x, y) != 0) continue;
      Path path;
      int px = x, py = y;
      std::size_t way = 0;
      do {
        if (way == 0) done(px, py) = 1;
        path.push_back({{static_cast<double>(px), static_cast<double>(py)}, 1});
        px += ways[way].x;
        py += ways[way].y;
        // Left first keeps what touches at a corner apart.
        for (const std::size_t turn : {3U, 0U, 1U})
          if (const std::size_t next = (way + turn) % 4; goes(px, py, next)) {
            way = next;
            break;
          }
      } while (px != x || py != y || way != 0);
      path.push_back(path.front());
      const Path line = simplified(path, 0.75);
      std::vector<Point> ring;
      for (std::size_t i = 0; i + 1 < line.size(); ++i) ring.push_back({line[i].at.x / width, line[i].at.y / height});
      if (ring.size() > 2) shape.lines.push_back(std::move(ring));
    }
  return shape;
}

Image<std::uint8_t> ofOneColour(View<Rgb8> picture, int x, int y, double tolerance) {
  if (x < 0 || y < 0 || x >= picture.width() || y >= picture.height()) return Image<std::uint8_t>(picture.size());
  const auto linear = toLinear(picture);
  const OkLab wanted = linearToOkLab(linear(x, y));
  return reachedFrom(picture.size(), x, y, [&](int, int, int nx, int ny) {
    const OkLab c = linearToOkLab(linear(nx, ny));
    const float l = c.l - wanted.l, a = c.a - wanted.a, b = c.b - wanted.b;
    return static_cast<double>(l * l + a * a + b * b) <= tolerance * tolerance;
  });
}

nlohmann::json regionToJson(const TouchRegion& region) {
  auto json = nlohmann::json::array();
  for (const TouchShape& shape : region) {
    auto lines = nlohmann::json::array();
    for (const auto& line : shape.lines) {
      auto places = nlohmann::json::array();
      for (const Point p : line) {
        places.push_back(p.x);
        places.push_back(p.y);
      }
      lines.push_back(std::move(places));
    }
    nlohmann::json entry{{"lines", std::move(lines)}};
    if (shape.brush) entry["brush"] = shape.width;
    if (shape.takes) entry["takes"] = true;
    json.push_back(std::move(entry));
  }
  return json;
}

TouchRegion regionFromJson(const nlohmann::json& json, const std::string& where, Mended* mended) {
  if (!json.is_array() || json.size() > mostShapes) throw badInput(where + ": is not a list of shapes.");
  TouchRegion region;
  std::size_t number = 0;
  for (const auto& one : json)
    readOrLeaveOut(mended, [&, at = fmt::format("{}, shape {}", where, ++number)] {
      JsonFields fields(one, at, mended);
      TouchShape shape;
      shape.brush = fields.has("brush");
      if (shape.brush) shape.width = fields.number("brush", limits::share);
      shape.takes = fields.flag("takes", false);
      std::size_t places = 0;
      for (const auto& line : fields.list("lines")) {
        const auto numbers = numbersFromJson(line, at);
        if ((places += numbers.size()) > 2 * mostShapePlaces || numbers.size() % 2 != 0)
          throw badInput(at + ": has too many places, or one without a partner.");
        std::vector<Point> points;
        for (std::size_t i = 0; i + 1 < numbers.size(); i += 2) {
          Point p{numbers[i], numbers[i + 1]};
          keepWithin(p.x, limits::centre);
          keepWithin(p.y, limits::centre);
          points.push_back(p);
        }
        if (!points.empty()) shape.lines.push_back(std::move(points));
      }
      fields.refuseOthers();
      region.push_back(std::move(shape));
    });
  return region;
}

}  // namespace hscaffold
