#include "core/lines/paper_lines.h"

#include <array>
#include <cmath>
#include <vector>

#include "core/image/colour.h"
#include "core/image/components.h"
#include "core/image/filter.h"
#include "core/image/parallel.h"
#include "core/image/resample.h"
#include "core/image/transform.h"

namespace hscaffold {
namespace {

/// Largest (or smallest) value within `radius` along rows, by the running blocks of van Herk (1992).
template <typename Better>
void extremeAlongRows(Image<float>& picture, int radius, Better better) {
  const int width = picture.width(), window = 2 * radius + 1;
  parallelRows(picture.height(), [&](int first, int end) {
    const int padded = (width + 2 * radius + window - 1) / window * window;
    std::vector<float> in(static_cast<std::size_t>(padded)), ahead(in.size()), behind(in.size());
    for (int y = first; y < end; ++y) {
      float* row = picture.row(y);
      for (int i = 0; i < padded; ++i) in[static_cast<std::size_t>(i)] = row[std::clamp(i - radius, 0, width - 1)];
      for (int i = 0; i < padded; ++i) {
        const auto k = static_cast<std::size_t>(i);
        ahead[k] = i % window == 0 ? in[k] : better(ahead[k - 1], in[k]);
      }
      for (int i = padded - 1; i >= 0; --i) {
        const auto k = static_cast<std::size_t>(i);
        behind[k] = (i + 1) % window == 0 || i == padded - 1 ? in[k] : better(behind[k + 1], in[k]);
      }
      for (int x = 0; x < width; ++x)
        row[x] = better(behind[static_cast<std::size_t>(x)], ahead[static_cast<std::size_t>(x + window - 1)]);
    }
  });
}

Image<float> closed(Image<float> picture, int radius) {
  const auto larger = [](float a, float b) { return a > b ? a : b; };
  const auto smaller = [](float a, float b) { return a < b ? a : b; };
  extremeAlongRows(picture, radius, larger);
  auto turned = transposed(picture);
  extremeAlongRows(turned, radius, larger);
  extremeAlongRows(turned, radius, smaller);
  picture = transposed(turned);
  extremeAlongRows(picture, radius, smaller);
  return picture;
}

/// Quantile of `of(pixel)`, [0, 1], over a ninth of the pixels, which is plenty.
template <typename Of>
float quantile(View<float> picture, double share, Of&& of) {
  constexpr std::size_t bins = 4096;
  std::vector<std::int64_t> histogram(bins);
  std::int64_t count = 0;
  const int step = picture.size().area() > 250'000 ? 3 : 1;
  for (int y = 0; y < picture.height(); y += step)
    for (int x = 0; x < picture.width(); x += step, ++count)
      ++histogram[static_cast<std::size_t>(std::clamp(of(picture(x, y)), 0.0f, 0.9999f) * static_cast<float>(bins))];
  const double wanted = share * static_cast<double>(count);
  double below = 0;
  for (std::size_t b = 0; b < bins; ++b) {
    below += static_cast<double>(histogram[b]);
    if (below >= wanted) return (static_cast<float>(b) + 0.5f) / static_cast<float>(bins);
  }
  return 1;
}

/// A ground that follows paper brighter than its ink, at half size.
Image<float> groundOf(const Image<float>& light, double widest) {
  const auto small = halved(light);
  const int radius = std::max(2, static_cast<int>(std::lround(widest / 4)) + 1);
  return gaussianBlur(closed(small.clone(), radius).view(), static_cast<float>(radius) * 0.8f);
}

/// Light turned over, so that light lines on dark become dark ones on light.
Image<float> inverted(View<float> light) {
  Image<float> out(light.size());
  parallelRows(light.height(), [&](int first, int end) {
    for (int y = first; y < end; ++y)
      for (int x = 0; x < light.width(); ++x) {
        // By lightness, not by light: a dark ground is then as even as a white one.
        const float lightness = 1 - std::sqrt(std::clamp(light(x, y), 0.0f, 1.0f));
        out(x, y) = lightness * lightness;
      }
  });
  return out;
}

/// Marks darker than the middle of the sheet against marks that are lighter.
bool isLightOnDark(View<float> light) {
  const Size small{std::max(8, light.width() / 4), std::max(8, light.height() / 4)};
  auto reduced = resampled(light, small, Resampling::area);
  for (int y = 0; y < reduced.height(); ++y)
    for (float& v : reduced.line(y)) v = std::sqrt(std::max(v, 0.0f));
  const auto around = boxMean(reduced, std::max(4, small.width / 16));
  double dark = 0, bright = 0;
  for (int y = 0; y < reduced.height(); ++y)
    for (int x = 0; x < reduced.width(); ++x) {
      // Cubed: a few strong marks say more than much faint grain.
      const double d = static_cast<double>(reduced(x, y) - around(x, y));
      (d < 0 ? dark : bright) += std::abs(d * d * d);
    }
  return bright > 1.6 * dark;
}

/// Half the relative contrast that fine marks have in a channel: how far pixels lie below their surroundings.
float markContrast(const Image<float>& light, int x, int y) {
  constexpr int away = 6;
  const auto v = light.view();
  const float around =
      0.25f * (v.clamped(x - away, y) + v.clamped(x + away, y) + v.clamped(x, y - away) + v.clamped(x, y + away));
  return std::max(0.0f, 1 - light(x, y) / std::max(around, 0.01f));
}

}  // namespace

Image<float> lightWithoutColour(View<Rgb> picture, StopToken stop) {
  const auto luminances = luminanceOf(picture);
  // The paper's colour: the usual one among the lighter half.
  std::array<std::vector<float>, 3> channels;
  const int step = std::max(1, picture.width() / 256);
  for (int y = 0; y < picture.height(); y += step)
    for (int x = 0; x < picture.width(); x += step) {
      const Rgb c = picture(x, y);
      const float l = std::max(luminances(x, y), 0.004f);
      channels[0].push_back(c.r / l);
      channels[1].push_back(c.g / l);
      channels[2].push_back(c.b / l);
    }
  std::array<float, 3> paper{};
  for (std::size_t i = 0; i < 3; ++i) {
    const auto middle = channels[i].begin() + std::ssize(channels[i]) / 2;
    std::nth_element(channels[i].begin(), middle, channels[i].end());
    paper[i] = std::max(*middle, 0.05f);
  }
  throwIfStopped(stop);
  Image<float> light(picture.size());
  parallelRows(picture.height(), [&](int first, int end) {
    for (int y = first; y < end; ++y)
      for (int x = 0; x < picture.width(); ++x) {
        const Rgb c = picture(x, y);
        const float r = c.r / paper[0], g = c.g / paper[1], b = c.b / paper[2];
        const float most = std::max({r, g, b}), least = std::min({r, g, b});
        light(x, y) = most + 0.35f * (most - least);
      }
  });
  // What stands out most: is it still there?
  std::vector<std::pair<float, float>> marks;
  for (int y = 0; y < picture.height(); y += 2)
    for (int x = 0; x < picture.width(); x += 2)
      if (const float plain = markContrast(luminances, x, y); plain > 0.08f)
        marks.emplace_back(plain, markContrast(light, x, y));
  if (marks.size() < 50) return light;
  const auto strongest = marks.begin() + std::ssize(marks) / 2;
  std::nth_element(marks.begin(), strongest, marks.end(), std::greater<>());
  double plain = 0, left = 0;
  for (auto mark = marks.begin(); mark != strongest; ++mark) {
    plain += static_cast<double>(mark->first);
    left += static_cast<double>(mark->second);
  }
  return left > 0.55 * plain ? std::move(light) : Image<float>();
}

Sheet sheetOf(View<float> light, InkOnPaper polarity, double widest, StopToken stop) {
  Sheet sheet;
  sheet.lightOnDark =
      polarity == InkOnPaper::lightOnDark || (polarity == InkOnPaper::automatic && isLightOnDark(light));
  const auto page = sheet.lightOnDark ? inverted(light) : Image<float>();
  const View<float> seen = sheet.lightOnDark ? page.view() : light;
  // A touch of smoothing takes the finest grain out and keeps lines.
  const auto soft = gaussianBlur(seen, 0.7f);
  throwIfStopped(stop);
  const auto ground = enlarged(groundOf(soft, widest), light.size());
  throwIfStopped(stop);
  sheet.density = Image<float>(light.size());
  parallelRows(light.height(), [&](int first, int end) {
    for (int y = first; y < end; ++y)
      for (int x = 0; x < light.width(); ++x)
        sheet.density(x, y) = std::clamp((ground(x, y) - soft(x, y)) / std::max(ground(x, y), 0.004f), 0.0f, 1.0f);
  });
  // The closing rides on the brightest grains: bare paper lies a little below it.
  const float bare = quantile(sheet.density, 0.5, [](float v) { return v; });
  sheet.grain = 1.48f * quantile(sheet.density, 0.5, [bare](float v) { return std::abs(v - bare); });
  parallelRows(light.height(), [&](int first, int end) {
    for (int y = first; y < end; ++y)
      for (float& v : sheet.density.line(y)) v = std::max(0.0f, (v - bare) / (1 - bare));
  });
  throwIfStopped(stop);
  return sheet;
}

void dropColoured(Sheet& sheet, View<Rgb> picture, double widest, StopToken stop) {
  // Colour is coarser than line: half the size will do.
  const auto small = twoByTwo<Rgb>(picture);
  const auto light = lightWithoutColour(small, stop);
  if (light.empty()) return;
  const auto plain = sheetOf(luminanceOf(small), InkOnPaper::darkOnLight, widest / 2, stop);
  auto neutral = sheetOf(light, InkOnPaper::darkOnLight, widest / 2, stop).density;
  parallelRows(neutral.height(), [&](int first, int end) {
    for (int y = first; y < end; ++y)
      for (int x = 0; x < neutral.width(); ++x)
        neutral(x, y) = std::clamp((neutral(x, y) + 0.004f) / (plain.density(x, y) + 0.008f), 0.0f, 1.0f);
  });
  parallelRows(sheet.density.height(), [&](int first, int end) {
    for (int y = first; y < end; ++y)
      for (int x = 0; x < sheet.density.width(); ++x)
        // Pencil keeps all of its density, a stain little of it.
        sheet.density(x, y) *= std::clamp((neutral.view().clamped(x / 2, y / 2) - 0.35f) * 3, 0.0f, 1.0f);
  });
}

Image<float> inkOn(const Sheet& sheet, double amount, double specks, StopToken stop) {
  // How dark the drawing is: the mean of what clearly stands out.
  const float clear = std::max(0.05f, 5 * sheet.grain);
  double sum = 0, count = 0;
  const int step = sheet.density.size().area() > 250'000 ? 3 : 1;
  for (int y = 0; y < sheet.density.height(); y += step)
    for (const float v : sheet.density.line(y))
      if (v > clear) {
        sum += static_cast<double>(v);
        count += 1;
      }
  const float full = count > 0 ? static_cast<float>(sum / count) : 1.0f;
  const auto scale = static_cast<float>(std::pow(2.0, (50 - amount) / 25));
  const float high = std::max({0.04f, 0.55f * full * scale, 4.5f * sheet.grain * std::min(scale, 1.5f)});
  const float low = std::max({0.02f, 0.5f * high, std::min(2.8f * sheet.grain, high)});
  throwIfStopped(stop);
  Image<std::uint8_t> weak(sheet.density.size());
  parallelRows(weak.height(), [&](int first, int end) {
    for (int y = first; y < end; ++y)
      for (int x = 0; x < weak.width(); ++x) weak(x, y) = sheet.density(x, y) >= low ? 1 : 0;
  });
  const auto pieces = componentsOf(weak, Connected::eight);
  std::vector<bool> strong(pieces.all.size(), false);
  for (int y = 0; y < weak.height(); ++y)
    for (int x = 0; x < weak.width(); ++x)
      if (sheet.density(x, y) >= high) strong[static_cast<std::size_t>(pieces.label(x, y))] = true;
  for (std::size_t i = 0; i < strong.size(); ++i)
    if (static_cast<double>(pieces.all[i].area) < specks) strong[i] = false;
  throwIfStopped(stop);
  // Within half of what is darkest near, so that a line has its own width, however dark it is.
  constexpr int reach = 3;  // at half size
  auto darkest = halved(sheet.density);
  extremeAlongRows(darkest, reach, [](float a, float b) { return a > b ? a : b; });
  darkest = transposed(darkest);
  extremeAlongRows(darkest, reach, [](float a, float b) { return a > b ? a : b; });
  darkest = transposed(darkest);
  throwIfStopped(stop);
  Image<float> ink(sheet.density.size());
  parallelRows(ink.height(), [&](int first, int end) {
    for (int y = first; y < end; ++y)
      for (int x = 0; x < ink.width(); ++x)
        if (const auto piece = pieces.label(x, y); piece >= 0 && strong[static_cast<std::size_t>(piece)]) {
          const float d = sheet.density(x, y), share = d / std::max(darkest(x / 2, y / 2), low);
          ink(x, y) = std::clamp(std::max((share - 0.25f) / 0.4f, (d / full - 0.5f) / 0.4f), 0.0f, 1.0f);
        }
  });
  return ink;
}

}  // namespace hscaffold
