#include <algorithm>
#include <cmath>

#include "core/detail/detail.h"
#include "core/image/encoded_light.h"
#include "core/image/filter.h"
#include "core/image/narrow.h"
#include "core/image/resample.h"
#include "core/measure/hold.h"

namespace hscaffold::detail {
namespace {

/// Less of root mean square than this, of graded light, is nothing.
constexpr double leastHeld = 0.002;
constexpr int chances = 6;
constexpr double luckyDetail = 1.3;

double rootMeanSquare(View<float> band) {
  double sum = 0, mean = 0;
  for (int y = 0; y < band.height(); ++y)
    for (const float v : band.line(y)) mean += static_cast<double>(v);
  mean /= static_cast<double>(band.size().area());
  for (int y = 0; y < band.height(); ++y)
    for (const float v : band.line(y)) sum += std::pow(static_cast<double>(v) - mean, 2);
  return std::sqrt(sum / static_cast<double>(band.size().area()));
}

/// Turned over across and pushed along: other pictures would meet it as well.
Image<float> elsewhere(View<float> band, int chance) {
  Image<float> out(band.size());
  const int by = band.width() * chance / chances;
  for (int y = 0; y < band.height(); ++y) {
    std::reverse_copy(band.row(y), band.row(y) + band.width(), out.row(y));
    std::rotate(out.row(y), out.row(y) + by, out.row(y) + band.width());
  }
  return out;
}

}  // namespace

double detailHold(View<std::uint16_t> map, const DetailTuning& tuning, const ProofSeen& proof, StopToken stop) {
  const auto wanted = laplacianPyramid(resampled(widened(map).view(), proof.size(), Resampling::area, stop).view());
  // Through the same sieve as the map: what runs over from band to band does so in both.
  const auto seen = laplacianPyramid(keptOf(encodedLightOf(proof.linear(stop)), tuning));
  const auto kept = keptBands(proof.size(), tuning);
  double sum = 0, all = 0;
  for (std::size_t b = 0; b < wanted.bands.size(); ++b) {
    throwIfStopped(stop);
    const auto& band = wanted.bands[b];
    // So few pixels agree by luck.
    constexpr int fewest = 12;
    const auto counts = static_cast<double>(kept[b]);
    if (counts <= 0 || band.width() < fewest || rootMeanSquare(band) < leastHeld) continue;
    double lucky = 0;
    for (int chance = 0; chance < chances; ++chance) {
      const auto other = elsewhere(band, chance);
      const double own = std::max(0.0, correlation(other, band));
      lucky += std::pow(correlation(other, seen.bands[b]) * (1 - own), 2);
    }
    lucky = luckyDetail * std::sqrt(lucky / chances);
    sum += counts * std::max(0.0, (correlation(band, seen.bands[b]) - lucky) / std::max(0.05, 1 - lucky));
    all += counts;
  }
  return all > 0 ? 100 * sum / all : 0;
}

}  // namespace hscaffold::detail
