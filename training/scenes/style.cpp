#include "style.h"

#include <algorithm>
#include <array>
#include <cmath>

#include "core/image/colour.h"

namespace hscaffold::training {
namespace {

/// Encoded as screens show it, [0, 1].
Image<Rgb> shownOf(View<Rgb> linear, float exposure) {
  constexpr int steps = 4096;
  static const auto table = [] {
    std::vector<float> made;
    // Over roots, so that the dark is as finely told as the light.
    for (int i = 0; i <= steps; ++i) made.push_back(linearToSrgb(std::pow(static_cast<float>(i) / steps, 2.0f)));
    return made;
  }();
  Image<Rgb> out(linear.size());
  for (int y = 0; y < out.height(); ++y)
    for (int x = 0; x < out.width(); ++x) {
      const Rgb c = linear(x, y) * exposure;
      const auto encoded = [](float v) {
        return table[static_cast<std::size_t>(std::sqrt(std::clamp(v, 0.0f, 1.0f)) * steps)];
      };
      out(x, y) = {encoded(c.r), encoded(c.g), encoded(c.b)};
    }
  return out;
}

/// Where a line would be drawn: borders of objects, leaps of depth, folds. [0, 1]
Image<float> linesOf(const stage::Rendered& r, float folds) {
  Image<float> out(r.colour.size());
  for (int y = 0; y + 1 < out.height(); ++y)
    for (int x = 0; x + 1 < out.width(); ++x) {
      float strongest = 0;
      for (const auto& [ox, oy] : {std::pair{1, 0}, {0, 1}}) {
        const bool border = r.object(x, y) != r.object(x + ox, y + oy);
        const float a = r.near(x, y), b = r.near(x + ox, y + oy);
        const float leap = std::fabs(a - b) / std::max(0.02f, std::max(a, b));
        const Rgb n = r.normal(x, y), m = r.normal(x + ox, y + oy);
        const float bend = 1 - (n.r * m.r + n.g * m.g + n.b * m.b);
        // A line also where colours differ on one thing: hems, faces.
        const Rgb c = r.colour(x, y), d = r.colour(x + ox, y + oy);
        const float step = std::fabs(luminance(c) - luminance(d)) / (0.1f + luminance(c) + luminance(d));
        strongest =
            std::max({strongest, border ? 1.0f : 0.0f, leap > 0.06f ? 1.0f : 0.0f,
                      std::clamp(folds * (bend - 0.25f), 0.0f, 1.0f), std::clamp(3 * (step - 0.35f), 0.0f, 1.0f)});
      }
      out(x, y) = strongest;
    }
  return out;
}

/// Sums over all that lies above and left of a place.
class Sums {
 public:
  template <typename Value>
  Sums(Size size, Value&& value) : width_(size.width + 1), sums_(static_cast<std::size_t>(width_ * (size.height + 1))) {
    for (int y = 0; y < size.height; ++y)
      for (int x = 0; x < size.width; ++x) at(x + 1, y + 1) = value(x, y) + at(x, y + 1) + at(x + 1, y) - at(x, y);
  }
  [[nodiscard]] double over(int left, int top, int right, int bottom) const {
    return of(right, bottom) - of(left, bottom) - of(right, top) + of(left, top);
  }

 private:
  double& at(int x, int y) { return sums_[static_cast<std::size_t>(y * width_ + x)]; }
  [[nodiscard]] double of(int x, int y) const { return sums_[static_cast<std::size_t>(y * width_ + x)]; }
  int width_;
  std::vector<double> sums_;
};

/// Brush marks: each place takes the colour of whichever of four quarters round it is the evenest (Kuwahara 1976).
Image<Rgb> brushed(const Image<Rgb>& from, int reach) {
  const Sums red(from.size(), [&](int x, int y) { return static_cast<double>(from(x, y).r); });
  const Sums green(from.size(), [&](int x, int y) { return static_cast<double>(from(x, y).g); });
  const Sums blue(from.size(), [&](int x, int y) { return static_cast<double>(from(x, y).b); });
  const Sums squares(from.size(), [&](int x, int y) { return static_cast<double>(from(x, y).g * from(x, y).g); });
  Image<Rgb> out(from.size());
  for (int y = 0; y < from.height(); ++y)
    for (int x = 0; x < from.width(); ++x) {
      double evenest = 1e9;
      for (const auto& [dx, dy] : {std::pair{-reach, -reach}, {0, -reach}, {-reach, 0}, {0, 0}}) {
        const int left = std::max(0, x + dx), top = std::max(0, y + dy);
        const int right = std::min(from.width(), x + dx + reach + 1),
                  bottom = std::min(from.height(), y + dy + reach + 1);
        const double n = (right - left) * (bottom - top), g = green.over(left, top, right, bottom) / n;
        const double varies = squares.over(left, top, right, bottom) / n - g * g;
        if (varies >= evenest) continue;
        evenest = varies;
        out(x, y) = {static_cast<float>(red.over(left, top, right, bottom) / n), static_cast<float>(g),
                     static_cast<float>(blue.over(left, top, right, bottom) / n)};
      }
    }
  return out;
}

void blur(Image<Rgb>& picture) {
  const Image<Rgb> from = picture.clone();
  const View<Rgb> view = from;
  for (int y = 0; y < picture.height(); ++y)
    for (int x = 0; x < picture.width(); ++x)
      picture(x, y) =
          view.clamped(x, y) * 0.4f +
          (view.clamped(x - 1, y) + view.clamped(x + 1, y) + view.clamped(x, y - 1) + view.clamped(x, y + 1)) * 0.15f;
}

}  // namespace

Style anyStyle(Dice& dice) {
  return dice.of({Style::shaded, Style::shaded, Style::shaded, Style::shaded, Style::painted, Style::flat,
                  Style::outlined, Style::sketched});
}

Image<Rgb8> inStyle(Dice& dice, const stage::Rendered& rendered, Style style) {
  // Exposed for what is there, not for the sky.
  double sum = 0, count = 1;
  for (int y = 0; y < rendered.colour.height(); y += 3)
    for (int x = 0; x < rendered.colour.width(); x += 3)
      if (rendered.near(x, y) > 0)
        sum += static_cast<double>(std::min(1.2f, luminance(rendered.colour(x, y)))), count += 1;
  const double mean = sum / count;
  const float exposure =
      std::clamp(static_cast<float>(0.24 / std::max(0.01, mean)), 0.4f, 6.0f) * dice.ratio(0.6f, 1.6f);
  auto shown = shownOf(rendered.colour, exposure);
  if (style == Style::painted) {
    shown = brushed(shown, dice.whole(1, 3));
  } else if (style != Style::shaded) {
    const auto lines = linesOf(rendered, dice.between(0.5f, 3));
    const bool drawing = style == Style::sketched;
    const float levels = dice.between(2, 6), strength = dice.between(0.6f, 1);
    const float paper = dice.between(0.8f, 1), wander = drawing ? dice.between(0, 1.5f) : 0.0f,
                tint = drawing ? dice.between(0, 0.5f) : 0.0f;
    const float phase = dice.between(0, 6);
    const Rgb white{paper, paper * dice.between(0.92f, 1), paper * dice.between(0.8f, 1)},
        ink = dice.chance(0.7f) ? Rgb{0.05f, 0.05f, 0.06f} : dice.colour(0.01f, 0.2f);
    const View<float> view = lines;
    for (int y = 0; y < shown.height(); ++y)
      for (int x = 0; x < shown.width(); ++x) {
        Rgb& c = shown(x, y);
        if (drawing) {
          c = white * (1 - tint) + c * tint;
        } else {
          const auto step = [levels](float v) { return std::round(v * levels) / levels; };
          const float light = std::max({c.r, c.g, c.b, 0.01f}), to = 0.15f + 0.85f * step(light);
          c = c * (to / light);
        }
        if (style == Style::flat) continue;
        const float fy = static_cast<float>(y), fx = static_cast<float>(x);
        const int lx = x + static_cast<int>(std::lround(wander * std::sin(0.21f * fy + phase))),
                  ly = y + static_cast<int>(std::lround(wander * std::sin(0.17f * fx + phase)));
        const float line = strength * view.clamped(lx, ly);
        c = c * (1 - line) + ink * line;
      }
  }
  if (dice.chance(0.3f)) blur(shown);
  const bool grey = dice.chance(0.1f);
  const float grain = dice.chance(0.5f) ? dice.between(0, 0.06f) : 0;
  const float contrast = dice.between(0.75f, 1.25f), lift = dice.between(-0.06f, 0.06f);
  const Rgb cast =
      dice.chance(0.3f) ? Rgb{dice.between(0.85f, 1), dice.between(0.85f, 1), dice.between(0.85f, 1)} : Rgb{1, 1, 1};
  Image<Rgb8> out(shown.size());
  for (int y = 0; y < out.height(); ++y)
    for (int x = 0; x < out.width(); ++x) {
      Rgb c = shown(x, y);
      if (grey) {
        const float l = 0.3f * c.r + 0.59f * c.g + 0.11f * c.b;
        c = {l, l, l};
      }
      const float noise = grain > 0 ? grain * (2 * dice.even() - 1) : 0.0f;
      const auto byte = [&](float v, float tint) {
        const float shownAs = std::clamp(0.5f + contrast * (v * tint - 0.5f) + lift + noise, 0.0f, 1.0f);
        return static_cast<std::uint8_t>(std::lround(255 * shownAs));
      };
      out(x, y) = {byte(c.r, cast.r), byte(c.g, cast.g), byte(c.b, cast.b)};
    }
  return out;
}

}  // namespace hscaffold::training
