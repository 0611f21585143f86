#include "core/pattern/pattern.h"

#include <fmt/format.h>

#include <cmath>
#include <numbers>
#include <vector>

#include "core/image/encoded_light.h"
#include "core/image/filter.h"
#include "core/image/parallel.h"
#include "core/number_text.h"
#include "core/pattern/letters.h"

namespace hscaffold::pattern {
namespace {

constexpr double nothing = 0.5;

/// Both sides of frames lie on such steps.
constexpr int sizeStep = 8;

constexpr double radians(double degrees) { return degrees * std::numbers::pi / 180; }

/// Frame from a plane whose middle is (0, 0), in pixels: turned, leant, and seen from before the frame.
Homography planeInFrame(const PatternTuning& t, Size frame, Point middle) {
  // The eye stands as far off as a lens of usual length asks for.
  const double eye = 1.4 * std::max(frame.width, frame.height);
  const double c = std::cos(radians(t.turn)), s = std::sin(radians(t.turn));
  const double cl = std::cos(radians(t.lean)), sl = std::sin(radians(t.lean));
  const double cs = std::cos(radians(t.slant)), ss = std::sin(radians(t.slant));
  // After the turn (X, Y): a lean about the level axis takes Y to (Y cl, depth -Y sl), a slant about the upright one.
  const double zx = -ss * c - sl * s, zy = ss * s - sl * c;
  const double xx = cs * c, xy = -cs * s, yx = cl * s, yy = cl * c;
  const double g = zx / eye, h = zy / eye;
  return Homography(
      {xx + middle.x * g, xy + middle.x * h, middle.x, yx + middle.y * g, yy + middle.y * h, middle.y, g, h, 1});
}

Point middleOf(const PatternTuning& t, Size frame) { return {t.x / 100 * frame.width, t.y / 100 * frame.height}; }

/// Frame from a shape that reaches from -1 to 1 across, and to `tall` of that down.
Homography shapeInFrame(const PatternTuning& t, Size frame, double tall) {
  if (t.corners)  // of the unit square first
    return Homography::ontoQuad(cornersFrom(*t.corners, frame))
        .after(Homography({0.5, 0, 0.5, 0, 0.5 / tall, 0.5, 0, 0, 1}));
  const double half = 0.5 * t.size / 100 * std::min(frame.width, frame.height) / std::max(1.0, tall);
  return planeInFrame(t, frame, middleOf(t, frame)).after(Homography({half, 0, 0, 0, half, 0, 0, 0, 1}));
}

double tallnessOf(const PatternTuning& t) { return t.what == What::letters ? lettering(t.says)->tall : 1; }

/// From dark to light over `soft` of the phase about 0 and a half; phase goes round from 0 to 1.
double banded(double phase, double soft) {
  const double wave = phase - std::floor(phase);                                               // dark in the first half
  const double d = wave < 0.5 ? -std::min(wave, 0.5 - wave) : std::min(wave - 0.5, 1 - wave);  // [-0.25, 0.25]
  const double half = std::max(1e-6, soft / 4);
  const double u = std::clamp(0.5 + 0.5 * d / half, 0.0, 1.0);
  return u * u * (3 - 2 * u);
}

/// Of a shape whose middle is (0, 0) and that reaches to 1; `nothing` outside of it.
double shapeAt(const PatternTuning& t, double u, double v) {
  const double soft = t.softness / 100, n = t.count;
  const double r = std::hypot(u, v);
  if (t.what == What::checks || t.what == What::waves) {
    if (std::max(std::abs(u), std::abs(v)) > 1) return nothing;
    if (t.what == What::waves) return banded(n / 2 * (v + 0.08 * std::sin(3 * std::numbers::pi * u)), soft);
    // Two bandings, one for dark where both agree.
    const double a = 2 * banded(n / 4 * (u + 1), soft) - 1, b = 2 * banded(n / 4 * (v + 1), soft) - 1;
    return 0.5 - 0.5 * a * b;
  }
  if (r > 1) return nothing;
  const double round = std::atan2(v, u) / (2 * std::numbers::pi);
  switch (t.what) {
    case What::spiral:
      return banded(n / 2 * r - round, soft);
    case What::rings:
      return banded(n / 2 * r, soft);
    case What::rays:
      return banded(n * round, soft);
    default:
      break;
  }
  // A wind rose: long points and, between them, short ones, each half dark and half light, on light ground in a rim.
  const double points = 2 * std::round(n / 2);
  const double at = round * points, nearest = std::round(at), off = at - nearest;
  const double tip = std::lround(nearest) % 2 == 0 ? 0.86 : 0.62, waist = 0.26;
  // A point is bounded by straight lines from its tip to its waist, half way to its neighbours.
  const double half = std::numbers::pi / points, angle = std::abs(off) * 2 * std::numbers::pi / points;
  const double edge = tip * waist * std::sin(half) / (waist * std::sin(half - angle) + tip * std::sin(angle));
  const double fade = 0.004 + 0.06 * soft;
  const auto inside = [&](double d) { return std::clamp(0.5 + 0.5 * d / fade, 0.0, 1.0); };
  const double ground = 1 - inside(0.05 - std::abs(r - 0.94));
  const double side = inside(off * 2 * std::numbers::pi / points * r);
  return ground + (side - ground) * inside(edge - r);
}

bool isFinder(const Code& code, int x, int y) {
  constexpr int finder = 7;
  const int far = code.side() - finder;
  return (x < finder && (y < finder || y >= far)) || (x >= far && y < finder);
}

/// Of a code, at a place counted in modules from its upper left corner; `nothing` beyond its quiet zone.
double codeAt(const PatternTuning& t, const Code& code, double u, double v) {
  const int side = code.side();
  if (u < -t.quiet || v < -t.quiet || u >= side + t.quiet || v >= side + t.quiet) return nothing;
  const int x = static_cast<int>(std::floor(u)), y = static_cast<int>(std::floor(v));
  const auto isDark = [&](int cx, int cy) {
    return cx >= 0 && cy >= 0 && cx < side && cy < side && code.dark(cx, cy) != 0;
  };
  const double free = 0.5 * t.centreFree, middle = 0.5 * side;
  if (std::max(std::abs(u - middle), std::abs(v - middle)) < free) return nothing;
  const double dx = u - x - 0.5, dy = v - y - 0.5;
  if (t.form == ModuleForm::squares || isFinder(code, x, y)) return isDark(x, y) ? 0 : 1;
  if (t.form == ModuleForm::dots) {
    constexpr double radius = 0.46;  // smaller ones leave too little dark for readers that look at a module's whole
    return isDark(x, y) && std::hypot(dx, dy) <= radius ? 0 : 1;
  }
  // Rounded where neither neighbour at a corner goes on.
  constexpr double round = 0.36;
  const int sx = dx < 0 ? -1 : 1, sy = dy < 0 ? -1 : 1;
  const double cx = std::abs(dx) - (0.5 - round), cy = std::abs(dy) - (0.5 - round);
  const bool inCorner = cx > 0 && cy > 0 && std::hypot(cx, cy) > round;
  if (isDark(x, y)) return inCorner && !isDark(x + sx, y) && !isDark(x, y + sy) && !isDark(x + sx, y + sy) ? 1 : 0;
  return inCorner && isDark(x + sx, y) && isDark(x, y + sy) && isDark(x + sx, y + sy) ? 0 : 1;
}

/// `valueAt` (in a plane's own measure, from frame pixels) with 4 x 4 samples a pixel.
/// @param even  nothing is finer than a pixel: what is the same at a pixel's corners is the same in it
template <typename ValueAt>
Image<float> sampled(Size frame, const Homography& toPlane, bool even, const StopToken& stop, const ValueAt& valueAt) {
  Image<float> out(frame);
  const auto at = [&](double x, double y) {
    const Point p{x, y};
    return toPlane.weight(p) > 0 ? valueAt(toPlane(p)) : nothing;
  };
  parallelRows(frame.height, [&](int first, int end) {
    constexpr int samples = 4;
    // Corners above and below the row.
    std::vector<double> above(static_cast<std::size_t>(frame.width) + 1), below = above;
    const auto corners = [&](std::vector<double>& row, int y) {
      for (int x = 0; x <= frame.width; ++x) row[static_cast<std::size_t>(x)] = at(x, y);
    };
    if (even) corners(below, first);
    for (int y = first; y < end; ++y) {
      throwIfStopped(stop);
      if (even) {
        std::swap(above, below);
        corners(below, y + 1);
      }
      for (int x = 0; x < frame.width; ++x) {
        const auto left = static_cast<std::size_t>(x), right = left + 1;
        if (even && above[left] == above[right] && above[left] == below[left] && above[left] == below[right]) {
          out(x, y) = static_cast<float>(above[left]);
          continue;
        }
        double sum = 0;
        for (int i = 0; i < samples * samples; ++i)
          sum += at(x + (i % samples + 0.5) / samples, y + (i / samples + 0.5) / samples);
        out(x, y) = static_cast<float>(sum / (samples * samples));
      }
    }
  });
  return out;
}

/// Dark letters on light ground, which reaches a little beyond them.
Image<float> lettersLaid(const PatternTuning& t, Size frame, const StopToken& stop) {
  const auto set = lettering(t.says);
  const auto soft = static_cast<float>(0.12 * t.softness / 100 * set->letterHeight);
  const auto ink = soft > 0.3f ? gaussianBlur(set->ink.view(), soft) : set->ink.clone();
  const double across = 0.5 * ink.width(), down = 0.5 * ink.height() / set->tall;
  return sampled(frame, shapeInFrame(t, frame, set->tall).inverted(), false, stop, [&](Point p) {
    if (std::abs(p.x) > 1 || std::abs(p.y) > set->tall) return nothing;
    const auto x = std::min(static_cast<int>((p.x + 1) * across), ink.width() - 1);
    const auto y = std::min(static_cast<int>((p.y + set->tall) * down), ink.height() - 1);
    return 1 - static_cast<double>(ink(x, y));
  });
}

Image<float> pictureParted(const PatternTuning& t, View<Rgb> picture, StopToken stop) {
  auto light = encodedLightOf(picture);
  if (t.blur > 0)
    light = gaussianBlur(light, static_cast<float>(t.blur / 100 * std::max(light.width(), light.height())));
  throwIfStopped(stop);
  float least = 1, most = 0;
  for (int y = 0; y < light.height(); ++y)
    for (const float v : light.line(y)) {
      least = std::min(least, v);
      most = std::max(most, v);
    }
  constexpr float flat = 0.02f;  // less than that is no light and dark
  const auto middle = partingLevel(light.view()) + static_cast<float>(t.level / 100);
  const auto half = std::max(0.004f, static_cast<float>(t.softness / 100) * 0.5f * (most - least));
  for (int y = 0; y < light.height(); ++y)
    for (float& v : light.line(y)) {
      const float u = most - least < flat ? 0.5f : std::clamp(0.5f + 0.5f * (v - middle) / half, 0.0f, 1.0f);
      v = u * u * (3 - 2 * u);
    }
  return light;
}

}  // namespace

CodePlace codePlaced(const PatternTuning& t, Size frame) {
  CodePlace out{codeOf(t.says, t.correction), t.module, {}, 0};
  const int side = out.code.side(), shorter = std::min(frame.width, frame.height);
  const auto laid = t.corners ? std::optional(cornersFrom(*t.corners, frame)) : std::nullopt;
  if (laid) {
    const Quad& q = *laid;
    double least = distanceBetween(q[3], q[0]);
    for (std::size_t i = 0; i < 3; ++i) least = std::min(least, distanceBetween(q[i], q[i + 1]));
    out.module = static_cast<int>(std::lround(least / side));
  } else if (out.module == 0) {
    // One light module at least stays round it; what the quiet zone lacks beyond the frame is light on most pages.
    const int most = std::max(1, shorter / (side + 2 * std::min(t.quiet, 1)));
    out.module = most >= sizeStep ? most / sizeStep * sizeStep : most;
  }
  Point middle = middleOf(t, frame);
  const double m = out.module, half = 0.5 * m * side;
  if (t.turn == 0 && t.lean == 0 && t.slant == 0) {
    const auto onStep = [&](double corner) {
      const int step = out.module >= sizeStep ? sizeStep : 1;
      return step * std::round((corner - half) / step) + half;
    };
    middle = {onStep(middle.x), onStep(middle.y)};
  }
  out.fromCode = laid ? Homography::ontoQuad(*laid).after(Homography({1.0 / side, 0, 0, 0, 1.0 / side, 0, 0, 0, 1}))
                      : planeInFrame(t, frame, middle).after(Homography({m, 0, -half, 0, m, -half, 0, 0, 1}));
  int beyond = 0;
  for (int y = 0; y < side; ++y)
    for (int x = 0; x < side; ++x) {
      const Point at{x + 0.5, y + 0.5}, in = out.fromCode(at);
      const bool seen =
          out.fromCode.weight(at) > 0 && in.x >= 0 && in.y >= 0 && in.x < frame.width && in.y < frame.height;
      beyond += seen ? 0 : 1;
    }
  out.outside = static_cast<double>(beyond) / (side * side);
  return out;
}

std::optional<double> periodOf(const PatternTuning& t, Size frame) {
  const double across = t.size / 100 * std::min(frame.width, frame.height);
  switch (t.what) {
    case What::spiral:
    case What::rings:
    case What::waves:
      return across / t.count;
    case What::checks:
      return 2 * across / t.count;
    default:
      return {};
  }
}

Quad cornersFrom(const std::string& text, Size frame) {
  Quad out;
  std::size_t read = 0;
  for (std::size_t from = 0; from < text.size();) {
    const std::size_t end = std::min(text.find_first_of(" ,;", from), text.size());
    if (end > from) {
      const auto number = numberFrom(std::string_view(text).substr(from, end - from));
      constexpr double farthest = 1000;  // percent: far outside of the frame
      if (!number || std::abs(*number) > farthest || read == 8) {
        read = 0;
        break;
      }
      Point& corner = out[read / 2];
      (read % 2 == 0 ? corner.x : corner.y) = *number / 100 * (read % 2 == 0 ? frame.width : frame.height);
      ++read;
    }
    from = end + 1;
  }
  if (read != 8) throw badInput("Corners are four places in percent of the frame, like 20,60 80,60 95,90 5,90.");
  // Turning the same way at each of them, and by more than nothing.
  int clockwise = 0, other = 0;
  for (std::size_t i = 0; i < 4; ++i) {
    const Point a = out[(i + 1) % 4] - out[i], b = out[(i + 2) % 4] - out[(i + 1) % 4];
    constexpr double leastArea = 2;  // square pixels
    const double turn = a.x * b.y - a.y * b.x;
    clockwise += turn > leastArea ? 1 : 0;
    other += turn < -leastArea ? 1 : 0;
  }
  if (clockwise != 4 && other != 4)
    throw badInput(
        "The corners have to lie round an area, one after the other: upper left, upper right, lower right, "
        "lower left.");
  return out;
}

std::string textOf(const Quad& corners, Size frame) {
  std::string out;
  for (const Point& p : corners)
    out += fmt::format("{}{:.2f},{:.2f}", out.empty() ? "" : " ", 100 * p.x / frame.width, 100 * p.y / frame.height);
  return out;
}

std::optional<Quad> outlineOf(const PatternTuning& t, Size frame) {
  if (t.what == What::picture) return {};
  try {
    if (t.what != What::code) {
      const double tall = tallnessOf(t);
      const Homography onto = shapeInFrame(t, frame, tall);
      return Quad{onto({-1, -tall}), onto({1, -tall}), onto({1, tall}), onto({-1, tall})};
    }
    const CodePlace placed = codePlaced(t, frame);
    const double side = placed.code.side();
    return Quad{placed.fromCode({0, 0}), placed.fromCode({side, 0}), placed.fromCode({side, side}),
                placed.fromCode({0, side})};
  } catch (const Problem&) {
    return {};
  }
}

Image<float> patternMap(const PatternTuning& t, Size frame, View<Rgb> picture, StopToken stop) {
  Image<float> out;
  if (t.what == What::code) {
    const auto placed = codePlaced(t, frame);
    constexpr int wellOverAPixel = 6;
    return sampled(frame, placed.fromCode.inverted(), placed.module >= wellOverAPixel, stop,
                   [&](Point p) { return codeAt(t, placed.code, p.x, p.y); });
  }
  if (t.what == What::picture) {
    if (picture.empty())
      out = Image<float>(frame.width, frame.height, static_cast<float>(nothing));
    else
      out = pictureParted(t, picture, stop);
  } else if (t.what == What::letters) {
    out = lettersLaid(t, frame, stop);
  } else {
    out = sampled(frame, shapeInFrame(t, frame, 1).inverted(), false, stop,
                  [&](Point p) { return shapeAt(t, p.x, p.y); });
  }
  if (t.swapped)
    for (int y = 0; y < out.height(); ++y)
      for (float& v : out.line(y)) v = 1 - v;
  return out;
}

float partingLevel(View<float> light) {
  constexpr int bins = 256;
  std::array<double, bins> histogram{};
  for (int y = 0; y < light.height(); ++y)
    for (const float v : light.line(y))
      ++histogram[static_cast<std::size_t>(std::clamp(v, 0.0f, 1.0f) * (bins - 1) + 0.5f)];
  double all = 0, sum = 0;
  for (int i = 0; i < bins; ++i) {
    all += histogram[static_cast<std::size_t>(i)];
    sum += i * histogram[static_cast<std::size_t>(i)];
  }
  double below = 0, sumBelow = 0, best = -1;
  int first = bins / 2, last = bins / 2;
  for (int i = 0; i + 1 < bins; ++i) {
    below += histogram[static_cast<std::size_t>(i)];
    sumBelow += i * histogram[static_cast<std::size_t>(i)];
    if (below <= 0 || below >= all) continue;
    const double apart = sumBelow / below - (sum - sumBelow) / (all - below);
    const double between = below * (all - below) * apart * apart;
    if (between > best * (1 + 1e-12)) {
      best = between;
      first = i;
    }
    if (between >= best * (1 - 1e-12)) last = i;
  }
  // Between two heaps with nothing in between every level parts them: the middle is taken.
  return (0.5f * static_cast<float>(first + last) + 0.5f) / (bins - 1);
}

}  // namespace hscaffold::pattern
