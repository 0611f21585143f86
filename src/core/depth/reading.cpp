#include "core/depth/reading.h"

#include <algorithm>
#include <array>
#include <cmath>
#include <numbers>
#include <vector>

#include "core/image/colour.h"
#include "core/image/parallel.h"

namespace hscaffold::depth {
namespace {

const std::array<Rgb8, 256>& readingColours() {
  static const auto table = [] {
    std::array<Rgb8, 256> out{};
    for (std::size_t i = 0; i < out.size(); ++i) {
      const float t = static_cast<float>(i) / 255;
      const OkLch colour{0.22f + 0.72f * t, 0.09f + 0.05f * std::sin(t * std::numbers::pi_v<float>),
                         (268 - 170 * t) * std::numbers::pi_v<float> / 180};
      const Rgb linear = okLabToLinearInGamut(okLchToOkLab(colour));
      out[i] = {linearToSrgb8(linear.r), linearToSrgb8(linear.g), linearToSrgb8(linear.b)};
    }
    return out;
  }();
  return table;
}

struct Corner {
  float x = 0, y = 0, z = 0;  ///< in the picture; larger z is nearer to the eye
  Rgb8 colour;
  float near = 0;
};

/// A triangle of one colour into the rows from `top` to `bottom`.
void fill(const Corner& a, const Corner& b, const Corner& c, Rgb8 colour, int top, int bottom, Image<float>& depth,
          Image<Rgb8>& out) {
  const float area = (b.x - a.x) * (c.y - a.y) - (c.x - a.x) * (b.y - a.y);
  if (std::fabs(area) < 1e-6f) return;
  const int y0 = std::max(top, static_cast<int>(std::ceil(std::min({a.y, b.y, c.y}) - 0.5f))),
            y1 = std::min(bottom - 1, static_cast<int>(std::floor(std::max({a.y, b.y, c.y}) - 0.5f)));
  const int x0 = std::max(0, static_cast<int>(std::ceil(std::min({a.x, b.x, c.x}) - 0.5f))),
            x1 = std::min(out.width() - 1, static_cast<int>(std::floor(std::max({a.x, b.x, c.x}) - 0.5f)));
  const float turn = 1 / area;
  for (int y = y0; y <= y1; ++y) {
    const float py = static_cast<float>(y) + 0.5f;
    for (int x = x0; x <= x1; ++x) {
      const float px = static_cast<float>(x) + 0.5f;
      const float u = ((b.x - px) * (c.y - py) - (c.x - px) * (b.y - py)) * turn,
                  v = ((c.x - px) * (a.y - py) - (a.x - px) * (c.y - py)) * turn, w = 1 - u - v;
      if (u < -1e-4f || v < -1e-4f || w < -1e-4f) continue;
      const float z = u * a.z + v * b.z + w * c.z;
      if (z <= depth(x, y)) continue;
      depth(x, y) = z;
      out(x, y) = colour;
    }
  }
}

}  // namespace

Image<Rgb8> inReadingColours(View<std::uint16_t> map) {
  Image<Rgb8> out(map.size());
  parallelRows(map.height(), [&](int first, int end) {
    for (int y = first; y < end; ++y)
      std::transform(map.row(y), map.row(y) + map.width(), out.row(y),
                     [](std::uint16_t v) { return readingColours()[v >> 8]; });
  });
  return out;
}

Image<std::uint16_t> contoursOf(View<std::uint16_t> map, double step) {
  Image<std::uint16_t> out(map.size());
  const auto level = [&](std::uint16_t v) { return static_cast<int>(v / 65535.0 / step); };
  for (int y = 0; y < map.height(); ++y)
    for (int x = 0; x < map.width(); ++x) {
      const int here = level(map(x, y));
      if (here != level(map.clamped(x + 1, y)) || here != level(map.clamped(x, y + 1))) out(x, y) = 65535;
    }
  return out;
}

Image<Rgb8> relief(View<std::uint16_t> map, View<Rgb8> colour, const ReliefLook& look, Size size, Rgb8 ground) {
  Image<Rgb8> out(size.width, size.height, ground);
  if (map.width() < 2 || map.height() < 2 || out.empty()) return out;
  constexpr int finest = 300;
  constexpr float leap = 0.07f, far = 3.2f;  // the eye's distance, in widths of the frame
  const int columns = std::min(finest, map.width()),
            rows = std::clamp(columns * map.height() / map.width(), 2, std::min(map.height(), 4 * finest));
  const auto cosine = [](double degrees) { return static_cast<float>(std::cos(degrees * std::numbers::pi / 180)); };
  const auto sine = [](double degrees) { return static_cast<float>(std::sin(degrees * std::numbers::pi / 180)); };
  const float ca = cosine(look.across), sa = sine(look.across), cd = cosine(look.down), sd = sine(look.down);
  const float ratio = static_cast<float>(map.height()) / static_cast<float>(map.width());
  const float scale =
      static_cast<float>(look.size) * std::min(static_cast<float>(size.width), static_cast<float>(size.height) / ratio);
  std::vector<Corner> corners(static_cast<std::size_t>(columns) * static_cast<std::size_t>(rows));
  parallelRows(rows, [&](int first, int end) {
    for (int j = first; j < end; ++j)
      for (int i = 0; i < columns; ++i) {
        const float u = static_cast<float>(i) / static_cast<float>(columns - 1),
                    v = static_cast<float>(j) / static_cast<float>(rows - 1);
        const int mx = static_cast<int>(u * static_cast<float>(map.width() - 1) + 0.5f),
                  my = static_cast<int>(v * static_cast<float>(map.height() - 1) + 0.5f);
        Corner& corner =
            corners[static_cast<std::size_t>(j) * static_cast<std::size_t>(columns) + static_cast<std::size_t>(i)];
        corner.near = static_cast<float>(map(mx, my)) / 65535.0f;
        // The middle of the range stays where it is, so that turning does not swing the picture away.
        const float x = u - 0.5f, y = (v - 0.5f) * ratio, z = (corner.near - 0.5f) * static_cast<float>(look.height);
        const float tx = x * ca - z * sa, tz = x * sa + z * ca;
        const float ty = y * cd - tz * sd, nearer = y * sd + tz * cd;
        const float closer = far / (far - nearer);
        corner.x = static_cast<float>(size.width) / 2 + scale * tx * closer;
        corner.y = static_cast<float>(size.height) / 2 + scale * ty * closer;
        corner.z = nearer;
        corner.colour = colour.empty() ? Rgb8{190, 186, 178} : colour(mx, my);
      }
  });
  Image<float> depth(size.width, size.height, -1e9f);
  const float slope = static_cast<float>(look.height) * static_cast<float>(columns - 1);
  // Each band of the picture takes what falls into it.
  constexpr int bands = 4;
  parallelRows(
      bands,
      [&](int firstBand, int endBand) {
        const int top = size.height * firstBand / bands, bottom = size.height * endBand / bands;
        for (int j = 0; j + 1 < rows; ++j)
          for (int i = 0; i + 1 < columns; ++i) {
            const Corner* a =
                &corners[static_cast<std::size_t>(j) * static_cast<std::size_t>(columns) + static_cast<std::size_t>(i)];
            const Corner &b = a[1], &c = a[columns], &d = a[columns + 1];
            const float low = std::min({a->y, b.y, c.y, d.y}), high = std::max({a->y, b.y, c.y, d.y});
            if (high < static_cast<float>(top) || low > static_cast<float>(bottom)) continue;
            const float dx = (b.near - a->near + d.near - c.near) / 2, dy = (c.near - a->near + d.near - b.near) / 2;
            const bool wall =
                std::max({a->near, b.near, c.near, d.near}) - std::min({a->near, b.near, c.near, d.near}) > leap;
            // Light from the upper left, in front; full on what faces the eye.
            const float nx = -dx * slope, ny = -dy * slope, length = std::sqrt(nx * nx + ny * ny + 1);
            const float lit = (-0.45f * nx - 0.55f * ny + 0.9f) / length / 0.9f;
            const float light = wall ? 0.32f : std::clamp(0.25f + 0.75f * lit, 0.15f, 1.2f);
            const auto shaded = [light](std::uint8_t v) {
              return static_cast<std::uint8_t>(std::min(255.0f, static_cast<float>(v) * light));
            };
            // A wall has the colour of what it is the side of.
            const Rgb8 base = !wall || a->near > d.near ? a->colour : d.colour;
            const Rgb8 tone{shaded(base.r), shaded(base.g), shaded(base.b)};
            fill(*a, b, c, tone, top, bottom, depth, out);
            fill(b, d, c, tone, top, bottom, depth, out);
          }
      },
      1);
  return out;
}

}  // namespace hscaffold::depth
