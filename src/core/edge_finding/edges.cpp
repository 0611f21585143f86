// From edge points to maps: hysteresis, shortest length, gaps, drawing. See edges.h.
#include "core/edge_finding/edges.h"

#include <array>
#include <cmath>
#include <limits>

#include "core/image/parallel.h"

namespace hscaffold {
namespace {

constexpr std::uint8_t weak = 1, edge = 255;
constexpr std::array<std::array<int, 2>, 8> around = {
    {{1, 0}, {1, 1}, {0, 1}, {-1, 1}, {-1, 0}, {-1, -1}, {0, -1}, {1, -1}}};

struct Pixel {
  std::int32_t x, y;
};

/// Makes every weak pixel that touches an edge pixel an edge, within rows [first, end).
void grow(Image<std::uint8_t>& map, std::vector<Pixel>& open, int first, int end) {
  while (!open.empty()) {
    const Pixel p = open.back();
    open.pop_back();
    for (const auto& [dx, dy] : around) {
      const int x = p.x + dx, y = p.y + dy;
      if (x < 0 || y < first || x >= map.width() || y >= end || map(x, y) != weak) continue;
      map(x, y) = edge;
      open.push_back({x, y});
    }
  }
}

Image<std::uint8_t> hysteresis(const EdgeField& field, ThresholdPair thresholds) {
  Image<std::uint8_t> map(field.size);
  const auto low = static_cast<float>(thresholds.low), high = static_cast<float>(thresholds.high);
  // Halves grow on their own; then growth goes on across the seams.
  constexpr int strip = 256;
  const int strips = (field.size.height + strip - 1) / strip;
  std::vector<std::vector<Pixel>> waiting(static_cast<std::size_t>(strips));  // weak ones, most of which stay so
  parallelRows(
      strips,
      [&](int firstStrip, int endStrip) {
        std::vector<Pixel> open;
        for (int s = firstStrip; s < endStrip; ++s) {
          const int y0 = s * strip, y1 = std::min(field.size.height, y0 + strip);
          for (int y = y0; y < y1; ++y) {
            for (const EdgePoint& point : field.row(y)) {
              if (point.strength < low) continue;
              const bool strong = point.strength >= high;
              map(point.x, y) = strong ? edge : weak;
              (strong ? open : waiting[static_cast<std::size_t>(s)]).push_back({point.x, y});
            }
          }
          grow(map, open, y0, y1);
        }
      },
      1);
  std::vector<Pixel> open;
  for (int s = 1; s < strips; ++s)
    for (int y = s * strip - 1; y <= s * strip && y < field.size.height; ++y)
      for (int x = 0; x < field.size.width; ++x)
        if (map(x, y) == edge) open.push_back({x, y});
  grow(map, open, 0, field.size.height);
  for (const auto& weakOnes : waiting)
    for (const Pixel p : weakOnes)
      if (auto& pixel = map(p.x, p.y); pixel == weak) pixel = 0;
  return map;
}

/// Calls `visit` with the pixels of each connected piece, which may clear them.
template <typename Visit>
void eachPiece(Image<std::uint8_t>& map, Visit&& visit) {
  constexpr std::uint8_t seen = 254;
  std::vector<Pixel> piece;
  for (int y = 0; y < map.height(); ++y) {
    for (int x = 0; x < map.width(); ++x) {
      if (map(x, y) != edge) continue;
      piece.assign(1, {x, y});
      map(x, y) = seen;
      for (std::size_t next = 0; next < piece.size(); ++next) {
        for (const auto& [dx, dy] : around) {
          const int nx = piece[next].x + dx, ny = piece[next].y + dy;
          if (nx < 0 || ny < 0 || nx >= map.width() || ny >= map.height() || map(nx, ny) != edge) continue;
          map(nx, ny) = seen;
          piece.push_back({nx, ny});
        }
      }
      visit(piece);
    }
  }
  for (int y = 0; y < map.height(); ++y)
    for (auto& pixel : map.line(y)) pixel = pixel == seen ? edge : pixel;
}

void dropShort(Image<std::uint8_t>& map, int shortest) {
  if (shortest <= 1) return;
  eachPiece(map, [&](const std::vector<Pixel>& piece) {
    if (piece.size() < static_cast<std::size_t>(shortest))
      for (const Pixel p : piece) map(p.x, p.y) = 0;
  });
}

/// Where an edge ends, and the direction in which it would go on.
struct LooseEnd {
  Pixel at;
  double dx, dy;
};

std::vector<LooseEnd> looseEnds(const Image<std::uint8_t>& map, const EdgeField& field) {
  std::vector<LooseEnd> ends;
  const auto isEdge = [&](int x, int y) {
    return x >= 0 && y >= 0 && x < map.width() && y < map.height() && map(x, y) == edge;
  };
  for (int y = 0; y < map.height(); ++y) {
    for (const EdgePoint& point : field.row(y)) {
      const int x = point.x;
      if (map(x, y) != edge) continue;
      int runs = 0;
      for (std::size_t k = 0; k < 8; ++k) {
        const auto& [ax, ay] = around[k];
        const auto& [bx, by] = around[(k + 1) % 8];
        runs += !isEdge(x + ax, y + ay) && isEdge(x + bx, y + by) ? 1 : 0;
      }
      if (runs != 1) continue;
      // Six pixels back along the edge give its direction.
      std::vector<Pixel> trail{{x, y}};
      while (trail.size() < 7) {
        const Pixel p = trail.back();
        bool moved = false;
        for (const auto& [dx, dy] : around) {
          const Pixel q{p.x + dx, p.y + dy};
          const auto beside = [&](const Pixel& t) { return t.x == q.x && t.y == q.y; };
          if (!isEdge(q.x, q.y) || std::any_of(trail.begin(), trail.end(), beside)) continue;
          trail.push_back(q);
          moved = true;
          break;
        }
        if (!moved) break;
      }
      const double dx = x - trail.back().x, dy = y - trail.back().y, length = std::hypot(dx, dy);
      if (length >= 2) ends.push_back({{x, y}, dx / length, dy / length});
    }
  }
  return ends;
}

void closeGaps(Image<std::uint8_t>& map, const EdgeField& field, int widest, const StopToken& stop) {
  if (widest <= 0) return;
  const auto before = map.clone();
  for (const LooseEnd& end : looseEnds(map, field)) {
    throwIfStopped(stop);
    // The nearest edge pixel ahead, within 35 degrees of the edge's own direction.
    double best = std::numeric_limits<double>::max();
    Pixel goal{-1, -1};
    for (int dy = -widest; dy <= widest; ++dy) {
      for (int dx = -widest; dx <= widest; ++dx) {
        const double distance = std::hypot(dx, dy), along = dx * end.dx + dy * end.dy;
        const int x = end.at.x + dx, y = end.at.y + dy;
        if (distance < 2 || distance > widest + 1 || along < 0.82 * distance) continue;
        if (x < 0 || y < 0 || x >= map.width() || y >= map.height() || before(x, y) != edge) continue;
        const double cost = distance + 2 * (distance - along);
        if (cost < best) {
          best = cost;
          goal = {x, y};
        }
      }
    }
    if (goal.x < 0) continue;
    const int count = std::max(std::abs(goal.x - end.at.x), std::abs(goal.y - end.at.y));
    for (int i = 1; i < count; ++i) {
      const double t = static_cast<double>(i) / count;
      map(static_cast<int>(std::lround(end.at.x + t * (goal.x - end.at.x))),
          static_cast<int>(std::lround(end.at.y + t * (goal.y - end.at.y)))) = edge;
    }
  }
}

double distanceToSegment(double px, double py, double ax, double ay, double bx, double by) {
  const double dx = bx - ax, dy = by - ay, squared = dx * dx + dy * dy;
  const double t = squared > 0 ? std::clamp(((px - ax) * dx + (py - ay) * dy) / squared, 0.0, 1.0) : 0;
  return std::hypot(px - ax - t * dx, py - ay - t * dy);
}

/// Lines of a width, anti-aliased, through the sub-pixel places of the edge.
Image<std::uint8_t> drawnWide(const Image<std::uint8_t>& map, const EdgeField& field, double width) {
  struct Place {
    float x, y;
  };
  Image<Place> places(map.width(), map.height(), Place{0.5f, 0.5f});
  for (int y = 0; y < map.height(); ++y)
    for (const EdgePoint& point : field.row(y)) places(point.x, y) = {0.5f + point.shiftX, 0.5f + point.shiftY};
  Image<std::uint8_t> out(map.size());
  const double reach = width / 2 + 0.5;
  const auto segment = [&](double ax, double ay, double bx, double by) {
    const int x0 = std::max(0, static_cast<int>(std::floor(std::min(ax, bx) - reach)));
    const int x1 = std::min(map.width() - 1, static_cast<int>(std::ceil(std::max(ax, bx) + reach)));
    const int y0 = std::max(0, static_cast<int>(std::floor(std::min(ay, by) - reach)));
    const int y1 = std::min(map.height() - 1, static_cast<int>(std::ceil(std::max(ay, by) + reach)));
    for (int y = y0; y <= y1; ++y)
      for (int x = x0; x <= x1; ++x) {
        const double cover = std::clamp(reach - distanceToSegment(x + 0.5, y + 0.5, ax, ay, bx, by), 0.0, 1.0);
        out(x, y) = std::max(out(x, y), static_cast<std::uint8_t>(std::lround(cover * 255)));
      }
  };
  for (int y = 0; y < map.height(); ++y) {
    for (int x = 0; x < map.width(); ++x) {
      if (map(x, y) != edge) continue;
      const double ax = x + static_cast<double>(places(x, y).x), ay = y + static_cast<double>(places(x, y).y);
      bool alone = true;
      for (const auto& [dx, dy] : around) {
        const int nx = x + dx, ny = y + dy;
        if (nx < 0 || ny < 0 || nx >= map.width() || ny >= map.height() || map(nx, ny) != edge) continue;
        alone = false;
        if (dy > 0 || (dy == 0 && dx > 0))
          segment(ax, ay, nx + static_cast<double>(places(nx, ny).x), ny + static_cast<double>(places(nx, ny).y));
      }
      if (alone) segment(ax, ay, ax, ay);
    }
  }
  return out;
}

/// For one map, nothing below fixed thresholds is needed.
EdgeFieldUse fieldUseFor(const EdgeTuning& tuning) {
  if (tuning.thresholds != EdgeThresholds::magnitude) return {};
  return {std::min(tuning.low, tuning.high), false};
}

}  // namespace

const TuningFields& edgeTuningFields() {
  static const TuningFields fields = {
      {"gradient",
       "Follows",
       "",
       0,
       1,
       0,
       1,
       0,
       {"luminance", "colour"},
       "Whether edges are sought in lightness alone or in colour too."},
      {"blur", "Blur", "px", 0.5, 8, 1.4, 0.1, 1, {}, "Smoothing before edges are sought: more ignores finer texture."},
      {"thresholds",
       "Thresholds",
       "",
       0,
       2,
       0,
       1,
       0,
       {"automatic", "magnitude", "percentile"},
       "Chosen from the picture, or set as contrast (1 is black beside white), or as a share of pixels."},
      {"low", "Low", "", 0, 1, 0.06, 0.005, 3, {}, "An edge goes on as long as its contrast stays above this."},
      {"high", "High", "", 0, 1, 0.17, 0.005, 3, {}, "An edge begins where its contrast is above this."},
      {"shortest", "Shortest", "px", 1, 400, 12, 1, 0, {}, "Shorter pieces are left out."},
      {"gap", "Close gaps", "px", 0, 32, 0, 1, 0, {}, "Loose ends go on over gaps up to this wide."},
      {"width", "Line width", "px", 1, 9, 1, 0.5, 1, {}, "Width of the drawn line."},
      {"smooth", "Smooth line", "", 0, 1, 0, 1, 0, {"off", "on"}, "Draws at sub-pixel places, with soft borders."}};
  return fields;
}

EdgeTuning edgeTuningFrom(const Tuning& tuning) {
  const auto value = [&](const char* id) { return valueOf(edgeTuningFields(), tuning, id); };
  EdgeTuning out;
  out.gradient = value("gradient") > 0.5 ? EdgeGradient::colour : EdgeGradient::luminance;
  out.sigma = value("blur");
  out.thresholds = static_cast<EdgeThresholds>(std::lround(value("thresholds")));
  out.low = value("low");
  out.high = value("high");
  out.shortest = static_cast<int>(std::lround(value("shortest")));
  out.gap = static_cast<int>(std::lround(value("gap")));
  out.width = value("width");
  out.smooth = value("smooth") > 0.5;
  return out;
}

Image<std::uint8_t> drawEdges(const EdgeField& field, const EdgeTuning& tuning, StopToken stop) {
  if (field.size.area() == 0) return {};
  auto map = hysteresis(field, thresholdsFor(field, tuning));
  throwIfStopped(stop);
  closeGaps(map, field, tuning.gap, stop);
  dropShort(map, tuning.shortest);
  throwIfStopped(stop);
  if (!tuning.smooth && std::abs(tuning.width - 1) < 1e-6) return map;
  return drawnWide(map, field, tuning.width);
}

Image<std::uint8_t> extractEdges(View<Rgb> picture, const EdgeTuning& tuning, StopToken stop) {
  if (picture.empty()) return {};
  return drawEdges(edgeField(picture, tuning.gradient, tuning.sigma, stop, fieldUseFor(tuning)), tuning, stop);
}

Image<std::uint8_t> extractEdges(View<std::int16_t> plane, const EdgeTuning& tuning, StopToken stop) {
  if (plane.empty()) return {};
  return drawEdges(edgeField(plane, tuning.sigma, stop, fieldUseFor(tuning)), tuning, stop);
}

double edgeShare(View<std::uint8_t> map) {
  if (map.empty()) return 0;
  std::int64_t count = 0;
  for (int y = 0; y < map.height(); ++y)
    count += std::count_if(map.row(y), map.row(y) + map.width(), [](std::uint8_t v) { return v >= 128; });
  return static_cast<double>(count) / static_cast<double>(map.size().area());
}

}  // namespace hscaffold
