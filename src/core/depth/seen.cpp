#include "core/depth/seen.h"

#include <algorithm>
#include <array>
#include <cmath>
#include <numeric>

#include "core/depth/kinship.h"
#include "core/image/parallel.h"
#include "core/image/resample.h"

namespace hscaffold::depth {
namespace {

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

/// How likely the horizon is in each row: that it parts what is above from what is below by colour and grain (variance
/// between the two, Otsu 1979), weighed by where horizons usually are; or that lines meet there.
Horizon horizonIn(const Seen& seen) {
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
  constexpr double steep = 30;
  std::array<double, Horizon::rows> chances{};
  double all = 0, sure = 0;
  for (int y = 0; y + 1 < rows; ++y) {
    for (std::size_t c = 0; c < channels; ++c) above[c] += mean[static_cast<std::size_t>(y)][c];
    const double share = static_cast<double>(y + 1) / rows;
    if (share < 0.08 || share > 0.85) continue;
    double between = 0;
    for (std::size_t c = 0; c < channels; ++c) {
      const double a = above[c] / (y + 1), b = (total[c] * rows - above[c]) / (rows - y - 1);
      between += share * (1 - share) * (a - b) * (a - b);
    }
    const double explained = between / (spread + 1);
    const double unusual = (share - 0.42) / 0.2,
                 chance = std::exp(steep * explained * std::exp(-0.25 * unusual * unusual));
    // Between the two rows of the table that it lies between.
    const double at = share * Horizon::rows - 0.5;
    const auto row = static_cast<std::size_t>(std::clamp(at, 0.0, Horizon::rows - 2.0));
    const double part = std::clamp(at - static_cast<double>(row), 0.0, 1.0);
    chances[row] += chance * (1 - part);
    chances[row + 1] += chance * part;
    all += chance;
    sure += chance * std::clamp(explained * 1.3 - 0.3, 0.0, 1.0);
  }
  if (all <= 0) return {};
  sure *= std::min(1.0, std::sqrt(spread) / 12) / all;
  for (double& chance : chances) chance *= (sure + 0.15) / all;
  for (const Vanishing& meet : seen.vanishing) {
    const double much = static_cast<double>(meet.chance * meet.support);
    double weights = 0;
    const auto weight = [&](int row) {
      const double away = (row + 0.5) / Horizon::rows - static_cast<double>(meet.y);
      return std::exp(-0.5 * away * away / (0.02 * 0.02));
    };
    for (int row = 0; row < Horizon::rows; ++row) weights += weight(row);
    for (int row = 0; row < Horizon::rows && weights > 0; ++row)
      chances[static_cast<std::size_t>(row)] += much * weight(row) / weights;
    sure = std::max(sure, 0.8 * much);
  }
  return {chances, sure};
}

/// What a cell belongs to, by where walks from it end.
void findKin(Seen& seen) {
  const std::size_t count = seen.x.size();
  const Superpixels& patches = seen.patches;
  seen.ties = tiesOf(patches);
  const Kinship kin(patches, seen.ties, 0.002);
  const auto spread = [&](const std::vector<float>& place) {
    std::vector<float> squares;
    for (const float v : place) squares.push_back(v * v);
    const auto mean = kin.mean(place), square = kin.mean(squares);
    std::vector<float> out;
    // As wide as an even strip of that variance.
    for (std::size_t i = 0; i < count; ++i)
      out.push_back(std::min(1.0f, std::sqrt(12 * std::max(0.0f, square[i] - mean[i] * mean[i]))));
    return out;
  };
  seen.broad = spread(seen.x);
  seen.tall = spread(seen.y);
  // The lowest and the highest, softly, so that a shadow or a stray patch does not decide.
  constexpr float sharp = 12;
  const auto extreme = [&](float sign) {
    std::vector<float> out;
    for (const float v : seen.y) out.push_back(std::exp(sign * sharp * v));
    out = kin.mean(out);
    // Of what is evenly tall this mean lies so far inside of its end.
    for (std::size_t i = 0; i < count; ++i)
      out[i] = sign * (std::log(std::max(1e-9f, out[i])) + std::log(std::max(1.0f, sharp * seen.tall[i]))) / sharp;
    return out;
  };
  seen.foot = extreme(1);
  seen.head = extreme(-1);

  std::vector<int> top, others;
  const float rimX = 0.8f * patches.spacing / static_cast<float>(seen.size.width),
              rimY = 0.8f * patches.spacing / static_cast<float>(seen.size.height);
  for (std::size_t i = 0; i < count; ++i) {
    if (seen.y[i] < rimY) top.push_back(static_cast<int>(i));
    // The sides belong to what is below as far as the horizon may lie above them.
    else if (seen.y[i] > 1 - rimY || ((seen.x[i] < rimX || seen.x[i] > 1 - rimX) && seen.y[i] > seen.horizon.row()))
      others.push_back(static_cast<int>(i));
  }
  const auto fromTop = kin.reaches(top, others);
  seen.borne = kin.reaches(others, top);

  // Smooth, not dark, and from the top edge: sky, unless lines say that there is a ceiling.
  std::vector<float> light, blue;
  for (const Cell& cell : patches.cells) {
    light.push_back(cell.colour.l);
    blue.push_back(cell.colour.b);
  }
  const float mean =
      std::accumulate(light.begin(), light.end(), 0.0f) / static_cast<float>(std::max<std::size_t>(1, count));
  light = kin.mean(light);
  blue = kin.mean(blue);
  const auto grain = kin.mean(seen.grain), height = kin.mean(seen.y);
  float ceiling = 0;
  for (const Vanishing& meet : seen.vanishing) ceiling += meet.chance * rising(meet.closed, 0.35f, 0.65f);
  for (std::size_t i = 0; i < count; ++i) {
    const float least = mean + 6 - 10 * rising(-blue[i], 2, 6);
    seen.sky.push_back((1 - ceiling) * rising(fromTop[i], 0.35f, 0.65f) * (1 - rising(grain[i], 0.02f, 0.04f)) *
                       rising(light[i], least - 5, least + 5) * (1 - seen.horizon.above(height[i])));
  }
}

void listPieces(Seen& seen) {
  const int count = seen.piece.empty() ? 0 : *std::max_element(seen.piece.begin(), seen.piece.end()) + 1;
  seen.pieces.resize(static_cast<std::size_t>(count));
  for (std::size_t i = 0; i < seen.piece.size(); ++i)
    seen.pieces[static_cast<std::size_t>(seen.piece[i])].cells.push_back(static_cast<int>(i));
}

}  // namespace

Seen seenIn(View<Rgb> picture, StopToken stop) {
  Seen seen;
  if (picture.empty()) return seen;
  seen.size = within(picture.size(), seenSide);
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
  listPieces(seen);
  throwIfStopped(stop);
  seen.vanishing = vanishingIn(seen.light);
  seen.horizon = horizonIn(seen);
  throwIfStopped(stop);
  findKin(seen);
  return seen;
}

Horizon::Horizon() : Horizon({}, 0) {}

Horizon::Horizon(std::array<double, rows> chances, double sure) : sure_(static_cast<float>(sure)) {
  const double all = std::accumulate(chances.begin(), chances.end(), 0.0);
  if (all <= 0) chances[static_cast<std::size_t>(0.4 * rows)] = 1;
  double mean = 0, gone = 0;
  for (int row = 0; row <= rows; ++row) {
    const auto r = static_cast<std::size_t>(row);
    const double at = static_cast<double>(row) / rows;
    above_[r] = static_cast<float>(gone);
    double near = 0;
    for (int h = 0; h < rows; ++h) {
      const double line = (h + 0.5) / rows, below = std::max(0.15, 1 - line);
      near += chances[static_cast<std::size_t>(h)] / (all > 0 ? all : 1) *
              std::clamp(0.08 + 0.92 * (at - line) / below, 0.0, 1.0);
    }
    near_[r] = static_cast<float>(near);
    if (row == rows) break;
    const double chance = chances[r] / (all > 0 ? all : 1);
    gone += chance;
    mean += chance * (row + 0.5) / rows;
  }
  row_ = static_cast<float>(mean);
}

float Horizon::at(const Table& table, float row) {
  const float where = std::clamp(row, 0.0f, 1.0f) * rows;
  const auto i = static_cast<std::size_t>(std::min(where, rows - 1.0f));
  const float part = where - static_cast<float>(i);
  return table[i] * (1 - part) + table[i + 1] * part;
}

}  // namespace hscaffold::depth
