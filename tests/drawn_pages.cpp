#include "drawn_pages.h"

#include <cmath>
#include <functional>

#include "core/image/distance.h"
#include "core/image/filter.h"

namespace fixtures {
namespace {

using Strokes = std::vector<std::shared_ptr<const Stroke>>;

/// What is on the sheet besides the drawing: light of bare paper at (x, y).
using Ground = std::function<Rgb(int x, int y)>;

Image<Rgb> drawnOn(Size size, const Strokes& strokes, float darkness, const Ground& ground, float blur, float grain,
                   unsigned seed, bool light = false) {
  const auto ink = drawnStrokes(strokes, size);
  Image<Rgb> page(size);
  std::mt19937 random(seed);
  std::normal_distribution<float> noise(0, grain);
  for (int y = 0; y < size.height; ++y)
    for (int x = 0; x < size.width; ++x) {
      const float a = darkness * static_cast<float>(ink(x, y)) / 65535;
      const Rgb paper = ground(x, y);
      page(x, y) = light ? paper * (1 - a) + Rgb{0.75f, 0.75f, 0.75f} * a : paper * (1 - a);
    }
  if (blur > 0) page = gaussianBlur(page.view(), blur);
  for (int y = 0; y < size.height; ++y)
    for (Rgb& c : page.line(y)) {
      const float n = 1 + noise(random);
      c = {std::clamp(c.r * n, 0.0f, 1.0f), std::clamp(c.g * n, 0.0f, 1.0f), std::clamp(c.b * n, 0.0f, 1.0f)};
    }
  return page;
}

std::vector<Point> centresOf(const Strokes& strokes) {
  std::vector<Point> out;
  for (const auto& stroke : strokes) {
    const auto places = flattened(*stroke, 0.1);
    for (std::size_t i = 1; i < places.size(); ++i) {
      const Point a = places[i - 1].at, b = places[i].at;
      const int steps = std::max(1, static_cast<int>(distanceBetween(a, b)));
      for (int k = 0; k < steps; ++k) out.push_back(a + (b - a) * (static_cast<double>(k) / steps));
    }
  }
  return out;
}

}  // namespace

Strokes knownStrokes(Size size, unsigned seed, double width) {
  std::mt19937 random(seed);
  const double w = size.width, h = size.height;
  std::uniform_real_distribution<double> unit(0, 1);
  const auto at = [&](double u, double v) { return Point{w * (0.08 + 0.84 * u), h * (0.08 + 0.84 * v)}; };
  Strokes out;
  const auto add = [&](Stroke stroke) { out.push_back(std::make_shared<const Stroke>(std::move(stroke))); };
  for (int i = 0; i < 7; ++i)  // sweeping curves
    add({{at(unit(random), unit(random)), at(unit(random), unit(random)), at(unit(random), unit(random)),
          at(unit(random), unit(random))},
         {width * (0.8 + 0.6 * unit(random)), width},
         false});
  for (int i = 0; i < 3; ++i) {  // circles, as four curves
    const Point c = at(0.15 + 0.7 * unit(random), 0.2 + 0.6 * unit(random));
    const double r = h * (0.05 + 0.08 * unit(random)), k = 0.5523 * r;
    add({{{c.x + r, c.y},
          {c.x + r, c.y + k},
          {c.x + k, c.y + r},
          {c.x, c.y + r},
          {c.x - k, c.y + r},
          {c.x - r, c.y + k},
          {c.x - r, c.y},
          {c.x - r, c.y - k},
          {c.x - k, c.y - r},
          {c.x, c.y - r},
          {c.x + k, c.y - r},
          {c.x + r, c.y - k},
          {c.x + r, c.y}},
         std::vector<double>(5, width),
         true});
  }
  for (int i = 0; i < 4; ++i) {  // straight ones, well askew
    const Point a = at(unit(random), 0.1 * unit(random)), b = at(unit(random), 0.55 + 0.45 * unit(random));
    add({{a, a + (b - a) * 0.33, a + (b - a) * 0.67, b}, {width, width}, false});
  }
  return out;
}

std::vector<Page> drawnPages() {
  std::vector<Page> pages;
  const Size size{640, 480};
  const auto add = [&](const QString& name, Size s, unsigned seed, double width, float darkness, float blur,
                       float grain, const Ground& ground, bool light = false) {
    auto strokes = knownStrokes(s, seed, width);
    auto picture = drawnOn(s, strokes, darkness, ground, blur, grain, seed + 100, light);
    pages.push_back({name, std::move(picture), std::move(strokes)});
  };
  add("white sheet", size, 1, 2.5, 0.9f, 0, 0.01f, [](int, int) { return Rgb{0.85f, 0.85f, 0.85f}; });
  add("raking light, grain", size, 2, 3, 0.7f, 0.6f, 0.04f, [](int x, int y) {
    const float l = 0.18f + 0.7f * static_cast<float>(x) / 640 * (0.6f + 0.4f * static_cast<float>(y) / 480);
    return Rgb{l, l * 0.96f, l * 0.9f};
  });
  add("ruled, blurred", size, 3, 3, 0.8f, 1.1f, 0.015f, [](int x, int y) {
    const double row = std::fmod(y + 0.012 * x, 28.0);
    return row < 1.6 ? Rgb{0.55f, 0.62f, 0.78f} : Rgb{0.82f, 0.82f, 0.8f};
  });
  add("squared, yellowed", size, 4, 3, 0.75f, 0.5f, 0.02f, [](int x, int y) {
    const float l = 0.5f + 0.3f * static_cast<float>(y) / 480;
    const bool rule = x % 32 < 2 || y % 32 < 2;
    return rule ? Rgb{0.8f * l, 0.78f * l, 0.72f * l} : Rgb{l, 0.93f * l, 0.74f * l};
  });
  add(
      "white on slate", size, 5, 3, 0.85f, 0.5f, 0.03f,
      [](int x, int) {
        const float l = 0.05f + 0.04f * static_cast<float>(x) / 640;
        return Rgb{l, l, 1.1f * l};
      },
      true);
  add("pencil, tooth and stain", size, 6, 2.5, 0.5f, 0.4f, 0.03f, [](int x, int y) {
    const double d = std::hypot(x - 450, y - 330);
    const float stain = d < 90 ? 0.75f : d < 100 ? 0.6f : 1.0f;
    return Rgb{0.8f * (0.55f + 0.45f * stain), 0.76f * (0.35f + 0.65f * stain), 0.68f * stain};
  });
  add("small soft scan", {400, 300}, 7, 2.2, 0.85f, 0.9f, 0.02f, [](int, int y) {
    const float l = 0.75f - 0.25f * static_cast<float>(y) / 300;
    return Rgb{l, l, l};
  });
  return pages;
}

double recallOf(const Strokes& strokes, View<std::uint8_t> skeleton, double reach) {
  Image<std::uint8_t> set(skeleton.size());
  for (int y = 0; y < set.height(); ++y)
    for (int x = 0; x < set.width(); ++x) set(x, y) = skeleton(x, y) != 0 ? 255 : 0;
  const auto distance = distanceToSet(set);
  double met = 0, count = 0;
  for (const Point p : centresOf(strokes)) {
    const int x = static_cast<int>(p.x), y = static_cast<int>(p.y);
    if (x < 0 || y < 0 || x >= set.width() || y >= set.height()) continue;
    count += 1;
    met += static_cast<double>(distance(x, y)) <= reach ? 1 : 0;
  }
  return count > 0 ? met / count : 0;
}

double precisionOf(const Strokes& strokes, View<std::uint8_t> skeleton, double reach) {
  Image<std::uint8_t> middle(skeleton.size());
  for (const Point p : centresOf(strokes)) {
    const int x = static_cast<int>(p.x), y = static_cast<int>(p.y);
    if (x >= 0 && y >= 0 && x < middle.width() && y < middle.height()) middle(x, y) = 255;
  }
  const auto distance = distanceToSet(middle);
  double met = 0, count = 0;
  for (int y = 0; y < skeleton.height(); ++y)
    for (int x = 0; x < skeleton.width(); ++x)
      if (skeleton(x, y) != 0) {
        count += 1;
        met += static_cast<double>(distance(x, y)) <= reach ? 1 : 0;
      }
  return count > 0 ? met / count : 0;
}

double farthestFrom(std::span<const StrokePlace> line, std::span<const StrokePlace> places) {
  double most = 0;
  for (const StrokePlace& place : places) {
    double least = 1e9;
    for (std::size_t i = 1; i < line.size(); ++i)
      least = std::min(least, distanceToSegment(place.at, line[i - 1].at, line[i].at));
    most = std::max(most, least);
  }
  return most;
}

}  // namespace fixtures
