#include "core/depth/hints.h"

#include <algorithm>
#include <cmath>
#include <map>

#include "core/depth/solve.h"

namespace hscaffold::depth {
namespace {

/// Pixels of the picture that was looked at, from the frame's.
struct Reduction {
  double x = 1, y = 1;
  Size size;
  [[nodiscard]] Spot operator()(const Spot& s) const { return {s.x * x, s.y * y}; }
};

Reduction reductionFor(const Hints& hints, const Seen& seen) {
  return {static_cast<double>(seen.size.width) / std::max(1, hints.frame.width),
          static_cast<double>(seen.size.height) / std::max(1, hints.frame.height), seen.size};
}

bool isInside(const Spot& s, Size size) { return s.x >= 0 && s.y >= 0 && s.x < size.width && s.y < size.height; }

int cellAt(const Seen& seen, const Spot& s) { return seen.patches.cell(static_cast<int>(s.x), static_cast<int>(s.y)); }

struct Marked {
  int pixels = 0;
  double along = 0;  ///< sum of how far along the stroke they lie, [0, 1]
};

/// Cells that a stroke touches. A stroke thinner than a pixel still marks those on its path.
std::map<int, Marked> cellsUnder(const Hint& hint, const Reduction& reduce, const Seen& seen) {
  std::map<int, Marked> out;
  const double radius = std::max(0.75, 0.5 * hint.width * 0.5 * (reduce.x + reduce.y));
  double length = 0;
  for (std::size_t i = 1; i < hint.spots.size(); ++i)
    length += std::hypot(hint.spots[i].x - hint.spots[i - 1].x, hint.spots[i].y - hint.spots[i - 1].y);
  double gone = 0;
  for (std::size_t i = 0; i < hint.spots.size(); ++i) {
    const Spot& from = hint.spots[i == 0 ? 0 : i - 1];
    const Spot &to = hint.spots[i], a = reduce(from), b = reduce(to);
    const double piece = std::hypot(to.x - from.x, to.y - from.y),
                 ab = (b.x - a.x) * (b.x - a.x) + (b.y - a.y) * (b.y - a.y);
    // However far off a hint lies, its pixels are looked for in the picture only.
    const auto within = [](double value, int side) { return static_cast<int>(std::clamp(value, -1.0, side + 0.0)); };
    const int left = std::max(0, within(std::floor(std::min(a.x, b.x) - radius), reduce.size.width)),
              right =
                  std::min(reduce.size.width - 1, within(std::ceil(std::max(a.x, b.x) + radius), reduce.size.width)),
              top = std::max(0, within(std::floor(std::min(a.y, b.y) - radius), reduce.size.height)),
              bottom =
                  std::min(reduce.size.height - 1, within(std::ceil(std::max(a.y, b.y) + radius), reduce.size.height));
    for (int y = top; y <= bottom; ++y) {
      for (int x = left; x <= right; ++x) {
        const double px = x + 0.5, py = y + 0.5;
        const double t = ab > 0 ? std::clamp(((px - a.x) * (b.x - a.x) + (py - a.y) * (b.y - a.y)) / ab, 0.0, 1.0) : 0;
        if (std::hypot(px - a.x - t * (b.x - a.x), py - a.y - t * (b.y - a.y)) > radius) continue;
        Marked& marked = out[seen.patches.cell(x, y)];
        ++marked.pixels;
        marked.along += length > 0 ? (gone + t * piece) / length : 0;
      }
    }
    gone += piece;
  }
  return out;
}

/// Cells whose middle an outline holds (even-odd rule); at least the one under its own middle.
std::vector<int> cellsWithin(const Hint& hint, const Reduction& reduce, const Seen& seen) {
  std::vector<Spot> outline;
  Spot middle;
  for (const Spot& s : hint.spots) {
    outline.push_back(reduce(s));
    middle.x += outline.back().x / static_cast<double>(hint.spots.size());
    middle.y += outline.back().y / static_cast<double>(hint.spots.size());
  }
  std::vector<int> out;
  for (int i = 0; i < seen.patches.count(); ++i) {
    const Cell& cell = seen.patches.cells[static_cast<std::size_t>(i)];
    const auto x = static_cast<double>(cell.x), y = static_cast<double>(cell.y);
    bool inside = false;
    for (std::size_t a = 0, b = outline.size() - 1; a < outline.size(); b = a++)
      if ((outline[a].y > y) != (outline[b].y > y) &&
          x < (outline[b].x - outline[a].x) * (y - outline[a].y) / (outline[b].y - outline[a].y) + outline[a].x)
        inside = !inside;
    if (inside) out.push_back(i);
  }
  if (out.empty() && isInside(middle, seen.size)) out.push_back(cellAt(seen, middle));
  return out;
}

/// A ramp runs on over the pieces that it crosses: softly, so that other hints there have the last word.
void spreadRamp(const Hint& hint, const Reduction& reduce, const Seen& seen, Constraints& out) {
  const Spot a = reduce(hint.spots.front()), b = reduce(hint.spots.back());
  const double dx = b.x - a.x, dy = b.y - a.y, length = dx * dx + dy * dy;
  if (length < 1) return;
  std::map<int, int> crossed;
  int all = 0;
  for (const auto& [cell, marked] : cellsUnder(hint, reduce, seen)) {
    crossed[seen.piece[static_cast<std::size_t>(cell)]] += marked.pixels;
    all += marked.pixels;
  }
  for (const auto& [piece, pixels] : crossed) {
    if (pixels * 5 < all) continue;
    for (const int i : seen.pieces[static_cast<std::size_t>(piece)].cells) {
      const Cell& cell = seen.patches.cells[static_cast<std::size_t>(i)];
      const double along =
          ((static_cast<double>(cell.x) - a.x) * dx + (static_cast<double>(cell.y) - a.y) * dy) / length;
      const double near = hint.near + along * (hint.nearEnd - hint.near);
      out.levels.push_back({i, static_cast<float>(std::clamp(near, 0.0, 1.0)), 0, true});
    }
  }
}

}  // namespace

Constraints constraintsOf(const Hints& hints, const Seen& seen) {
  Constraints out;
  if (seen.patches.cells.empty()) return out;
  const Reduction reduce = reductionFor(hints, seen);
  for (const Hint& hint : hints.hints) {
    if (hint.spots.size() < leastSpots(hint.form)) continue;
    switch (hint.form) {
      case Hint::Form::level:
      case Hint::Form::ramp:
        for (const auto& [cell, marked] : cellsUnder(hint, reduce, seen)) {
          const double along = hint.form == Hint::Form::ramp ? marked.along / marked.pixels : 0;
          const auto area = static_cast<float>(seen.patches.cells[static_cast<std::size_t>(cell)].area);
          out.levels.push_back({cell, static_cast<float>(hint.near + along * (hint.nearEnd - hint.near)),
                                std::min(1.0f, 3 * static_cast<float>(marked.pixels) / area)});
        }
        if (hint.form == Hint::Form::ramp) spreadRamp(hint, reduce, seen, out);
        break;
      case Hint::Form::same: {
        Constraints::Same same;
        for (const auto& [cell, marked] : cellsUnder(hint, reduce, seen)) same.cells.push_back(cell);
        if (same.cells.size() > 1) out.same.push_back(std::move(same));
        break;
      }
      case Hint::Form::front: {
        const Spot from = reduce(hint.spots.front()), to = reduce(hint.spots.back());
        if (!isInside(from, seen.size) || !isInside(to, seen.size)) break;
        const int front = cellAt(seen, from), behind = cellAt(seen, to);
        if (front != behind) out.before.push_back({front, behind, 0.08f});
        break;
      }
      case Hint::Form::plane:
        if (auto cells = cellsWithin(hint, reduce, seen); cells.size() > 3) out.planes.push_back({std::move(cells)});
        break;
      case Hint::Form::cut:
        if (auto cells = cellsWithin(hint, reduce, seen); !cells.empty()) out.cuts.push_back({std::move(cells)});
    }
  }
  return out;
}

std::vector<std::pair<std::size_t, std::size_t>> contradictions(const Hints& hints, const Seen& seen) {
  std::vector<std::pair<std::size_t, std::size_t>> out;
  if (seen.patches.cells.empty()) return out;
  const Reduction reduce = reductionFor(hints, seen);
  std::map<int, std::pair<std::size_t, double>> said;
  for (std::size_t i = 0; i < hints.hints.size(); ++i) {
    const Hint& hint = hints.hints[i];
    if (hint.form != Hint::Form::level && hint.form != Hint::Form::ramp) continue;
    std::map<std::size_t, int> against;
    for (const auto& [cell, marked] : cellsUnder(hint, reduce, seen)) {
      const double along = hint.form == Hint::Form::ramp ? marked.along / marked.pixels : 0;
      const double near = hint.near + along * (hint.nearEnd - hint.near);
      const auto [found, fresh] = said.try_emplace(cell, i, near);
      if (!fresh && found->second.first != i && std::abs(found->second.second - near) > 0.15)
        ++against[found->second.first];
    }
    for (const auto& [other, cells] : against) out.emplace_back(other, i);
  }
  for (std::size_t i = 0; i < hints.hints.size(); ++i) {
    const Hint& hint = hints.hints[i];
    if (hint.form != Hint::Form::front || hint.spots.size() < 2) continue;
    const Spot from = reduce(hint.spots.front()), to = reduce(hint.spots.back());
    if (!isInside(from, seen.size) || !isInside(to, seen.size)) continue;
    const auto front = said.find(cellAt(seen, from)), behind = said.find(cellAt(seen, to));
    if (front != said.end() && behind != said.end() && front->second.second < behind->second.second)
      out.emplace_back(front->second.first, i);
  }
  return out;
}

}  // namespace hscaffold::depth
