/// Means over boxes, and the guided filter that stands on them: a band of rows is worked on at a time, for all
/// quantities at once, so that nothing but what goes in and comes out leaves the cache.
#include <array>
#include <cassert>
#include <tuple>

#include "core/image/filter.h"
#include "core/image/parallel.h"

namespace hscaffold {
namespace {

/// Rows whose column sums run on from each other. Fixed, so that rounding does not depend on the number of cores.
constexpr int bandRows = 256;

/// Calls `take(x, y, means)` for each pixel, with the means over the box around it of the N values that
/// `valuesOf(x, y)` gives. The box is cut at borders.
template <int N, typename ValuesOf, typename Take>
void eachBoxMean(Size size, int radius, ValuesOf&& valuesOf, Take&& take) {
  const int width = size.width, height = size.height;
  const auto w = static_cast<std::size_t>(width);
  using Values = std::array<float, N>;
  using Sums = std::array<double, N>;
  const auto workBand = [&](int top, int bottom) {
    std::vector<Sums> running(w + 1, Sums{}), column(w, Sums{});
    // Means along the rows that are in the column sums now, so that each can be taken out again as it was put in.
    const int held = std::min(height, 2 * radius + 1);
    std::vector<Values> across(w * static_cast<std::size_t>(held));
    const auto rowOf = [&](int y) { return across.data() + w * static_cast<std::size_t>(y % held); };
    const auto takeOut = [&](int y) {
      const Values* row = rowOf(y);
      for (std::size_t x = 0; x < w; ++x)
        for (std::size_t k = 0; k < N; ++k) column[x][k] -= static_cast<double>(row[x][k]);
    };
    const auto putIn = [&](int y) {
      for (int x = 0; x < width; ++x) {
        const Values values = valuesOf(x, y);
        const auto at = static_cast<std::size_t>(x);
        for (std::size_t k = 0; k < N; ++k) running[at + 1][k] = running[at][k] + static_cast<double>(values[k]);
      }
      Values* row = rowOf(y);
      const double whole = 1.0 / (2 * radius + 1);
      for (int x = 0; x < width; ++x) {
        const int left = std::max(0, x - radius), right = std::min(width, x + radius + 1);
        const double share = right - left == 2 * radius + 1 ? whole : 1.0 / (right - left);
        const Sums &to = running[static_cast<std::size_t>(right)], &from = running[static_cast<std::size_t>(left)];
        const auto at = static_cast<std::size_t>(x);
        for (std::size_t k = 0; k < N; ++k) {
          row[at][k] = static_cast<float>((to[k] - from[k]) * share);
          column[at][k] += static_cast<double>(row[at][k]);
        }
      }
    };
    for (int y = std::max(0, top - radius); y < std::min(height, top + radius); ++y) putIn(y);
    for (int y = top; y < bottom; ++y) {
      if (y > top && y - radius - 1 >= 0) takeOut(y - radius - 1);
      if (y + radius < height) putIn(y + radius);
      const double share = 1.0 / (std::min(height, y + radius + 1) - std::max(0, y - radius));
      for (std::size_t x = 0; x < w; ++x) {
        Values means;
        for (std::size_t k = 0; k < N; ++k) means[k] = static_cast<float>(column[x][k] * share);
        take(static_cast<int>(x), y, means);
      }
    }
  };
  parallelRows((height + bandRows - 1) / bandRows,
               [&](int first, int end) {
                 for (int band = first; band < end; ++band)
                   workBand(band * bandRows, std::min(height, (band + 1) * bandRows));
               },
               1);
}

}  // namespace

Image<float> boxMean(View<float> picture, int radius) {
  Image<float> out(picture.size());
  eachBoxMean<1>(
      picture.size(), radius, [&](int x, int y) { return std::array{picture(x, y)}; },
      [&](int x, int y, const std::array<float, 1>& mean) { out(x, y) = mean[0]; });
  return out;
}

namespace {

/// What is common to both guided filters: lines fitted to the boxes, `fit(means)` giving slope and offset, and their
/// means laid over the guide.
template <int N, typename ValuesOf, typename Fit>
Image<float> fittedByBoxes(View<float> guide, int radius, ValuesOf&& valuesOf, Fit&& fit) {
  Image<float> slope(guide.size()), offset(guide.size()), out(guide.size());
  eachBoxMean<N>(guide.size(), radius, valuesOf, [&](int x, int y, const std::array<float, N>& means) {
    std::tie(slope(x, y), offset(x, y)) = fit(means);
  });
  eachBoxMean<2>(
      guide.size(), radius,
      [&](int x, int y) {
        return std::array{slope(x, y), offset(x, y)};
      },
      [&](int x, int y, const std::array<float, 2>& mean) { out(x, y) = mean[1] + mean[0] * guide(x, y); });
  return out;
}

}  // namespace

Image<float> guidedSmooth(View<float> picture, int radius, float softness) {
  return fittedByBoxes<2>(
      picture, radius,
      [&](int x, int y) {
        const float value = picture(x, y);
        return std::array{value, value * value};
      },
      [softness](const std::array<float, 2>& mean) {
        const float variance = std::max(0.0f, mean[1] - mean[0] * mean[0]);
        const float slope = variance / (variance + softness);
        return std::pair{slope, mean[0] * (1 - slope)};
      });
}

Image<float> guidedFilter(View<float> guide, View<float> picture, int radius, float softness) {
  assert(guide.size() == picture.size());
  return fittedByBoxes<4>(
      guide, radius,
      [&](int x, int y) {
        const float g = guide(x, y), p = picture(x, y);
        return std::array{g, p, g * g, g * p};
      },
      [softness](const std::array<float, 4>& mean) {
        const float variance = std::max(0.0f, mean[2] - mean[0] * mean[0]);
        const float slope = (mean[3] - mean[0] * mean[1]) / (variance + softness);
        return std::pair{slope, mean[1] - slope * mean[0]};
      });
}

}  // namespace hscaffold
