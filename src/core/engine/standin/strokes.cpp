// Gouache and oil: curved strokes in three sizes, large to small, each size only where the picture still differs from
// the plan (Hertzmann 1998); bristles leave streaks, thick paint catches the light.
#include <cmath>
#include <optional>

#include "core/engine/standin/flow.h"
#include "core/engine/standin/noise.h"
#include "core/engine/standin/painting.h"
#include "core/image/filter.h"
#include "core/image/parallel.h"

namespace hscaffold::standin {
namespace {

struct Point {
  float x, y;
};

struct Stroke {
  std::vector<Point> path;
  float radius = 0;
  OkLab colour;
  std::uint64_t seed = 0;
  float left = 0, top = 0, right = 0, bottom = 0;  ///< what it may touch
  NoisePatch streaks;                              ///< of the bristles, across and along; none for fine strokes
  bool fine = false;                               ///< too narrow to show bristles
};

float difference(OkLab a, OkLab b) {
  const float l = a.l - b.l, u = a.a - b.a, v = a.b - b.b;
  return std::sqrt(l * l + 2 * (u * u + v * v));
}

struct Layer {
  float radius;
  float threshold;  ///< how far the canvas may differ before a stroke is worth it
  int longest;      ///< segments
};

class StrokePainter {
 public:
  StrokePainter(const Plan& plan, bool oil, float roughness, std::uint64_t seed)
      : plan_(plan),
        oil_(oil),
        roughness_(roughness),
        seed_(seed),
        unitSize_(plan.place.unit()),
        canvas_(plan.colour.size()),
        height_(plan.colour.size()) {
    // A toned ground shows through between strokes.
    OkLab mean{0, 0, 0};
    const Image<OkLab>& all = plan.ofAll().colour;
    for (int y = 0; y < all.height(); y += 8)
      for (int x = 0; x < all.width(); x += 8) {
        const OkLab c = all(x, y);
        mean = {mean.l + c.l, mean.a + c.a, mean.b + c.b};
      }
    const auto samples = static_cast<float>(((all.height() + 7) / 8) * ((all.width() + 7) / 8));
    const OkLab toned{mean.l / samples * 0.85f, mean.a / samples, mean.b / samples};
    for (int y = 0; y < canvas_.height(); ++y) std::fill_n(canvas_.row(y), canvas_.width(), toned);
  }

  Image<Rgb> paint(const StopToken& stop) {
    const auto light = lightnessOf(plan_);
    flow_ = flowAlong(light, 5 * unitSize_, mixed(seed_, 1), plan_.course, plan_.place);
    const float bold = oil_ ? 1.15f : 1.0f;
    const Layer layers[] = {{17 * unitSize_ * bold, 0.0f, 7},
                            {7 * unitSize_ * bold, 0.055f, 8},
                            {3 * unitSize_ * bold, 0.040f, 8},
                            {1.5f * unitSize_, 0.045f, 8}};
    for (std::size_t i = 0; i < std::size(layers); ++i) {
      throwIfStopped(stop);
      addLayer(layers[i], i);
    }
    throwIfStopped(stop);
    return finished(light);
  }

 private:
  std::optional<Stroke> strokeFrom(int x0, int y0, const Layer& layer, std::uint64_t hash) const {
    Stroke stroke;
    stroke.radius = layer.radius * (0.8f + 0.4f * unit(mixed(hash, 1)));
    stroke.seed = hash;
    stroke.fine = stroke.radius < 3 * unitSize_;
    const OkLab wanted = plan_.colour(x0, y0);
    const float jitter = oil_ ? 1.3f : 1.0f;
    stroke.colour = {wanted.l + 0.020f * jitter * signedUnit(mixed(hash, 2)),
                     wanted.a + 0.010f * jitter * signedUnit(mixed(hash, 3)),
                     wanted.b + 0.012f * jitter * signedUnit(mixed(hash, 4))};
    auto x = static_cast<float>(x0), y = static_cast<float>(y0);
    Point last{0, 0};
    stroke.path.push_back({x, y});
    const float step = std::max(1.0f, stroke.radius * 0.9f);
    const int longest =
        std::max(1, static_cast<int>(static_cast<float>(layer.longest) * (1 - 0.8f * plan_.dab(x0, y0))));
    for (int i = 0; i < longest; ++i) {
      const int ix = std::clamp(static_cast<int>(x), 0, canvas_.width() - 1),
                iy = std::clamp(static_cast<int>(y), 0, canvas_.height() - 1);
      const OkLab here = plan_.colour(ix, iy);
      if (i > 1 && difference(here, canvas_(ix, iy)) < difference(here, stroke.colour)) break;
      Direction d = flow_(ix, iy);
      if (i == 0 && unit(mixed(hash, 5)) < 0.5f) d = {-d.x, -d.y};
      if (i > 0) {
        if (d.x * last.x + d.y * last.y < 0) d = {-d.x, -d.y};
        d = {0.6f * d.x + 0.4f * last.x, 0.6f * d.y + 0.4f * last.y};
        const float length = std::max(1e-3f, std::hypot(d.x, d.y));
        d = {d.x / length, d.y / length};
      }
      x += d.x * step;
      y += d.y * step;
      if (x < -step || y < -step || x > static_cast<float>(canvas_.width()) + step ||
          y > static_cast<float>(canvas_.height()) + step)
        break;
      last = {d.x, d.y};
      stroke.path.push_back({x, y});
    }
    stroke.left = stroke.right = stroke.path[0].x;
    stroke.top = stroke.bottom = stroke.path[0].y;
    for (const Point p : stroke.path) {
      stroke.left = std::min(stroke.left, p.x);
      stroke.right = std::max(stroke.right, p.x);
      stroke.top = std::min(stroke.top, p.y);
      stroke.bottom = std::max(stroke.bottom, p.y);
    }
    const float reach = stroke.radius + 1;
    if (!stroke.fine) {
      const float wide = 0.75f * reach / unitSize_;
      stroke.streaks = NoisePatch(hash, 31 - wide, 31 + wide, 0, 0.8f * static_cast<float>(stroke.path.size()));
    }
    stroke.left -= reach;
    stroke.top -= reach;
    stroke.right += reach;
    stroke.bottom += reach;
    return stroke;
  }

  void addLayer(const Layer& layer, std::size_t index) {
    // Strokes lie at the same places of the picture whatever its size, as far as its pixels allow.
    const float cell = std::max(2.0f, std::max(2.0f, std::floor(layer.radius / unitSize_ * 1.05f)) * unitSize_);
    // Cells are the whole picture's; of a part those are worked on that it shows.
    const auto firstOf = [cell](int from) { return static_cast<int>(static_cast<float>(from) / cell); };
    const auto endOf = [cell](int to) { return static_cast<int>(std::ceil(static_cast<float>(to) / cell)); };
    const auto begin = [cell](int number, int from, int length) {
      return std::clamp(static_cast<int>(std::ceil(static_cast<float>(number) * cell)) - from, 0, length);
    };
    const PartPlace& place = plan_.place;
    const int firstColumn = firstOf(place.left), firstRow = firstOf(place.top);
    const int columns = endOf(place.left + canvas_.width()) - firstColumn,
              rows = endOf(place.top + canvas_.height()) - firstRow;
    std::vector<std::optional<Stroke>> grid(static_cast<std::size_t>(columns) * static_cast<std::size_t>(rows));
    parallelRows(
        rows,
        [&](int first, int end) {
          for (int r = first; r < end; ++r) {
            for (int c = 0; c < columns; ++c) {
              float sum = 0, worst = -1;
              int wx = 0, wy = 0, count = 0;
              const int row = firstRow + r, column = firstColumn + c;
              const int endY = begin(row + 1, place.top, canvas_.height()),
                        endX = begin(column + 1, place.left, canvas_.width());
              for (int y = begin(row, place.top, canvas_.height()); y < endY; ++y)
                for (int x = begin(column, place.left, canvas_.width()); x < endX; ++x) {
                  const float error = difference(canvas_(x, y), plan_.colour(x, y));
                  sum += error;
                  ++count;
                  if (error > worst) {
                    worst = error;
                    wx = x;
                    wy = y;
                  }
                }
              const std::uint64_t hash =
                  mixed(seed_, index * 7919 + static_cast<std::uint64_t>(row), static_cast<std::uint64_t>(column));
              if (layer.threshold <= 0) {  // the first layer lies everywhere, from scattered places
                const auto scattered = [cell](int number, float share, int most) {
                  return std::min(most - 1, static_cast<int>((static_cast<float>(number) + share) * cell));
                };
                wx = scattered(column, unit(mixed(hash, 8)), place.whole.width) - place.left;
                wy = scattered(row, unit(mixed(hash, 9)), place.whole.height) - place.top;
                if (wx < 0 || wy < 0 || wx >= canvas_.width() || wy >= canvas_.height()) continue;
              } else if (count == 0 ||
                         sum / static_cast<float>(count) < layer.threshold * (1 - 0.3f * roughness_ * 0.5f)) {
                continue;
              }
              grid[static_cast<std::size_t>(r) * static_cast<std::size_t>(columns) + static_cast<std::size_t>(c)] =
                  strokeFrom(wx, wy, layer, hash);
            }
          }
        },
        2);
    std::vector<Stroke> strokes;
    for (auto& stroke : grid)
      if (stroke) strokes.push_back(std::move(*stroke));
    std::sort(strokes.begin(), strokes.end(), [](const Stroke& a, const Stroke& b) { return a.seed < b.seed; });
    // Bands of rows are painted side by side; within each, strokes lie in the same order.
    constexpr int band = 32;
    const int bands = (canvas_.height() + band - 1) / band;
    std::vector<std::vector<const Stroke*>> inBand(static_cast<std::size_t>(bands));
    for (const Stroke& stroke : strokes) {
      const int from = std::clamp(static_cast<int>(stroke.top) / band, 0, bands - 1);
      const int to = std::clamp(static_cast<int>(stroke.bottom) / band, 0, bands - 1);
      for (int b = from; b <= to; ++b) inBand[static_cast<std::size_t>(b)].push_back(&stroke);
    }
    parallelRows(
        bands,
        [&](int first, int end) {
          for (int b = first; b < end; ++b)
            for (const Stroke* stroke : inBand[static_cast<std::size_t>(b)])
              lay(*stroke, b * band, std::min(canvas_.height(), (b + 1) * band));
        },
        1);
  }

  static constexpr std::size_t longestPath = 12;
  /// A straight piece of a stroke, with where it can reach.
  struct Piece {
    float x = 0, y = 0, dx = 0, dy = 0, perSquare = 0, number = 0, left = 0, right = 0, top = 0, bottom = 0;
    Piece() = default;
    Piece(Point a, Point b, float index, float reach)
        : x(a.x),
          y(a.y),
          dx(b.x - a.x),
          dy(b.y - a.y),
          number(index),
          left(std::min(a.x, b.x) - reach),
          right(std::max(a.x, b.x) + reach),
          top(std::min(a.y, b.y) - reach),
          bottom(std::max(a.y, b.y) + reach) {
      const float squared = dx * dx + dy * dy;
      perSquare = squared > 0 ? 1 / squared : 0;
    }
  };

  void lay(const Stroke& stroke, int rowFirst, int rowEnd) {
    const int x0 = std::max(0, static_cast<int>(stroke.left)),
              x1 = std::min(canvas_.width(), static_cast<int>(stroke.right) + 1);
    const int y0 = std::max(rowFirst, static_cast<int>(stroke.top)),
              y1 = std::min(rowEnd, static_cast<int>(stroke.bottom) + 1);
    const auto segments = static_cast<float>(stroke.path.size());
    // A piece further away than the brush is wide cannot be the nearest of a pixel that is painted.
    const float reach = stroke.radius + 0.51f;
    std::array<Piece, longestPath> pieces;
    const std::size_t count = std::max<std::size_t>(1, stroke.path.size() - 1);
    for (std::size_t i = 0; i < count; ++i)
      pieces[i] =
          Piece(stroke.path[i], stroke.path[std::min(i + 1, stroke.path.size() - 1)], static_cast<float>(i), reach);
    std::array<const Piece*, longestPath> near;
    for (int y = y0; y < y1; ++y) {
      const auto py = static_cast<float>(y);
      std::size_t nears = 0;
      float left = 1e9f, right = -1e9f;
      for (std::size_t i = 0; i < count; ++i)
        if (py >= pieces[i].top && py <= pieces[i].bottom) {
          near[nears++] = &pieces[i];
          left = std::min(left, pieces[i].left);
          right = std::max(right, pieces[i].right);
        }
      if (nears == 0) continue;
      const int from = std::max(x0, static_cast<int>(std::floor(left))),
                to = std::min(x1, static_cast<int>(std::ceil(right)) + 1);
      for (int x = from; x < to; x += Run::length) {
        const int end = std::min(to, x + Run::length);
        Run run;
        for (std::size_t i = 0; i < nears; ++i) run.take(*near[i], x, end, py);
        run.cover(end - x, stroke.radius, segments);
        layRun(stroke, run, x, end, y);
      }
    }
  }

  /// Some pixels of a row and how a stroke goes over them: plain loops over arrays, which compilers turn into vectors.
  struct Run {
    static constexpr int length = 64;
    std::array<float, length> nearest, side, along, radius, covered;
    Run() {
      nearest.fill(1e9f);
      side.fill(0);
      along.fill(0);
    }
    /// The nearest place of a piece where it is nearer than what was taken before.
    void take(const Piece& p, int first, int end, float py) {
      const int from = std::max(first, static_cast<int>(std::ceil(p.left))),
                to = std::min(end, static_cast<int>(std::floor(p.right)) + 1);
      const float qy = py - p.y;
      for (int x = from; x < to; ++x) {
        const auto k = static_cast<std::size_t>(x - first);
        const float qx = static_cast<float>(x) - p.x;
        const float t = std::min(std::max((qx * p.dx + qy * p.dy) * p.perSquare, 0.0f), 1.0f);
        const float ox = qx - t * p.dx, oy = qy - t * p.dy, distance = ox * ox + oy * oy;
        const bool closer = distance < nearest[k];
        nearest[k] = closer ? distance : nearest[k];
        side[k] = closer ? (p.dx * oy - p.dy * ox > 0 ? 1.0f : -1.0f) : side[k];
        along[k] = closer ? p.number + t : along[k];
      }
    }
    /// Distances instead of their squares, and how far the brush covers each pixel.
    void cover(int count, float broad, float segments) {
      for (std::size_t k = 0; k < static_cast<std::size_t>(count); ++k) {
        nearest[k] = std::sqrt(nearest[k]);
        // Narrower towards the end, where the brush lifts.
        radius[k] = broad * (1 - 0.35f * along[k] / segments);
        covered[k] = std::min(std::max(radius[k] - nearest[k] + 0.5f, 0.0f), 1.0f);
      }
    }
  };

  void layRun(const Stroke& stroke, const Run& run, int first, int end, int y) {
    const float opacity = oil_ ? 0.93f : 0.88f;
    const float bristles = oil_ ? 0.9f : 0.45f;
    const bool fine = stroke.fine;
    const float perUnit = 0.75f / unitSize_;
    const auto segments = static_cast<float>(stroke.path.size());
    OkLab* colours = canvas_.row(y);
    float* heights = height_.row(y);
    for (int x = first; x < end; ++x) {
      const auto k = static_cast<std::size_t>(x - first);
      const float cover = run.covered[k];
      if (cover <= 0) continue;
      const float nearest = run.nearest[k], along = run.along[k], radius = run.radius[k];
      float streak = 0;
      if (!fine) {
        streak = stroke.streaks.at(run.side[k] * nearest * perUnit + 31, along * 0.8f);
        const float dry = smoothStep(0.55f, 1.0f, along / segments) * bristles;
        const float rim = nearest / radius;
        if (streak < -1.1f + 1.1f * dry + 0.35f * rim * bristles) continue;
      }
      const float alpha = cover * opacity;
      OkLab& c = colours[x];
      const float light = stroke.colour.l + (fine ? 0 : 0.016f * bristles * streak);
      c = {blend(c.l, light, alpha), blend(c.a, stroke.colour.a, alpha), blend(c.b, stroke.colour.b, alpha)};
      float& h = heights[x];
      h = blend(h, 0.6f + 0.4f * streak - 0.35f * nearest / radius, alpha * 0.8f);
    }
  }

  /// Outlines, light on the relief of the paint, and colour.
  Image<Rgb> finished(View<float> light) const {
    Image<Rgb> out(canvas_.size());
    // Whether a line is dark or light follows from what it lies on as a whole, or it would break into dashes.
    const auto around = broadBlur(light, 2.5f * unitSize_);
    const float slow = 23 * unitSize_;
    const float relief = (oil_ ? 0.075f : 0.022f) / std::max(1.0f, unitSize_);
    const auto h = height_.view();
    parallelRows(out.height(), [&](int first, int end) {
      NoiseWalk pressures(seed_ ^ 77);
      PaperGrain paperGrain(seed_ ^ 99);
      for (int y = first; y < end; ++y) {
        for (int x = 0; x < out.width(); ++x) {
          OkLab c = canvas_(x, y);
          const float slope = (h.clamped(x + 1, y) - h.clamped(x - 1, y)) * plan_.lightX +
                              (h.clamped(x, y + 1) - h.clamped(x, y - 1)) * plan_.lightY;
          c.l += relief * slope;
          // A drawn line: dark on light, light on dark, uneven as from a brush.
          const float pressure = 0.75f + 0.25f * pressures.at(plan_.place.x(x) / slow, plan_.place.y(y) / slow);
          const float line = std::min(1.0f, plan_.line(x, y) * 1.15f) * pressure;
          const float deep = burntIn(plan_.line(x, y));
          const float goal = around(x, y) > 0.36f ? c.l * blend(0.42f, 0.1f, deep) : c.l + blend(0.34f, 0.52f, deep);
          c = {blend(c.l, goal, blend(0.8f, 0.95f, deep) * line), c.a * (1 - 0.25f * line), c.b * (1 - 0.25f * line)};
          if (!oil_) c.l += 0.022f * (paperGrain.at(plan_.place.x(x), plan_.place.y(y)) - 0.5f);
          out(x, y) = okLabToLinearInGamut(c);
        }
      }
    });
    return out;
  }

  const Plan& plan_;
  bool oil_;
  float roughness_;
  std::uint64_t seed_;
  float unitSize_;  ///< pixels, where a frame of 768 has one
  Image<OkLab> canvas_;
  Image<float> height_;
  Image<Direction> flow_;
};

}  // namespace

Image<Rgb> paintedInStrokes(const Plan& plan, bool oil, float roughness, std::uint64_t seed, StopToken stop) {
  return StrokePainter(plan, oil, std::clamp(roughness, -1.0f, 1.0f), seed).paint(stop);
}

}  // namespace hscaffold::standin
