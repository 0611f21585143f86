#include "core/depth/seen.h"

#include <algorithm>
#include <array>
#include <cmath>

#include "core/image/parallel.h"
#include "core/image/resample.h"

namespace hscaffold::depth {
namespace {

Size reduced(Size size) {
  const int longer = std::max(size.width, size.height);
  if (longer <= seenSide) return size;
  const auto side = [&](int length) {
    return std::max(1, static_cast<int>(std::lround(static_cast<double>(length) * seenSide / longer)));
  };
  return {side(size.width), side(size.height)};
}

/// Mean over the pixels of each cell.
std::vector<float> meanOver(const Superpixels& patches, View<float> values) {
  std::vector<double> sums(patches.cells.size());
  for (int y = 0; y < values.height(); ++y)
    for (int x = 0; x < values.width(); ++x)
      sums[static_cast<std::size_t>(patches.cell(x, y))] += static_cast<double>(values(x, y));
  std::vector<float> out(sums.size());
  for (std::size_t i = 0; i < out.size(); ++i)
    out[i] = static_cast<float>(sums[i] / std::max(1, patches.cells[i].area));
  return out;
}

Image<float> gradientOf(View<float> light) {
  Image<float> out(light.size());
  for (int y = 0; y < light.height(); ++y)
    for (int x = 0; x < light.width(); ++x)
      out(x, y) = 0.5f * std::hypot(light.clamped(x + 1, y) - light.clamped(x - 1, y),
                                    light.clamped(x, y + 1) - light.clamped(x, y - 1));
  return out;
}

void measurePieces(Seen& seen) {
  const int count = seen.piece.empty() ? 0 : *std::max_element(seen.piece.begin(), seen.piece.end()) + 1;
  seen.pieces.resize(static_cast<std::size_t>(count));
  const float all = static_cast<float>(seen.size.area());
  for (std::size_t i = 0; i < seen.piece.size(); ++i) {
    Piece& piece = seen.pieces[static_cast<std::size_t>(seen.piece[i])];
    piece.cells.push_back(static_cast<int>(i));
    const float share = static_cast<float>(seen.patches.cells[i].area) / all;
    piece.area += share;
    piece.grain += share * seen.grain[i];
  }
  for (Piece& piece : seen.pieces) piece.grain /= std::max(1e-6f, piece.area);
  const int w = seen.size.width, h = seen.size.height;
  for (int y = 0; y < h; ++y) {
    for (int x = 0; x < w; ++x) {
      Piece& piece =
          seen.pieces[static_cast<std::size_t>(seen.piece[static_cast<std::size_t>(seen.patches.cell(x, y))])];
      piece.left = std::min(piece.left, static_cast<float>(x) / static_cast<float>(w));
      piece.right = std::max(piece.right, static_cast<float>(x + 1) / static_cast<float>(w));
      piece.top = std::min(piece.top, static_cast<float>(y) / static_cast<float>(h));
      piece.bottom = std::max(piece.bottom, static_cast<float>(y + 1) / static_cast<float>(h));
      if (y == 0) piece.onTop += 1.0f / static_cast<float>(w);
      if (y == h - 1) piece.onBottom += 1.0f / static_cast<float>(w);
      if (x == 0 || x == w - 1) piece.onSides += 0.5f / static_cast<float>(h);
    }
  }
}

/// The row that best parts what is above from what is below, by colour and grain: largest variance between the two
/// (Otsu 1979), weighed by where horizons usually are.
void findHorizon(Seen& seen) {
  constexpr int channels = 4;
  const int rows = seen.size.height;
  std::vector<std::array<double, channels>> mean(static_cast<std::size_t>(rows));
  const auto gradient = gradientOf(seen.light);
  for (int y = 0; y < rows; ++y) {
    auto& m = mean[static_cast<std::size_t>(y)];
    for (int x = 0; x < seen.size.width; ++x) {
      const CieLab c = seen.colour(x, y);
      m[0] += static_cast<double>(c.l);
      m[1] += static_cast<double>(1.5f * c.a);
      m[2] += static_cast<double>(1.5f * c.b);
      m[3] += static_cast<double>(250 * gradient(x, y));
    }
    for (double& v : m) v /= seen.size.width;
  }
  std::array<double, channels> total{}, above{};
  double spread = 0;
  for (const auto& m : mean)
    for (std::size_t c = 0; c < channels; ++c) total[c] += m[c] / rows;
  for (const auto& m : mean)
    for (std::size_t c = 0; c < channels; ++c) spread += (m[c] - total[c]) * (m[c] - total[c]) / rows;
  double best = 0;
  for (int y = 0; y + 1 < rows; ++y) {
    for (std::size_t c = 0; c < channels; ++c) above[c] += mean[static_cast<std::size_t>(y)][c];
    const double share = static_cast<double>(y + 1) / rows;
    if (share < 0.08 || share > 0.85) continue;
    double between = 0;
    for (std::size_t c = 0; c < channels; ++c) {
      const double a = above[c] / (y + 1), b = (total[c] * rows - above[c]) / (rows - y - 1);
      between += share * (1 - share) * (a - b) * (a - b);
    }
    const double usual = std::exp(-0.5 * std::pow((share - 0.42) / 0.2, 2));
    const double explained = between / (spread + 1);
    if (explained * usual > best) {
      best = explained * usual;
      seen.horizon = static_cast<float>(share);
      seen.horizonSure =
          static_cast<float>(std::clamp(explained * 1.3 - 0.3, 0.0, 1.0) * std::min(1.0, std::sqrt(spread) / 12));
    }
  }
  if (!seen.vanishing) return;
  const float line = seen.vanishing->support;
  const float total2 = seen.horizonSure + line + 0.15f;
  seen.horizon = (seen.horizon * (seen.horizonSure + 0.15f) + seen.vanishing->y * line) / total2;
  seen.horizonSure = std::max(seen.horizonSure, 0.8f * line);
}

/// Smooth, not dark, and from the top edge: sky, unless lines say that there is a ceiling.
void findSky(Seen& seen) {
  if (seen.vanishing && seen.vanishing->closed > 0.5f) return;
  double light = 0;
  for (const Cell& cell : seen.patches.cells) light += static_cast<double>(cell.colour.l);
  const auto mean = static_cast<float>(light / std::max(1, seen.patches.count()));
  for (Piece& piece : seen.pieces) {
    double l = 0, b = 0, y = 0;
    for (const int i : piece.cells) {
      b += static_cast<double>(seen.patches.cells[static_cast<std::size_t>(i)].colour.b);
      l += static_cast<double>(seen.patches.cells[static_cast<std::size_t>(i)].colour.l);
      y += static_cast<double>(seen.y[static_cast<std::size_t>(i)]);
    }
    const auto n = static_cast<double>(piece.cells.size());
    piece.sky = piece.onTop > 0.08f && piece.onBottom < 0.02f && piece.grain < 0.03f &&
                static_cast<float>(l / n) > mean + (b / n < -4 ? -4.0f : 6.0f) &&
                static_cast<float>(y / n) < seen.horizon;
  }
}

}  // namespace

Seen seenIn(View<Rgb> picture, StopToken stop) {
  Seen seen;
  if (picture.empty()) return seen;
  seen.size = reduced(picture.size());
  seen.picture = resampled(picture, seen.size, Resampling::area, stop);
  const auto& small = seen.picture;
  seen.colour = Image<CieLab>(seen.size);
  seen.light = Image<float>(seen.size);
  parallelRows(seen.size.height, [&](int first, int end) {
    for (int y = first; y < end; ++y)
      for (int x = 0; x < seen.size.width; ++x) {
        seen.colour(x, y) = linearToCieLab(small(x, y));
        seen.light(x, y) = linearToSrgb(std::clamp(luminance(small(x, y)), 0.0f, 1.0f));
      }
  });
  throwIfStopped(stop);
  seen.patches = superpixelsOf(seen.colour, seenCells, stop);
  for (const Cell& cell : seen.patches.cells) {
    seen.x.push_back(cell.x / static_cast<float>(seen.size.width));
    seen.y.push_back(cell.y / static_cast<float>(seen.size.height));
  }
  seen.grain = meanOver(seen.patches, gradientOf(seen.light));
  seen.piece = piecesOf(seen.patches, 60, 8);
  measurePieces(seen);
  throwIfStopped(stop);
  seen.vanishing = vanishingOf(seen.light);
  findHorizon(seen);
  findSky(seen);
  return seen;
}

}  // namespace hscaffold::depth
