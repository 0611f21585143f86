// From pictures to edge points: gradient, suppression. See edges.h.
#include <array>
#include <cmath>
#include <memory>
#include <mutex>

#include "core/edges/edges.h"
#include "core/edges/gradient.h"
#include "core/image/colour.h"
#include "core/image/parallel.h"

namespace hscaffold {
namespace {

using edges_detail::GradientRows;
using edges_detail::Kernels;

constexpr int bins = 2048;
constexpr int stripRows = EdgeField::stripRows;
constexpr float faintest = 0.004f;  ///< a contrast of one part in 250: below it nothing is ever an edge

/// Counted in four tables by turns: neighbours often fall into one bin, and would wait for each other.
struct Histogram {
  std::array<std::array<std::uint32_t, bins>, 4> tables{};
  void count(std::span<const std::int32_t> found) {
    std::size_t x = 0;
    for (; x + 4 <= found.size(); x += 4)
      for (std::size_t t = 0; t < 4; ++t) ++tables[t][static_cast<std::size_t>(found[x + t])];
    for (; x < found.size(); ++x) ++tables[0][static_cast<std::size_t>(found[x])];
  }
};

/// Gradient vector and magnitude of a strip's rows and one more on either side.
struct GradientBand {
  Image<float> gx, gy, magnitude;
  int firstRow = 0;
};

/// Di Zenzo's largest eigenvalue; the direction is signed towards where the channels together grow.
void colourRow(const std::array<const float*, 3>& cx, const std::array<const float*, 3>& cy, int width, float* gx,
               float* gy, float* m) {
  for (int x = 0; x < width; ++x) {
    float xx = 0, xy = 0, yy = 0, sumX = 0, sumY = 0;
    for (std::size_t c = 0; c < 3; ++c) {
      xx += cx[c][x] * cx[c][x];
      xy += cx[c][x] * cy[c][x];
      yy += cy[c][x] * cy[c][x];
      sumX += cx[c][x];
      sumY += cy[c][x];
    }
    const float difference = xx - yy;
    const float root = std::sqrt(difference * difference + 4 * (xy * xy));
    const float eigenvalue = ((xx + yy) + root) / 2;
    // Of the two forms of the eigenvector, the one that does not cancel.
    float vx = xx >= yy ? eigenvalue - yy : xy;
    float vy = xx >= yy ? xy : eigenvalue - xx;
    const float length = std::sqrt(vx * vx + vy * vy);
    const float towards = vx * sumX + vy * sumY >= 0 ? 1.0f : -1.0f;
    m[x] = std::sqrt(eigenvalue * (1.0f / 3));
    const float scale = length > 0 ? towards * m[x] / length : 0.0f;
    gx[x] = vx * scale;
    gy[x] = vy * scale;
  }
}

/// @param makeBands  returns a function that fills a band with the gradient of rows [first, first + count), reaching past
///                   the picture by clamping; asked for once for each share of the work, so that buffers are kept.
template <typename MakeBands>
EdgeField fieldFrom(Size size, const StopToken& stop, MakeBands&& makeBands) {
  EdgeField field;
  field.size = size;
  field.histogram.assign(bins, 0);
  if (size.area() == 0) {
    field.size = {};
    return field;
  }
  const int strips = (size.height + stripRows - 1) / stripRows;
  field.strips.resize(static_cast<std::size_t>(strips));
  std::mutex countLock;
  parallelRows(strips, [&](int firstStrip, int endStrip) {
    const auto width = static_cast<std::size_t>(size.width);
    std::vector<std::int32_t> found(width + edges_detail::vectorSlack);
    std::vector<float> shift(width + edges_detail::vectorSlack);
    Histogram histogram;
    auto fillBand = makeBands();
    GradientBand band{Image<float>(size.width, stripRows + 2), Image<float>(size.width, stripRows + 2), Image<float>(size.width, stripRows + 2), 0};
    for (int s = firstStrip; s < endStrip && !stop.stop_requested(); ++s) {
      EdgeField::Strip& strip = field.strips[static_cast<std::size_t>(s)];
      strip.rowStart.assign(1, 0);
      strip.points.reserve(static_cast<std::size_t>(size.width) * 12);
      const int y0 = s * stripRows, y1 = std::min(size.height, y0 + stripRows);
      band.firstRow = y0 - 1;
      fillBand(band, y0 - 1, y1 - y0 + 2);
      for (int y = y0; y < y1; ++y) {
        const int row = y - band.firstRow;
        const float* m = band.magnitude.row(row);
        edges_detail::binRow(m, size.width, bins, found.data());
        histogram.count(std::span(found).first(width));
        const auto before = strip.points.size();
        if (y > 0 && y + 1 < size.height && size.width > 2) {
          const float *gx = band.gx.row(row), *gy = band.gy.row(row);
          const std::size_t count = edges_detail::suppressRow(band.magnitude.row(row - 1), m, band.magnitude.row(row + 1), gx, gy, size.width,
                                                              faintest, found.data(), shift.data());
          strip.points.resize(before + count);
          for (std::size_t i = 0; i < count; ++i) {
            const std::int32_t x = found[i];
            const float along = shift[i] / std::max(std::abs(gx[x]), std::abs(gy[x]));
            strip.points[before + i] = {x, m[x], gx[x] * along, gy[x] * along};
          }
        }
        strip.rowStart.push_back(static_cast<std::uint32_t>(strip.points.size()));
      }
    }
    const std::lock_guard lock(countLock);
    for (const auto& table : histogram.tables)
      for (std::size_t b = 0; b < bins; ++b) field.histogram[b] += table[b];
  }, 4);
  throwIfStopped(stop);
  return field;
}

std::int16_t encoded12(float linear) {
  static constexpr int size = 8192;
  static const std::vector<std::int16_t> table = [] {
    std::vector<std::int16_t> values(size + 2);
    for (int i = 0; i < size + 2; ++i) {
      const float root = std::min(1.0f, static_cast<float>(i) / size);
      values[static_cast<std::size_t>(i)] = static_cast<std::int16_t>(std::lround(linearToSrgb(root * root) * 4095));
    }
    return values;
  }();
  const float root = std::sqrt(std::clamp(linear, 0.0f, 1.0f));
  return table[static_cast<std::size_t>(root * size + 0.5f)];
}

template <typename Channel>
EncodedPlane encodedPlane(View<Rgb> linear, Channel&& channel) {
  EncodedPlane plane(linear.size());
  parallelRows(plane.height(), [&](int first, int end) {
    for (int y = first; y < end; ++y)
      std::transform(linear.row(y), linear.row(y) + linear.width(), plane.row(y),
                     [&](const Rgb& c) { return encoded12(channel(c)); });
  });
  return plane;
}

}  // namespace

EncodedPlane encodedLuminance(View<Rgb> linear) {
  return encodedPlane(linear, [](const Rgb& c) { return luminance(c); });
}

EdgeField edgeField(View<std::int16_t> plane, double sigma, StopToken stop) {
  const Kernels kernels = edges_detail::kernelsFor(sigma);
  return fieldFrom(plane.size(), stop, [&] {
    return [&, gradient = GradientRows(plane, kernels, stripRows + 2)](GradientBand& band, int first, int rows) mutable {
      gradient.compute(first, rows);
      for (int i = 0; i < rows; ++i)
        edges_detail::magnitudeRow(gradient.acrossRow(i), gradient.downRow(i), plane.width(), band.gx.row(i), band.gy.row(i), band.magnitude.row(i));
    };
  });
}

EdgeField edgeField(View<Rgb> picture, EdgeGradient gradient, double sigma, StopToken stop) {
  if (gradient == EdgeGradient::luminance) return edgeField(encodedLuminance(picture).view(), sigma, stop);
  const std::array<EncodedPlane, 3> planes = {encodedPlane(picture, [](const Rgb& c) { return c.r; }),
                                              encodedPlane(picture, [](const Rgb& c) { return c.g; }),
                                              encodedPlane(picture, [](const Rgb& c) { return c.b; })};
  throwIfStopped(stop);
  const Kernels kernels = edges_detail::kernelsFor(sigma);
  const int width = picture.width();
  struct Channel {
    GradientRows gradient;
    Image<float> gx, gy;
  };
  return fieldFrom(picture.size(), stop, [&] {
    std::vector<Channel> channels;
    for (const auto& plane : planes)
      channels.push_back({GradientRows(plane, kernels, stripRows + 2), Image<float>(width, stripRows + 2), Image<float>(width, stripRows + 2)});
    return [&, channels = std::move(channels)](GradientBand& band, int first, int rows) mutable {
      for (Channel& channel : channels) {
        channel.gradient.compute(first, rows);
        for (int i = 0; i < rows; ++i)
          edges_detail::magnitudeRow(channel.gradient.acrossRow(i), channel.gradient.downRow(i), width, channel.gx.row(i), channel.gy.row(i),
                                     band.magnitude.row(i));
      }
      for (int i = 0; i < rows; ++i)
        colourRow({channels[0].gx.row(i), channels[1].gx.row(i), channels[2].gx.row(i)},
                  {channels[0].gy.row(i), channels[1].gy.row(i), channels[2].gy.row(i)}, width, band.gx.row(i), band.gy.row(i),
                  band.magnitude.row(i));
    };
  });
}

double magnitudeAtShare(const EdgeField& field, double share) {
  std::uint64_t total = 0;
  for (const auto count : field.histogram) total += count;
  const double wanted = std::clamp(share, 0.0, 1.0) * static_cast<double>(total);
  double below = 0;
  for (std::size_t b = 0; b < field.histogram.size(); ++b) {
    const double count = field.histogram[b];
    if (below + count >= wanted) {
      const double part = count > 0 ? (wanted - below) / count : 0;
      return (static_cast<double>(b) + part) / static_cast<double>(field.histogram.size());
    }
    below += count;
  }
  return 1;
}

ThresholdPair thresholdsFor(const EdgeField& field, const EdgeTuning& tuning) {
  ThresholdPair pair{tuning.low, tuning.high};
  if (tuning.thresholds == EdgeThresholds::percentile) {
    pair = {magnitudeAtShare(field, tuning.low), magnitudeAtShare(field, tuning.high)};
  } else if (tuning.thresholds == EdgeThresholds::automatic) {
    // The median magnitude is mostly noise and texture (Rayleigh distributed: median 1.18 deviations). An edge should
    // stand well above it, and about a twelfth of a picture is near some edge worth having.
    const double noise = magnitudeAtShare(field, 0.5) / 1.18;
    const double high = std::clamp(std::max(5 * noise, 0.9 * magnitudeAtShare(field, 0.93)), 0.015, 0.35);
    pair = {0.4 * high, high};
  }
  if (pair.low > pair.high) std::swap(pair.low, pair.high);
  return pair;
}

}  // namespace hscaffold
