// What the light table does to a picture.
#include <cmath>
#include <numbers>

#include "core/image/eased.h"
#include "core/image/filter.h"
#include "core/image/parallel.h"
#include "core/retouch/painter.h"
#include "core/tone/light_table.h"

namespace hscaffold::light {
namespace {

template <typename At>
void fill(Image<float>& out, const StopToken& stop, At&& at) {
  throwIfStopped(stop);
  parallelRows(out.height(), [&](int first, int end) {
    for (int y = first; y < end; ++y) {
      float* row = out.row(y);
      for (int x = 0; x < out.width(); ++x) row[x] = at(Point{x + 0.5, y + 0.5});
    }
  });
}

/// Places so close to each other that the brush does not show it are left out.
std::vector<Point> thinned(const std::vector<Point>& spots, double width) {
  const double least = std::max(0.75, 0.06 * width);
  std::vector<Point> out{spots.front()};
  for (std::size_t i = 1; i + 1 < spots.size(); ++i)
    if (distanceBetween(out.back(), spots[i]) >= least) out.push_back(spots[i]);
  if (spots.size() > 1) out.push_back(spots.back());
  return out;
}

/// How nearness at a place of the frame is read.
class NearAt {
 public:
  NearAt(const Relief* relief, Size frame) : relief_(relief) {
    if (relief == nullptr || relief->near.empty()) {
      relief_ = nullptr;
      return;
    }
    across_ = static_cast<double>(relief->near.width()) / frame.width;
    down_ = static_cast<double>(relief->near.height()) / frame.height;
  }
  [[nodiscard]] bool known() const { return relief_ != nullptr; }
  /// Below 0: not known.
  float operator()(Point at) const { return nearAt(relief_->near, at.x * across_, at.y * down_); }

 private:
  const Relief* relief_;
  double across_ = 1, down_ = 1;
};

void coverRays(Image<float>& out, const Light& light, const Relief* relief, const StopToken& stop) {
  const Point origin = light.spots[0], along = normalised(light.spots[1] - origin);
  const double length = std::max(1.0, distanceBetween(origin, light.spots[1]));
  const double breadth = light.spread / 100 * std::max(out.width(), out.height());
  const double centre = std::atan2(along.y, along.x), spread = light.spread * degree;
  const double soft = 0.06 + 0.44 * light.softness;
  const NearAt near(light.nearest < 1 ? relief : nullptr, out.size());
  // No ray is quite like the next.
  std::vector<float> strength(static_cast<std::size_t>(light.count));
  for (std::size_t i = 0; i < strength.size(); ++i)
    strength[i] = 0.8f + 0.2f * static_cast<float>(std::sin(12.9898 * static_cast<double>(i + 1)));
  fill(out, stop, [&](Point p) {
    const Point from = p - origin;
    const double away = light.aside ? dot(from, along) : lengthOf(from);
    if (light.aside && away < 0) return 0.0f;
    const double share = light.aside
                             ? (along.x * from.y - along.y * from.x) / breadth
                             : std::remainder(std::atan2(from.y, from.x) - centre, 2 * std::numbers::pi) / spread;
    const double at = (share + 0.5) * light.count;
    if (at <= 0 || at >= light.count) return 0.0f;
    const double beside = 2 * std::abs(at - std::floor(at) - 0.5);  // 0 in the middle of a ray, 1 between two
    float cover = easedStep(0.5 + soft, 0.5 - soft, beside) * strength[static_cast<std::size_t>(at)] *
                  static_cast<float>(std::exp(-0.6 * away / length));
    if (near.known()) {
      const float here = near(p);
      if (here >= 0) cover *= easedStep(light.nearest + 0.04, light.nearest - 0.04, static_cast<double>(here));
    }
    return cover;
  });
}

Image<float> coverOfOutline(const Light& light, Size frame) {
  const auto mask = polygonMask(light.spots, frame);
  Image<float> out(frame);
  for (int y = 0; y < frame.height; ++y)
    std::transform(mask.row(y), mask.row(y) + frame.width, out.row(y),
                   [](std::uint16_t v) { return static_cast<float>(v) / 65535.0f; });
  const double blur = 0.05 * light.softness * std::max(frame.width, frame.height);
  return blur < 0.3 ? std::move(out) : broadBlur(out.view(), static_cast<float>(blur));
}

OkLab inHue(const Hue& hue) {
  return {0, static_cast<float>(hue.chroma * std::cos(hue.angle * degree)),
          static_cast<float>(hue.chroma * std::sin(hue.angle * degree))};
}

/// Shadow multiplies, light screens.
float lit(float value, float by) { return by < 0 ? value * (1 + by) : value + (1 - value) * by; }

/// Grey that can take colour.
void takeColour(Lit& picture) {
  if (!picture.a.empty()) return;
  picture.a = Image<float>(picture.light.size());
  picture.b = Image<float>(picture.light.size());
}

void layOn(Lit& picture, const Light& light, const Image<float>& cover) {
  const Size size = picture.light.size();
  const bool gradient = light.form == Light::Form::straight;
  const bool hued = light.hue || (gradient && light.endHue);
  if (hued) takeColour(picture);
  const auto opacity = static_cast<float>(light.opacity);
  const OkLab from = inHue(light.hue.value_or(Hue{})), to = inHue(light.endHue.value_or(Hue{}));
  const float fromShare = light.hue ? 1 : 0, toShare = gradient && light.endHue ? 1 : 0;
  const auto fromLight = static_cast<float>(light.light), toLight = static_cast<float>(light.endLight);
  parallelRows(size.height, [&](int first, int end) {
    for (int y = first; y < end; ++y)
      for (int x = 0; x < size.width; ++x) {
        const float c = cover(x, y);
        if (!gradient && c <= 0) continue;
        float& value = picture.light(x, y);
        value = lit(value, opacity * (gradient ? fromLight + c * (toLight - fromLight) : c * fromLight));
        if (!hued) continue;
        // What has no hue of its own leaves the colour that is there.
        const float fromHere = fromShare * (gradient ? 1 - c : c), toHere = gradient ? toShare * c : 0;
        const float share = opacity * (fromHere + toHere);
        float &a = picture.a(x, y), &b = picture.b(x, y);
        a = a * (1 - share) + opacity * (fromHere * from.a + toHere * to.a);
        b = b * (1 - share) + opacity * (fromHere * from.b + toHere * to.b);
      }
  });
}

/// How much more or less light than an even surface each place of the relief takes (Lambert 1760), as the exponent of
/// grading has it.
Image<float> relightOf(const Relief& relief, const LightTable& table) {
  constexpr double deep = 0.35;       // of the longer side, from the farthest to the nearest
  constexpr double everywhere = 0.3;  // light that comes from all sides
  auto near = relief.near.clone();
  for (int y = 0; y < near.height(); ++y)
    for (float& v : near.line(y)) v = std::max(v, 0.0f);
  near = gaussianBlur(near.view(), 1.2f);
  const double scale = deep * std::max(near.width(), near.height());
  const double rise = table.height * degree, turn = table.from * degree;
  const double lx = std::cos(rise) * std::cos(turn), ly = std::cos(rise) * std::sin(turn), lz = std::sin(rise);
  Image<float> out(near.size());
  for (int y = 0; y < out.height(); ++y)
    for (int x = 0; x < out.width(); ++x) {
      const int left = std::max(x - 1, 0), right = std::min(x + 1, out.width() - 1);
      const int above = std::max(y - 1, 0), below = std::min(y + 1, out.height() - 1);
      const double gx = scale * static_cast<double>(near(right, y) - near(left, y)) / std::max(1, right - left);
      const double gy = scale * static_cast<double>(near(x, below) - near(x, above)) / std::max(1, below - above);
      // Where it leaps, one thing ends and another begins: that is no slope.
      constexpr double steepest = 2;
      const double steep = (gx * gx + gy * gy) / (steepest * steepest), slope = 1 / (1 + steep * steep);
      const double sx = slope * gx, sy = slope * gy;
      const double towards = (-sx * lx - sy * ly + lz) / std::sqrt(sx * sx + sy * sy + 1);
      const double ratio = everywhere + (1 - everywhere) * std::max(0.0, towards) / lz;
      constexpr double grading = 1 / 2.2;
      out(x, y) = static_cast<float>(std::pow(std::clamp(ratio, 0.1, 3.0), grading * table.relight));
    }
  return out;
}

/// Whether all that covers are drawn from is the same.
bool coversAlike(const Light& a, const Light& b) {
  return a.form == b.form && a.spots == b.spots && a.softness == b.softness && a.count == b.count &&
         a.spread == b.spread && a.aside == b.aside && a.nearest == b.nearest;
}

}  // namespace

void paintStroke(MutableView<float> cover, const Stroke& stroke) {
  if (stroke.spots.empty() || cover.empty()) return;
  const auto spots = thinned(stroke.spots, stroke.width);
  const double radius = std::max(0.5, stroke.width / 2);
  const double inner = radius * (1 - stroke.softness), outer = radius + 0.5;
  Point least = spots.front(), most = spots.front();
  for (const Point& spot : spots) {
    least = {std::min(least.x, spot.x), std::min(least.y, spot.y)};
    most = {std::max(most.x, spot.x), std::max(most.y, spot.y)};
  }
  const auto bound = [](double v, int end) { return static_cast<int>(std::clamp(v, 0.0, static_cast<double>(end))); };
  const int left = bound(std::floor(least.x - outer), cover.width()),
            right = bound(std::ceil(most.x + outer) + 1, cover.width()),
            top = bound(std::floor(least.y - outer), cover.height()),
            bottom = bound(std::ceil(most.y + outer) + 1, cover.height());
  if (left >= right || top >= bottom) return;
  // The squared distance to the stroke, as far as it reaches.
  const auto reach = static_cast<float>(outer * outer);
  Image<float> away(right - left, bottom - top, reach);
  parallelRows(away.height(), [&](int first, int end) {
    for (std::size_t i = 0; i < spots.size(); ++i) {
      const Point a = spots[i], b = spots[std::min(i + 1, spots.size() - 1)];
      if (i + 1 == spots.size() && i > 0) break;
      const Point along = b - a;
      const double squared = dot(along, along);
      const int fromY = std::max(first, bound(std::floor(std::min(a.y, b.y) - outer) - top, away.height())),
                toY = std::min(end, bound(std::ceil(std::max(a.y, b.y) + outer) + 1 - top, away.height()));
      const int fromX = bound(std::floor(std::min(a.x, b.x) - outer) - left, away.width()),
                toX = bound(std::ceil(std::max(a.x, b.x) + outer) + 1 - left, away.width());
      for (int y = fromY; y < toY; ++y)
        for (int x = fromX; x < toX; ++x) {
          const Point p{x + left + 0.5 - a.x, y + top + 0.5 - a.y};
          const double t = squared > 0 ? std::clamp(dot(p, along) / squared, 0.0, 1.0) : 0;
          const double dx = p.x - t * along.x, dy = p.y - t * along.y;
          away(x, y) = std::min(away(x, y), static_cast<float>(dx * dx + dy * dy));
        }
    }
    const auto strength = static_cast<float>(stroke.strength);
    for (int y = first; y < end; ++y)
      for (int x = 0; x < away.width(); ++x) {
        if (away(x, y) >= reach) continue;
        const double d = std::sqrt(static_cast<double>(away(x, y)));
        const float s = strength * (d <= inner ? 1.0f : easedStep(outer, inner, d));
        float& c = cover(x + left, y + top);
        c = stroke.away ? c * (1 - s) : c + (1 - c) * s;
      }
  });
}

Image<float> coverOf(const Light& light, Size frame, const Relief* relief, StopToken stop) {
  Image<float> out(frame);
  if (light.spots.size() < leastSpots(light.form)) return out;
  switch (light.form) {
    case Light::Form::brush:
      for (const Stroke& stroke : light.strokes) {
        throwIfStopped(stop);
        paintStroke(out.view(), stroke);
      }
      break;
    case Light::Form::straight: {
      const Point from = light.spots[0], along = light.spots[1] - from;
      const double squared = std::max(1e-6, dot(along, along));
      fill(out, stop, [&](Point p) { return easedStep(0, 1, dot(p - from, along) / squared); });
      break;
    }
    case Light::Form::round: {
      const double radius = std::max(0.5, distanceBetween(light.spots[0], light.spots[1]));
      const double inner = radius * (1 - light.softness), outer = radius + 0.5;
      fill(out, stop, [&](Point p) { return easedStep(outer, inner, distanceBetween(p, light.spots[0])); });
      break;
    }
    case Light::Form::rays:
      coverRays(out, light, relief, stop);
      break;
    case Light::Form::flat:
      throwIfStopped(stop);
      out = coverOfOutline(light, frame);
      break;
  }
  return out;
}

std::shared_ptr<const Image<float>> KeptCovers::of(const Light& light, Size frame,
                                                   const std::shared_ptr<const Relief>& piece, const Relief* relief,
                                                   StopToken stop) {
  if (frame != frame_ || piece != piece_) entries_.clear();
  frame_ = frame;
  piece_ = piece;
  // The one that has most of its strokes: what a brush adds is painted over that.
  std::size_t best = entries_.size();
  for (std::size_t i = 0; i < entries_.size(); ++i) {
    const auto& strokes = entries_[i].light.strokes;
    if (!coversAlike(entries_[i].light, light) || strokes.size() > light.strokes.size() ||
        !std::equal(strokes.begin(), strokes.end(), light.strokes.begin()))
      continue;
    if (best == entries_.size() || strokes.size() > entries_[best].light.strokes.size()) best = i;
  }
  std::shared_ptr<const Image<float>> cover;
  if (best < entries_.size()) {
    Entry found = entries_[best];
    std::rotate(entries_.begin() + static_cast<std::ptrdiff_t>(best),
                entries_.begin() + static_cast<std::ptrdiff_t>(best) + 1, entries_.end());
    if (found.light.strokes.size() == light.strokes.size()) return found.cover;
    auto more = found.cover->clone();
    for (std::size_t i = found.light.strokes.size(); i < light.strokes.size(); ++i) {
      throwIfStopped(stop);
      paintStroke(more.view(), light.strokes[i]);
    }
    cover = std::make_shared<const Image<float>>(std::move(more));
  } else {
    cover = std::make_shared<const Image<float>>(coverOf(light, frame, relief, stop));
  }
  entries_.push_back({light, cover});
  if (entries_.size() > most) entries_.erase(entries_.begin());
  return cover;
}

void layLights(Lit& picture, const LightTable& table, const Relief* relief, StopToken stop, KeptCovers* covers,
               const std::shared_ptr<const Relief>& piece) {
  const Size size = picture.light.size();
  if (picture.light.empty()) return;
  KeptCovers own;
  if (covers == nullptr) covers = &own;
  if (table.relight > 0 && relief != nullptr && !relief->near.empty()) {
    const auto by = relightOf(*relief, table);
    const auto sx = static_cast<float>(by.width()) / static_cast<float>(size.width),
               sy = static_cast<float>(by.height()) / static_cast<float>(size.height);
    parallelRows(size.height, [&](int first, int end) {
      for (int y = first; y < end; ++y)
        for (int x = 0; x < size.width; ++x) {
          float& value = picture.light(x, y);
          value = std::min(1.0f, value * sampleLinear(by.view(), (static_cast<float>(x) + 0.5f) * sx,
                                                      (static_cast<float>(y) + 0.5f) * sy));
        }
    });
  }
  for (const Light& light : table.lights)
    if (!light.hidden && light.opacity > 0) layOn(picture, light, *covers->of(light, size, piece, relief, stop));
  throwIfStopped(stop);
  if (table.tint <= 0) return;
  takeColour(picture);
  const auto share = static_cast<float>(table.tint);
  const OkLab inLight = inHue(table.inLight), inShadow = inHue(table.inShadow);
  parallelRows(size.height, [&](int first, int end) {
    for (int y = first; y < end; ++y)
      for (int x = 0; x < size.width; ++x) {
        const float t = easedStep(0.25, 0.75, static_cast<double>(picture.light(x, y)));
        float &a = picture.a(x, y), &b = picture.b(x, y);
        a += share * (inShadow.a + t * (inLight.a - inShadow.a));
        b += share * (inShadow.b + t * (inLight.b - inShadow.b));
      }
  });
}

}  // namespace hscaffold::light
