#include <algorithm>
#include <vector>

#include "core/engine/standin/noise.h"
#include "core/image/filter.h"
#include "core/image/parallel.h"
#include "scenes.h"

namespace almanac {
namespace {

using hscaffold::Image;
using hscaffold::Rgb;
using hscaffold::standin::fractalNoise;
using hscaffold::standin::mixed;
using hscaffold::standin::signedUnit;
using hscaffold::standin::smoothStep;
using hscaffold::standin::valueNoise;

struct Dot {
  float x, y;
};
/// Coordinates from 0 to 300 across and 200 down; drawn with a hand that is not quite steady.
struct PencilLine {
  std::vector<Dot> through;
  float width = 1.0f, pressure = 0.8f;
};

class Page {
 public:
  Page(hscaffold::Size size, std::uint64_t seed) : size_(size), seed_(seed), lead_(size) {}

  void draw(const PencilLine& line) {
    ++count_;
    const std::vector<Dot> path = smooth(line.through);
    for (std::size_t i = 0; i + 1 < path.size(); ++i) {
      const float t = static_cast<float>(i) / static_cast<float>(path.size());
      const float ends = 0.55f + 0.45f * std::min(1.0f, 8 * std::min(t, 1 - t));
      segment(wobbled(path[i]), wobbled(path[i + 1]), line.width * (0.75f + 0.25f * ends), line.pressure * ends);
    }
  }
  void arc(float cx, float cy, float rx, float ry, float from, float to, float width = 1.0f, float pressure = 0.8f) {
    PencilLine line{{}, width, pressure};
    for (int i = 0; i <= 14; ++i) {
      const float a = (from + (to - from) * static_cast<float>(i) / 14) * 6.2831853f;
      line.through.push_back({cx + rx * std::cos(a), cy + ry * std::sin(a)});
    }
    draw(line);
  }
  [[nodiscard]] const Image<float>& lead() const { return lead_; }

 private:
  /// A curve through all points (Catmull and Rom 1974).
  static std::vector<Dot> smooth(const std::vector<Dot>& p) {
    std::vector<Dot> out;
    const auto at = [&](std::ptrdiff_t i) {
      return p[static_cast<std::size_t>(std::clamp<std::ptrdiff_t>(i, 0, std::ssize(p) - 1))];
    };
    for (std::ptrdiff_t i = 0; i + 1 < std::ssize(p); ++i) {
      for (int k = 0; k < 24; ++k) {
        const float t = static_cast<float>(k) / 24;
        const auto curve = [t](float a, float b, float c, float d) {
          return 0.5f *
                 (2 * b + (c - a) * t + (2 * a - 5 * b + 4 * c - d) * t * t + (3 * b - a - 3 * c + d) * t * t * t);
        };
        out.push_back({curve(at(i - 1).x, at(i).x, at(i + 1).x, at(i + 2).x),
                       curve(at(i - 1).y, at(i).y, at(i + 1).y, at(i + 2).y)});
      }
    }
    out.push_back(p.back());
    return out;
  }
  [[nodiscard]] Dot wobbled(Dot d) const {
    const std::uint64_t s = mixed(seed_, count_);
    return {d.x + 0.35f * valueNoise(s, d.x * 0.09f, d.y * 0.09f),
            d.y + 0.35f * valueNoise(s + 1, d.x * 0.09f, d.y * 0.09f)};
  }
  void segment(Dot a, Dot b, float width, float pressure) {
    const float scale = static_cast<float>(size_.width) / 300;
    a = {a.x * scale, a.y * scale};
    b = {b.x * scale, b.y * scale};
    const float half = width * scale * 0.22f, reach = half + 1;
    const float dx = b.x - a.x, dy = b.y - a.y, squared = std::max(1e-6f, dx * dx + dy * dy);
    for (int y = std::max(0, static_cast<int>(std::min(a.y, b.y) - reach));
         y <= std::min(size_.height - 1, static_cast<int>(std::max(a.y, b.y) + reach)); ++y)
      for (int x = std::max(0, static_cast<int>(std::min(a.x, b.x) - reach));
           x <= std::min(size_.width - 1, static_cast<int>(std::max(a.x, b.x) + reach)); ++x) {
        const float px = static_cast<float>(x) + 0.5f, py = static_cast<float>(y) + 0.5f;
        const float t = std::clamp(((px - a.x) * dx + (py - a.y) * dy) / squared, 0.0f, 1.0f);
        const float d = std::hypot(px - a.x - t * dx, py - a.y - t * dy);
        lead_(x, y) = std::max(lead_(x, y), pressure * smoothStep(half + 0.8f, half - 0.8f, d));
      }
  }

  hscaffold::Size size_;
  std::uint64_t seed_;
  std::uint64_t count_ = 0;
  Image<float> lead_;
};

void drawCart(Page& page) {
  // Hull: a long shallow body with planks.
  page.draw({{{52, 128}, {70, 141}, {120, 147}, {178, 146}, {214, 136}, {228, 122}}, 1.5f, 0.9f});
  page.draw({{{52, 128}, {90, 126}, {150, 126}, {228, 122}}, 1.3f, 0.9f});
  page.draw({{{58, 134}, {110, 137}, {170, 137}, {220, 130}}, 0.8f, 0.6f});
  page.draw({{{52, 128}, {47, 122}, {45, 114}}, 1.1f, 0.8f});
  // Wheels with spokes.
  for (const Dot wheel : {Dot{88, 156}, Dot{184, 156}}) {
    page.arc(wheel.x, wheel.y, 19, 19, 0, 1.02f, 1.5f, 0.9f);
    page.arc(wheel.x, wheel.y, 16, 16, 0, 1, 0.8f, 0.7f);
    page.arc(wheel.x, wheel.y, 3, 3, 0, 1.05f, 1.0f, 0.9f);
    for (int i = 0; i < 8; ++i) {
      const float a = static_cast<float>(i) * 0.785f + 0.2f;
      page.draw({{{wheel.x + 3 * std::cos(a), wheel.y + 3 * std::sin(a)},
                  {wheel.x + 16 * std::cos(a), wheel.y + 16 * std::sin(a)}},
                 0.7f,
                 0.7f});
    }
  }
  page.draw({{{88, 156}, {136, 150}, {184, 156}}, 1.0f, 0.7f});
  // Mast, boom, sail with battens, stays, pennant.
  page.draw({{{134, 127}, {136, 76}, {139, 20}}, 1.6f, 0.95f});
  page.draw({{{137, 27}, {176, 58}, {205, 110}}, 1.3f, 0.9f});
  page.draw({{{134, 112}, {170, 114}, {205, 110}}, 1.2f, 0.9f});
  page.draw({{{136, 92}, {166, 95}, {194, 90}}, 0.7f, 0.55f});
  page.draw({{{137, 71}, {160, 74}, {182, 68}}, 0.7f, 0.55f});
  page.draw({{{138, 50}, {152, 52}, {166, 48}}, 0.7f, 0.55f});
  page.draw({{{138, 24}, {100, 72}, {62, 126}}, 0.8f, 0.7f});
  page.draw({{{138, 34}, {112, 66}, {88, 112}}, 1.1f, 0.8f});
  page.draw({{{88, 112}, {110, 112}, {132, 104}}, 1.0f, 0.8f});
  page.draw({{{139, 20}, {128, 17}, {116, 20}, {108, 16}}, 1.0f, 0.8f});
  page.draw({{{139, 25}, {126, 23}, {114, 25}, {108, 16}}, 0.8f, 0.7f});
  // A helmsman with a tiller.
  page.arc(206, 98, 5, 6, 0, 1.03f, 1.1f, 0.85f);
  page.draw({{{205, 104}, {202, 114}, {206, 124}}, 1.2f, 0.85f});
  page.draw({{{204, 107}, {214, 113}, {224, 111}}, 1.0f, 0.8f});
  page.draw({{{222, 124}, {227, 112}, {224, 104}}, 1.0f, 0.8f});
  // Ground with tracks and tufts.
  page.draw({{{18, 176}, {70, 174}, {140, 177}, {220, 174}, {284, 177}}, 0.9f, 0.65f});
  page.draw({{{30, 183}, {90, 181}, {150, 184}}, 0.7f, 0.45f});
  for (const float x : {28.0f, 44.0f, 246.0f, 262.0f, 270.0f})
    for (int i = -1; i <= 1; ++i)
      page.draw({{{x, 176}, {x + static_cast<float>(i) * 3, 168 - 2 * std::abs(static_cast<float>(i))}}, 0.7f, 0.6f});
  // Hatching in the hull's shadow.
  for (int i = 0; i < 22; ++i) {
    const float x = 92 + static_cast<float>(i) * 5;
    page.draw({{{x, 145}, {x - 5, 138}}, 0.55f, 0.45f});
  }
}

/// Lettering of single strokes: "WIND CART".
void letter(Page& page, float x, float y) {
  const auto strokes = [&](std::vector<std::vector<Dot>> lines) {
    for (auto& line : lines) {
      for (Dot& d : line) d = {x + d.x, y + d.y};
      page.draw({line, 0.8f, 0.7f});
    }
    x += 11;
  };
  strokes({{{0, 0}, {2, 9}}, {{2, 9}, {4, 3}}, {{4, 3}, {6, 9}}, {{6, 9}, {8, 0}}});
  strokes({{{3, 0}, {3, 9}}});
  strokes({{{0, 9}, {0, 0}}, {{0, 0}, {6, 9}}, {{6, 9}, {6, 0}}});
  strokes({{{0, 0}, {0, 9}}, {{0, 0}, {6, 3}, {6, 6}, {0, 9}}});
  x += 6;
  strokes({{{7, 1}, {3, 0}, {0, 4.5f}, {3, 9}, {7, 8}}});
  strokes({{{0, 9}, {3.5f, 0}}, {{3.5f, 0}, {7, 9}}, {{1.5f, 6}, {5.5f, 6}}});
  strokes({{{0, 9}, {0, 0}}, {{0, 0}, {5, 1}, {5, 4}, {0, 5}}, {{1, 5}, {6, 9}}});
  strokes({{{0, 0}, {8, 0}}, {{4, 0}, {4, 9}}});
}

}  // namespace

Image<Rgb> sailCartSketch(hscaffold::Size size, std::uint64_t seed) {
  Page page(size, seed);
  drawCart(page);
  letter(page, 16, 16);
  const auto lead = hscaffold::gaussianBlur(page.lead().view(), 0.5f);
  const float scale = static_cast<float>(size.width) / 300;
  Image<Rgb> out(size);
  hscaffold::parallelRows(size.height, [&](int first, int end) {
    for (int y = first; y < end; ++y) {
      for (int x = 0; x < size.width; ++x) {
        const float u = static_cast<float>(x) / scale, v = static_cast<float>(y) / scale;
        const float grain = fractalNoise(seed + 2, u * 2.6f, v * 2.6f, 3),
                    tooth = valueNoise(seed + 3, static_cast<float>(x) / 1.7f, static_cast<float>(y) / 1.7f);
        Rgb c{0.80f, 0.76f, 0.67f};
        c = c * (1 + 0.05f * grain + 0.025f * tooth);
        // Squared paper, printed a little askew.
        const float gu = u + 0.012f * v, gv = v - 0.012f * u;
        const float rule = std::max(smoothStep(0.30f, 0.10f, std::fabs(std::remainder(gu, 10.0f))),
                                    smoothStep(0.30f, 0.10f, std::fabs(std::remainder(gv, 10.0f))));
        c = c - Rgb{0.17f, 0.09f, 0.03f} * rule * 0.8f;
        // A ring left by a cup, darker at its rim, and a crease.
        const float ring = std::hypot(u - 254, v - 46) + 1.2f * fractalNoise(seed + 4, u * 0.15f, v * 0.15f, 2);
        const float stain = 0.16f * smoothStep(24, 21, ring) + 0.30f * std::exp(-0.9f * (ring - 22) * (ring - 22));
        c = {c.r * (1 - 0.38f * stain), c.g * (1 - 0.62f * stain), c.b * (1 - 0.95f * stain)};
        const float crease = std::fabs(u - 96 - 0.22f * v);
        c = c * (1 - 0.10f * std::exp(-1.8f * crease * crease) +
                 0.06f * std::exp(-1.8f * (crease - 1.2f) * (crease - 1.2f)));
        // Pencil sits on the tooth of the paper.
        const float on = lead(x, y) * smoothStep(-0.75f, 0.55f, tooth + 0.8f * grain + 1.1f * lead(x, y) - 0.35f);
        c = c * (1 - 0.86f * on) + Rgb{0.09f, 0.09f, 0.10f} * (0.86f * on);
        // Lamp from the upper left, a hand's shadow below.
        const float lamp = 0.52f + 0.62f * std::exp(-0.000042f * ((u - 70) * (u - 70) + 1.6f * (v - 40) * (v - 40)));
        const float hand = 1 - 0.22f * smoothStep(60, 10, std::hypot((u - 292) * 0.7f, v - 196));
        const float noise =
            1 + 0.012f * signedUnit(mixed(seed, static_cast<std::uint64_t>(y) * 65536 + static_cast<std::uint64_t>(x)));
        c = c * (lamp * hand * noise);
        out(x, y) = {std::clamp(c.r * 1.02f, 0.0f, 1.0f), std::clamp(c.g, 0.0f, 1.0f),
                     std::clamp(c.b * 0.95f, 0.0f, 1.0f)};
      }
    }
  });
  return out;
}

}  // namespace almanac
