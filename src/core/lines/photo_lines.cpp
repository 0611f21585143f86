#include "core/lines/photo_lines.h"

#include <array>
#include <cmath>
#include <vector>

#include "core/image/filter.h"
#include "core/image/parallel.h"
#include "core/lines/line_flow.h"

namespace hscaffold {
namespace {

constexpr float outerToInner = 1.6f;  ///< Marr and Hildreth 1980
constexpr float leastSeen = 0.006f;   ///< of lightness: what no eye sees as a line

/// Bilinear, unchecked: (x, y) counts from pixel centres and lies inside by a pixel.
float sampleInside(const Image<float>& picture, float x, float y) {
  const int x0 = static_cast<int>(x), y0 = static_cast<int>(y);
  const float u = x - static_cast<float>(x0), v = y - static_cast<float>(y0);
  const float* top = picture.row(y0) + x0;
  const float* bottom = top + picture.stride();
  const float a = top[0] + (top[1] - top[0]) * u, b = bottom[0] + (bottom[1] - bottom[0]) * u;
  return a + (b - a) * v;
}

/// `picture` with `border` more pixels on each side, its border going on.
Image<float> padded(View<float> picture, int border) {
  Image<float> out(picture.width() + 2 * border, picture.height() + 2 * border);
  parallelRows(out.height(), [&](int first, int end) {
    for (int y = first; y < end; ++y) {
      const float* from = picture.row(std::clamp(y - border, 0, picture.height() - 1));
      for (int x = 0; x < out.width(); ++x) out(x, y) = from[std::clamp(x - border, 0, picture.width() - 1)];
    }
  });
  return out;
}

/// Outer minus inner Gaussian across the flow: positive on dark lines and on the dark side of edges.
Image<float> acrossFlow(View<float> light, const Image<LineDirection>& flow, float sigma, const StopToken& stop) {
  auto inner = gaussianKernel(sigma), outer = gaussianKernel(sigma * outerToInner);
  const int radius = static_cast<int>(outer.size() / 2), innerRadius = static_cast<int>(inner.size() / 2);
  std::vector<float> weights;
  for (int k = -radius; k <= radius; ++k)
    weights.push_back(outer[static_cast<std::size_t>(k + radius)] -
                      (std::abs(k) <= innerRadius ? inner[static_cast<std::size_t>(k + innerRadius)] : 0.0f));
  const int border = radius + 2;
  const auto wide = padded(light, border);
  Image<float> out(light.size());
  parallelRows(out.height(), [&](int first, int end) {
    if (stop.stop_requested()) return;
    for (int y = first; y < end; ++y)
      for (int x = 0; x < out.width(); ++x) {
        const LineDirection along = flow(x / 2, y / 2);
        const float px = static_cast<float>(x + border), py = static_cast<float>(y + border);
        float sum = weights[static_cast<std::size_t>(radius)] * wide(x + border, y + border);
        for (int k = 1; k <= radius; ++k) {
          const auto d = static_cast<float>(k);
          sum +=
              weights[static_cast<std::size_t>(radius + k)] * (sampleInside(wide, px - d * along.y, py + d * along.x) +
                                                               sampleInside(wide, px + d * along.y, py - d * along.x));
        }
        out(x, y) = sum;
      }
  });
  throwIfStopped(stop);
  return out;
}

/// The response above which about `share` of the picture lies.
float responseAbove(const Image<float>& response, double share) {
  constexpr std::size_t bins = 2048;
  constexpr float most = 0.5f;
  std::array<std::int64_t, bins> histogram{};
  for (int y = 0; y < response.height(); ++y)
    for (const float v : response.line(y))
      ++histogram[static_cast<std::size_t>(std::clamp(v / most, 0.0f, 0.9999f) * static_cast<float>(bins))];
  const double wanted = share * static_cast<double>(response.size().area());
  double above = 0;
  for (std::size_t b = bins; b-- > 0;) {
    above += static_cast<double>(histogram[b]);
    if (above >= wanted) return most * static_cast<float>(b) / static_cast<float>(bins);
  }
  return 0;
}

}  // namespace

Image<float> photoInk(View<float> light, const LineTuning& tuning, StopToken stop) {
  const auto sigma = static_cast<float>(tuning.fineness);
  const auto flow = lineFlow(light, std::max(3.0f, 2 * sigma));
  throwIfStopped(stop);
  const auto response =
      alongFlow(acrossFlow(light, flow, sigma, stop), flow, static_cast<float>(tuning.flow), 0.5f * leastSeen, stop);
  // About a fifteenth of a usual picture is line; a flat one has fewer, a busy one not more.
  const float usual = std::max(leastSeen, responseAbove(response, 0.07));
  const float threshold = usual * static_cast<float>(std::pow(2.0, (50 - tuning.ink) / 20));
  const float hard = 1 + 0.09f * static_cast<float>(tuning.contrast);
  const auto darks = static_cast<float>(tuning.darks / 100);
  Image<float> ink(light.size());
  parallelRows(ink.height(), [&](int first, int end) {
    for (int y = first; y < end; ++y)
      for (int x = 0; x < ink.width(); ++x) {
        // Darkness adds to the response, so that darks fill up from their outlines.
        const float dark = darks > 0 ? 2 * std::max(0.0f, 0.75f * darks - light(x, y)) / 0.25f : 0.0f;
        const float u = response(x, y) / threshold + dark;
        ink(x, y) = u >= 1 ? std::min(1.0f, 0.6f + 0.4f * std::tanh(hard * (u - 1)) * 1.4f)
                           : std::max(0.0f, 0.6f + 0.75f * std::tanh(hard * (u - 1)));
      }
  });
  return ink;
}

}  // namespace hscaffold
