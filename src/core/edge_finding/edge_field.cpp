// From pictures to edge points: gradient, suppression. See edges.h.
#include <array>
#include <cmath>
#include <mutex>
#include <stdexcept>

#include "core/edge_finding/edges.h"
#include "core/edge_finding/gradient.h"
#include "core/image/colour.h"
#include "core/image/parallel.h"

namespace hscaffold {
namespace {

using edges_detail::GradientStream;
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

/// Three rows of gradient and magnitude: one is looked at with its neighbours.
struct RowWindow {
  Image<float> gx, gy, magnitude;
  explicit RowWindow(int width) : gx(width, 3), gy(width, 3), magnitude(width, 3) {}
  [[nodiscard]] static int place(int y) { return (y + 3) % 3; }
};

/// @param makeStream  returns a function (y, restart, gx, gy, magnitude) that works out rows of the gradient, one after
/// the
///                    other but for restarts; asked for once for each share of the work, so that buffers are kept.
template <typename MakeStream>
EdgeField fieldFrom(Size size, const StopToken& stop, EdgeFieldUse use, MakeStream&& makeStream) {
  EdgeField field;
  field.histogram.assign(use.histogram ? bins : 0, 0);
  const float least = std::max(faintest, static_cast<float>(use.least));
  if (size.area() == 0) return field;
  field.size = size;
  const int strips = (size.height + stripRows - 1) / stripRows;
  field.strips.resize(static_cast<std::size_t>(strips));
  std::mutex countLock;
  parallelRows(
      strips,
      [&](int firstStrip, int endStrip) {
        const auto width = static_cast<std::size_t>(size.width);
        std::vector<std::int32_t> found(width + edges_detail::vectorSlack);
        std::vector<float> shiftX(width + edges_detail::vectorSlack), shiftY(shiftX);
        Histogram histogram;
        RowWindow window(size.width);
        auto stream = makeStream();
        for (int s = firstStrip; s < endStrip && !stop.stop_requested(); ++s) {
          EdgeField::Strip& strip = field.strips[static_cast<std::size_t>(s)];
          strip.rowStart.assign(1, 0);
          const int y0 = s * stripRows, y1 = std::min(size.height, y0 + stripRows);
          strip.points.reserve(static_cast<std::size_t>(y1 - y0) * width / 16);
          for (int ahead = y0 - 1; ahead <= y1; ++ahead) {
            const int next = RowWindow::place(ahead);
            stream(ahead, ahead == y0 - 1, window.gx.row(next), window.gy.row(next), window.magnitude.row(next));
            const int y = ahead - 1;
            if (y < y0) continue;
            const int here = RowWindow::place(y);
            const float *m = window.magnitude.row(here), *gx = window.gx.row(here), *gy = window.gy.row(here);
            if (use.histogram) {
              edges_detail::binRow(m, size.width, bins, found.data());
              histogram.count(std::span(found).first(width));
            }
            if (y > 0 && y + 1 < size.height && size.width > 2) {
              const std::size_t count = edges_detail::suppressRow(window.magnitude.row(RowWindow::place(y - 1)), m,
                                                                  window.magnitude.row(next), gx, gy, size.width, least,
                                                                  found.data(), shiftX.data(), shiftY.data());
              const auto before = strip.points.size();
              strip.points.resize(before + count);
              EdgePoint* to = strip.points.data() + before;
              for (std::size_t i = 0; i < count; ++i) to[i] = {found[i], m[found[i]], shiftX[i], shiftY[i]};
            }
            strip.rowStart.push_back(static_cast<std::uint32_t>(strip.points.size()));
          }
        }
        if (!use.histogram) return;
        const std::lock_guard lock(countLock);
        for (const auto& table : histogram.tables)
          for (std::size_t b = 0; b < bins; ++b) field.histogram[b] += table[b];
      },
      4);
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

/// From three planes, along the direction in which they change most.
EdgeField colourField(const std::array<EncodedPlane, 3>& planes, double sigma, const StopToken& stop,
                      EdgeFieldUse use) {
  throwIfStopped(stop);
  const Kernels kernels = edges_detail::kernelsFor(sigma);
  const int width = planes[0].width();
  struct Channels {
    std::vector<GradientStream> streams;
    Image<float> gx, gy, magnitude;
  };
  return fieldFrom(planes[0].size(), stop, use, [&] {
    Channels channels{{}, Image<float>(width, 3), Image<float>(width, 3), Image<float>(width, 1)};
    for (const auto& plane : planes) channels.streams.emplace_back(plane, kernels);
    return [width, c = std::move(channels)](int y, bool restart, float* gx, float* gy, float* magnitude) mutable {
      for (int i = 0; i < 3; ++i) {
        GradientStream& stream = c.streams[static_cast<std::size_t>(i)];
        if (restart) stream.restart();
        stream.row(y, c.gx.row(i), c.gy.row(i), c.magnitude.row(0));
      }
      colourRow({c.gx.row(0), c.gx.row(1), c.gx.row(2)}, {c.gy.row(0), c.gy.row(1), c.gy.row(2)}, width, gx, gy,
                magnitude);
    };
  });
}

}  // namespace

EncodedPlane encodedLuminance(View<Rgb> linear) {
  return encodedPlane(linear, [](const Rgb& c) { return luminance(c); });
}

EncodedPlane encodedLuminance(View<Rgba16> pixels) {
  EncodedPlane plane(pixels.size());
  parallelRows(plane.height(), [&, linear = srgb16Table()](int first, int end) {
    for (int y = first; y < end; ++y)
      std::transform(pixels.row(y), pixels.row(y) + pixels.width(), plane.row(y), [linear](Rgba16 c) {
        const float light = luminance({linear[c.r], linear[c.g], linear[c.b]});
        if (c.a == 65535) return encoded12(light);
        const float alpha = static_cast<float>(c.a) / 65535.0f;
        return encoded12(light * alpha + 1 - alpha);
      });
  });
  return plane;
}

EdgeField edgeField(View<std::int16_t> plane, double sigma, StopToken stop, EdgeFieldUse use) {
  const Kernels kernels = edges_detail::kernelsFor(sigma);
  return fieldFrom(plane.size(), stop, use, [&] {
    return [gradient = GradientStream(plane, kernels)](int y, bool restart, float* gx, float* gy,
                                                       float* magnitude) mutable {
      if (restart) gradient.restart();
      gradient.row(y, gx, gy, magnitude);
    };
  });
}

EdgeField edgeField(View<Rgb> picture, EdgeGradient gradient, double sigma, StopToken stop, EdgeFieldUse use) {
  if (gradient == EdgeGradient::luminance) return edgeField(encodedLuminance(picture).view(), sigma, stop, use);
  return colourField(
      {encodedPlane(picture, [](const Rgb& c) { return c.r; }), encodedPlane(picture, [](const Rgb& c) { return c.g; }),
       encodedPlane(picture, [](const Rgb& c) { return c.b; })},
      sigma, stop, use);
}

EdgeField edgeField(View<Rgb8> picture, double sigma, StopToken stop, EdgeFieldUse use) {
  const auto plane = [&](std::uint8_t Rgb8::*channel) {
    EncodedPlane out(picture.size());
    for (int y = 0; y < picture.height(); ++y)
      std::transform(picture.row(y), picture.row(y) + picture.width(), out.row(y),
                     [channel](const Rgb8& c) { return static_cast<std::int16_t>((c.*channel * 4095 + 127) / 255); });
    return out;
  };
  return colourField({plane(&Rgb8::r), plane(&Rgb8::g), plane(&Rgb8::b)}, sigma, stop, use);
}

double magnitudeAtShare(const EdgeField& field, double share) {
  if (field.histogram.empty()) throw std::logic_error("this edge field was made without a histogram");
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
