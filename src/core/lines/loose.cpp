#include "core/lines/loose.h"

#include <array>
#include <cmath>
#include <numbers>

#include "core/image/filter.h"
#include "core/image/parallel.h"

namespace hscaffold {
namespace {

constexpr double fitTolerance = 0.5;

/// How far a stroke strays at a place along it, [-1, 1]: two slow waves whose phases come from where it begins.
class Stray {
 public:
  explicit Stray(Point start) {
    std::uint64_t h = static_cast<std::uint64_t>(static_cast<std::int64_t>(start.x / 8)) * 0x9e3779b97f4a7c15ULL ^
                      static_cast<std::uint64_t>(static_cast<std::int64_t>(start.y / 8)) * 0xc2b2ae3d27d4eb4fULL;
    for (double& phase : phases_) {
      h ^= h >> 29;
      h *= 0xbf58476d1ce4e5b9ULL;
      phase = static_cast<double>(h >> 40) / static_cast<double>(1 << 24) * 2 * std::numbers::pi;
    }
  }
  [[nodiscard]] double at(double along) const {
    return 0.65 * std::sin(along / 23 + phases_[0]) + 0.35 * std::sin(along / 9.5 + phases_[1]);
  }

 private:
  std::array<double, 2> phases_{};
};

/// Points about `step` apart along a chain of short pieces.
Path evenly(const std::vector<StrokePlace>& places, double step) {
  Path out{places.front()};
  double rest = step;
  for (std::size_t i = 1; i < places.size(); ++i) {
    const Point a = places[i - 1].at, b = places[i].at;
    const double length = distanceBetween(a, b);
    double done = 0;
    while (length - done >= rest) {
      done += rest;
      out.push_back({a + (b - a) * (done / length), places[i].width});
      rest = step;
    }
    rest -= length - done;
  }
  if (distanceBetween(out.back().at, places.back().at) > 0.25 * step) out.push_back(places.back());
  return out;
}

Stroke loosenedPath(const Path& path, const LooseTuning& tuning) {
  const bool closed = path.size() > 3 && distanceBetween(path.front().at, path.back().at) < 1e-6;
  Path line = evenly(flattened(fittedStroke(path, tuning.tolerance, closed), 0.3), 3);
  if (tuning.wander > 0 && line.size() > 2) {
    const Stray stray(line.front().at);
    Path moved = line;
    for (std::size_t i = 0; i < line.size(); ++i) {
      const Point along = normalised(line[std::min(i + 1, line.size() - 1)].at - line[i > 0 ? i - 1 : 0].at);
      double by = tuning.wander * stray.at(3 * static_cast<double>(i));
      // A loop comes back to where it began.
      if (closed) by *= std::min(1.0, 3.0 * static_cast<double>(std::min(i, line.size() - 1 - i)) / 30);
      moved[i].at = line[i].at + Point{-along.y, along.x} * by;
    }
    line = std::move(moved);
  }
  Stroke out = fittedStroke(line, fitTolerance, closed);
  std::fill(out.widths.begin(), out.widths.end(), tuning.width);
  return out;
}

}  // namespace

const TuningFields& looseTuningFields() {
  static const TuningFields fields = {
      {"from", "Taken from", "", 0, 1, 0, 1, 0, {"line-art", "edges"}, "What the strokes are traced from"},
      {"ink", "Ink", "%", 0, 100, 50, 1, 0, {}, "How much becomes line; 50 is what was found to fit"},
      {"tolerance", "Simplify", "px", 0.5, 24, 4, 0.5, 1, {}, "How far strokes may leave the lines they come from"},
      {"wander", "Wander", "px", 0, 16, 2, 0.5, 1, {}, "How far strokes stray beyond that"},
      {"width", "Width", "px", 1, 32, 5, 0.5, 1, {}, "Of the strokes"},
      {"softness", "Softness", "%", 0, 100, 30, 1, 0, {}, "Of the strokes' borders"},
      {"shortest", "Shortest", "px", 0, 400, 24, 1, 0, {}, "Shorter strokes go"},
  };
  return fields;
}

LooseTuning looseTuningFrom(const Tuning& values) {
  const auto value = [&](const char* id) { return valueOf(looseTuningFields(), values, id); };
  LooseTuning tuning;
  tuning.from = static_cast<LooseSource>(static_cast<int>(value("from")));
  tuning.ink = value("ink");
  tuning.tolerance = value("tolerance");
  tuning.wander = value("wander");
  tuning.width = value("width");
  tuning.softness = value("softness");
  tuning.shortest = value("shortest");
  return tuning;
}

std::vector<std::shared_ptr<const Stroke>> loosened(std::span<const Path> paths, const LooseTuning& tuning,
                                                    StopToken stop) {
  std::vector<std::shared_ptr<const Stroke>> all(paths.size());
  parallelRows(
      static_cast<int>(paths.size()),
      [&](int first, int end) {
        for (auto i = static_cast<std::size_t>(first); i < static_cast<std::size_t>(end); ++i) {
          if (stop.stop_requested()) return;
          double length = 0;
          for (std::size_t k = 1; k < paths[i].size(); ++k)
            length += distanceBetween(paths[i][k - 1].at, paths[i][k].at);
          if (paths[i].size() > 1 && length >= tuning.shortest)
            all[i] = std::make_shared<const Stroke>(loosenedPath(paths[i], tuning));
        }
      },
      8);
  throwIfStopped(stop);
  std::erase(all, nullptr);
  return all;
}

Image<std::uint16_t> drawnLoosely(const std::vector<std::shared_ptr<const Stroke>>& strokes, const LooseTuning& tuning,
                                  Size size, StopToken stop) {
  auto map = drawnStrokes(strokes, size, stop);
  const auto sigma = static_cast<float>(tuning.softness / 100 * tuning.width / 2);
  if (sigma < 0.25f) return map;
  Image<float> soft(size);
  for (int y = 0; y < size.height; ++y)
    for (int x = 0; x < size.width; ++x) soft(x, y) = static_cast<float>(map(x, y));
  soft = gaussianBlur(soft.view(), sigma);
  // Blurred and brought back up, so that the middle of a stroke is full whatever its softness.
  for (int y = 0; y < size.height; ++y)
    for (int x = 0; x < size.width; ++x) map(x, y) = static_cast<std::uint16_t>(std::min(65535.0f, 1.35f * soft(x, y)));
  return map;
}

}  // namespace hscaffold
