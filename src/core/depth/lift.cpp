#include "core/depth/lift.h"

#include <algorithm>
#include <array>
#include <cmath>

#include "core/image/parallel.h"
#include "core/image/resample.h"

namespace hscaffold::depth {
namespace {

constexpr float likeCell = 9;  // CIELAB difference at which a neighbouring cell counts little

/// How much a pixel counts whose colour differs by so much (sum of squares of 8-bit differences).
const std::array<float, 4096>& likeness() {
  static const auto table = [] {
    std::array<float, 4096> out{};
    for (std::size_t i = 0; i < out.size(); ++i)
      out[i] = std::exp(-static_cast<float>(i) * 16 / (2 * 14.0f * 14.0f)) + 1e-5f;
    return out;
  }();
  return table;
}

}  // namespace

LiftGuide liftGuideOf(View<Rgb> picture, Size seen) {
  return {toSrgb8(picture), toSrgb8(resampled(picture, seen, Resampling::area))};
}

namespace {

struct Slope {
  float x = 0, y = 0;
};

/// How values of like cells round each one rise: without it slopes would come out as stairs.
std::vector<Slope> slopesOf(const Seen& seen, std::span<const float> ofCells) {
  struct Sums {
    float xx = 0, xy = 0, yy = 0, xv = 0, yv = 0;
  };
  std::vector<Sums> sums(ofCells.size());
  for (const Border& border : seen.patches.borders) {
    const auto a = static_cast<std::size_t>(border.a), b = static_cast<std::size_t>(border.b);
    const Cell &p = seen.patches.cells[a], &q = seen.patches.cells[b];
    const float apart = colourDifference(p.colour, q.colour);
    const float like = std::exp(-apart * apart / (2 * likeCell * likeCell));
    const float dx = q.x - p.x, dy = q.y - p.y, dv = ofCells[b] - ofCells[a];
    for (Sums* s : {&sums[a], &sums[b]}) {
      s->xx += like * dx * dx;
      s->xy += like * dx * dy;
      s->yy += like * dy * dy;
      s->xv += like * dx * dv;
      s->yv += like * dy * dv;
    }
  }
  std::vector<Slope> out;
  const float calm = 0.3f * seen.patches.spacing * seen.patches.spacing;
  for (const Sums& s : sums) {
    const float xx = s.xx + calm, yy = s.yy + calm, whole = xx * yy - s.xy * s.xy;
    out.push_back({(yy * s.xv - s.xy * s.yv) / whole, (xx * s.yv - s.xy * s.xv) / whole});
  }
  return out;
}

}  // namespace

Image<float> overPixels(const Seen& seen, std::span<const float> ofCells) {
  const auto slopes = slopesOf(seen, ofCells);
  std::vector<std::vector<int>> touching(seen.patches.cells.size());
  for (std::size_t i = 0; i < touching.size(); ++i) touching[i].push_back(static_cast<int>(i));
  for (const Border& border : seen.patches.borders) {
    touching[static_cast<std::size_t>(border.a)].push_back(border.b);
    touching[static_cast<std::size_t>(border.b)].push_back(border.a);
  }
  const float reach = 1 / (2 * 0.65f * 0.65f * seen.patches.spacing * seen.patches.spacing);
  Image<float> out(seen.size);
  parallelRows(seen.size.height, [&](int first, int end) {
    for (int y = first; y < end; ++y) {
      for (int x = 0; x < seen.size.width; ++x) {
        const CieLab here = seen.colour(x, y);
        const auto own = static_cast<std::size_t>(seen.patches.cell(x, y));
        float sum = 0, weight = 0;
        for (const int i : touching[own]) {
          const Cell& cell = seen.patches.cells[static_cast<std::size_t>(i)];
          const float dx = cell.x - static_cast<float>(x) - 0.5f, dy = cell.y - static_cast<float>(y) - 0.5f;
          const float dl = cell.colour.l - here.l, da = cell.colour.a - here.a, db = cell.colour.b - here.b;
          const float w =
              std::exp(-(dx * dx + dy * dy) * reach - (dl * dl + da * da + db * db) / (2 * likeCell * likeCell));
          const Slope& slope = slopes[static_cast<std::size_t>(i)];
          sum += w * (ofCells[static_cast<std::size_t>(i)] - slope.x * dx - slope.y * dy);
          weight += w;
        }
        out(x, y) = std::clamp(weight > 1e-12f ? sum / weight : ofCells[own], 0.0f, 1.0f);
      }
    }
  });
  return out;
}

Image<float> lifted(View<float> small, const LiftGuide& guide, StopToken stop) {
  const Size size = guide.colour.size();
  Image<float> out(size);
  if (small.empty()) return out;
  const auto& like = likeness();
  const float scaleX = static_cast<float>(small.width()) / static_cast<float>(size.width),
              scaleY = static_cast<float>(small.height()) / static_cast<float>(size.height);
  if (small.size() == size) {
    for (int y = 0; y < size.height; ++y) std::copy_n(small.row(y), size.width, out.row(y));
    return out;
  }
  parallelRows(size.height, [&](int first, int end) {
    throwIfStopped(stop);
    for (int y = first; y < end; ++y) {
      const float sy = (static_cast<float>(y) + 0.5f) * scaleY - 0.5f;
      const int y0 = static_cast<int>(std::floor(sy));
      for (int x = 0; x < size.width; ++x) {
        const Rgb8 here = guide.colour(x, y);
        const float sx = (static_cast<float>(x) + 0.5f) * scaleX - 0.5f;
        const int x0 = static_cast<int>(std::floor(sx));
        float sum = 0, weight = 0;
        for (int j = y0; j <= y0 + 1; ++j) {
          const int cy = std::clamp(j, 0, small.height() - 1);
          const float wy = 1.1f - std::fabs(sy - static_cast<float>(j));
          for (int i = x0; i <= x0 + 1; ++i) {
            const int cx = std::clamp(i, 0, small.width() - 1);
            const Rgb8 there = guide.small(cx, cy);
            const int dr = here.r - there.r, dg = here.g - there.g, db = here.b - there.b;
            const auto apart = static_cast<std::size_t>((dr * dr + dg * dg + db * db) / 16);
            const float w = wy * (1.1f - std::fabs(sx - static_cast<float>(i))) *
                            like[std::min<std::size_t>(apart, like.size() - 1)];
            sum += w * small(cx, cy);
            weight += w;
          }
        }
        out(x, y) = sum / weight;
      }
    }
  });
  return out;
}

}  // namespace hscaffold::depth
