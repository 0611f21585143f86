#include "core/lines/paper_lines.h"

#include <array>
#include <cmath>
#include <vector>

#include "core/image/colour.h"
#include "core/image/components.h"
#include "core/image/filter.h"
#include "core/image/parallel.h"
#include "core/image/resample.h"

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

Image<float> transposed(View<float> picture) {
  Image<float> out(picture.height(), picture.width());
  constexpr int block = 32;
  parallelRows((out.height() + block - 1) / block,
               [&](int first, int end) {
                 for (int y0 = first * block; y0 < std::min(out.height(), end * block); y0 += block)
                   for (int x0 = 0; x0 < out.width(); x0 += block)
                     for (int y = y0; y < std::min(y0 + block, out.height()); ++y)
                       for (int x = x0; x < std::min(x0 + block, out.width()); ++x) out(x, y) = picture(y, x);
               },
               1);
  return out;
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

struct RuledLine {
  double at = 0, slope = 0;  ///< y = at + slope * x
};

/// With several running sums, so that the additions do not wait for each other.
double sumOf(const float* from, const float* end) {
  std::array<float, 8> sums{};
  for (; end - from >= 8; from += 8)
    for (std::size_t i = 0; i < 8; ++i) sums[i] += from[i];
  double sum = 0;
  for (const float part : sums) sum += static_cast<double>(part);
  for (; from != end; ++from) sum += static_cast<double>(*from);
  return sum;
}

/// Mean of each sheared row of `rows`; what leaves the picture is not counted.
std::vector<float> profileOf(const Image<float>& rows, double slope) {
  std::vector<double> sum(static_cast<std::size_t>(rows.height()));
  std::vector<int> count(sum.size());
  // Whole-pixel steps of the shear: pieces of rows are added, not single pixels.
  for (int x0 = 0; x0 < rows.width();) {
    const int shift = static_cast<int>(std::lround(slope * (x0 - rows.width() / 2.0)));
    int x1 = x0 + 1;
    while (x1 < rows.width() && static_cast<int>(std::lround(slope * (x1 - rows.width() / 2.0))) == shift) ++x1;
    for (int y = std::max(0, -shift); y < std::min(rows.height(), rows.height() - shift); ++y) {
      const float* row = rows.row(y + shift);
      sum[static_cast<std::size_t>(y)] += sumOf(row + x0, row + x1);
      count[static_cast<std::size_t>(y)] += x1 - x0;
    }
    x0 = x1;
  }
  std::vector<float> profile(sum.size());
  for (std::size_t y = 0; y < sum.size(); ++y)
    profile[y] = count[y] > rows.width() / 2 ? static_cast<float>(sum[y] / count[y]) : 0.0f;
  return profile;
}

/// Peaks of a profile above its surroundings.
std::vector<int> peaksOf(const std::vector<float>& profile, float least) {
  std::vector<int> peaks;
  const int count = static_cast<int>(profile.size());
  for (int y = 1; y + 1 < count; ++y) {
    const auto at = [&](int i) { return profile[static_cast<std::size_t>(std::clamp(i, 0, count - 1))]; };
    const float around = 0.25f * (at(y - 4) + at(y + 4) + at(y - 6) + at(y + 6));
    if (at(y) >= at(y - 1) && at(y) > at(y + 1) && at(y) - around > least) peaks.push_back(y);
  }
  return peaks;
}

/// Ruled lines run through: nearly everywhere along them there is some of their density, not only on the whole. A fold
/// begins and ends at the sheet's border and has no gap: a drawn line seldom does.
bool runsThrough(const Image<float>& rows, float most, const RuledLine& line, float least, bool fold) {
  constexpr int parts = 12;
  int filled = 0, seen = 0;
  bool begins = false, ends = false;
  for (int part = 0; part < parts; ++part) {
    const int x0 = rows.width() * part / parts, x1 = rows.width() * (part + 1) / parts;
    double on = 0, beside = 0;
    int count = 0;
    for (int x = x0; x < x1; ++x) {
      const int y = static_cast<int>(std::lround(line.at + line.slope * (x - rows.width() / 2.0)));
      if (y < 5 || y >= rows.height() - 5) continue;
      const auto at = [&](int row) { return std::min(most, rows(x, row)); };
      on += static_cast<double>(std::max({at(y - 1), at(y), at(y + 1)}));
      beside += 0.5 * static_cast<double>(std::max({at(y - 4), at(y - 5), at(y - 3)}) +
                                          std::max({at(y + 4), at(y + 5), at(y + 3)}));
      ++count;
    }
    if (count < (x1 - x0) / 2) continue;
    ++seen;
    ends = (on - beside) / count > 0.45 * static_cast<double>(least);
    if (seen == 1) begins = ends;
    filled += ends ? 1 : 0;
  }
  if (fold) return seen >= parts * 2 / 3 && begins && ends && filled >= seen - 1;
  return seen >= parts / 2 && filled >= (seen * 3 + 3) / 4;
}

/// Takes one line out: along it, in pieces, the usual (lower quartile) density of its cross section.
void takeOut(Image<float>& rows, const RuledLine& line) {
  constexpr int half = 4, piece = 96;
  for (int x0 = 0; x0 < rows.width(); x0 += piece) {
    const int x1 = std::min(rows.width(), x0 + piece);
    for (int k = -half; k <= half; ++k) {
      std::vector<float> values;
      for (int x = std::max(0, x0 - piece / 2); x < std::min(rows.width(), x1 + piece / 2); ++x) {
        const int y = static_cast<int>(std::lround(line.at + line.slope * (x - rows.width() / 2.0))) + k;
        if (y >= 0 && y < rows.height()) values.push_back(rows(x, y));
      }
      if (values.empty()) continue;
      const auto upper = values.begin() + static_cast<std::ptrdiff_t>(values.size() * 6 / 10);
      std::nth_element(values.begin(), upper, values.end());
      const float usual = 1.15f * *upper;
      for (int x = x0; x < x1; ++x) {
        const int y = static_cast<int>(std::lround(line.at + line.slope * (x - rows.width() / 2.0))) + k;
        if (y >= 0 && y < rows.height()) rows(x, y) = std::max(0.0f, rows(x, y) - usual);
      }
    }
  }
}

/// How much a profile is made of sharp peaks.
double sharpnessOf(const std::vector<float>& profile) {
  double sharp = 0;
  for (std::size_t y = 1; y + 1 < profile.size(); ++y) {
    const auto d = static_cast<double>(2 * profile[y] - profile[y - 1] - profile[y + 1]);
    sharp += d > 0 ? d * d : 0;
  }
  return sharp;
}

float limitFor(float grain) { return std::max(0.12f, 6 * grain); }
float leastFor(float grain) { return std::max(0.012f, 0.35f * grain); }

/// The mean of each two by two pixels.
template <typename T>
Image<T> twoByTwo(View<T> picture) {
  Image<T> out(std::max(1, picture.width() / 2), std::max(1, picture.height() / 2));
  parallelRows(out.height(), [&](int first, int end) {
    for (int y = first; y < end; ++y)
      for (int x = 0; x < out.width(); ++x)
        out(x, y) = (picture.clamped(2 * x, 2 * y) + picture.clamped(2 * x + 1, 2 * y) +
                     picture.clamped(2 * x, 2 * y + 1) + picture.clamped(2 * x + 1, 2 * y + 1)) *
                    0.25f;
  });
  return out;
}

/// The density as straight lines are looked for in it, in several sizes: cut off, so that drawn ink does not outweigh
/// faint lines.
struct Search {
  Image<float> half, quarter, eighth;
  Search(const Image<float>& density, float grain) : half(twoByTwo<float>(density)) {
    const float most = limitFor(grain);
    parallelRows(half.height(), [&](int first, int end) {
      for (int y = first; y < end; ++y)
        for (float& v : half.line(y)) v = std::min(v, most);
    });
    quarter = twoByTwo<float>(half);
    eighth = twoByTwo<float>(quarter);
  }
};

/// Of lines near `about`, the one along which most density lies.
RuledLine placed(const Image<float>& density, float most, const RuledLine& about, double rows, double slopes,
                 double slopeStep) {
  RuledLine best = about;
  double highest = -1;
  for (double s = about.slope - slopes; s <= about.slope + slopes + 1e-9; s += slopeStep)
    for (double y = about.at - rows; y <= about.at + rows; y += 1) {
      double sum = 0;
      for (int x = 0; x < density.width(); x += 2) {
        const int row = static_cast<int>(std::lround(y + s * (x - density.width() / 2.0)));
        if (row >= 0 && row < density.height()) sum += static_cast<double>(std::min(density(x, row), most));
      }
      if (sum > highest) {
        highest = sum;
        best = {y, s};
      }
    }
  return best;
}

int removeAcross(Image<float>& density, const Search& search, float grain, const StopToken& stop) {
  // The tilt is looked for in a smaller picture, then every line is placed exactly.
  const double step = 1.0 / search.quarter.width();
  const auto sharpest = [&](const Image<float>& rows, double from, double to, double by) {
    const int count = static_cast<int>((to - from) / by + 1.5);
    std::vector<double> sharp(static_cast<std::size_t>(count));
    parallelRows(
        count,
        [&](int first, int end) {
          for (int i = first; i < end && !stop.stop_requested(); ++i)
            sharp[static_cast<std::size_t>(i)] = sharpnessOf(profileOf(rows, from + i * by));
        },
        2);
    throwIfStopped(stop);
    return from + by * static_cast<double>(std::max_element(sharp.begin(), sharp.end()) - sharp.begin());
  };
  const double about = sharpest(search.quarter, -0.055, 0.055, 2 * step);
  const double slope = sharpest(search.half, about - 1.5 * step, about + 1.5 * step, step / 2);
  const float least = leastFor(grain);
  int removed = 0;
  for (const int y : peaksOf(profileOf(search.half, slope), least / 2)) {
    const RuledLine line = placed(density, limitFor(grain), {2.0 * y + 0.5, slope}, 2, 0, 1);
    if (!runsThrough(density, limitFor(grain), line, least, false)) continue;
    takeOut(density, line);
    ++removed;
  }
  return removed;
}

/// The straight line across (up to 45 degrees) along which most density lies, if it runs through the sheet.
bool removeFoldAcross(Image<float>& density, const Search& search, float grain, const StopToken& stop) {
  constexpr int reduction = 8;
  const auto& coarse = search.eighth;
  const Size small = coarse.size();
  const double step = 2.0 / small.width;
  struct Peak {
    double height = 0, at = -1;
  };
  std::vector<Peak> peaks(static_cast<std::size_t>(small.width + 1));
  const auto slopeOf = [&](std::ptrdiff_t i) { return step * (static_cast<double>(i) - small.width / 2.0); };
  parallelRows(static_cast<int>(peaks.size()), [&](int first, int end) {
    for (int i = first; i < end && !stop.stop_requested(); ++i) {
      const auto profile = profileOf(coarse, slopeOf(i));
      Peak& best = peaks[static_cast<std::size_t>(i)];
      for (std::size_t y = 2; y + 2 < profile.size(); ++y) {
        const auto height = static_cast<double>(profile[y] - 0.5f * (profile[y - 2] + profile[y + 2]));
        if (profile[y - 2] > 0 && profile[y + 2] > 0 && height > best.height) best = {height, static_cast<double>(y)};
      }
    }
  });
  throwIfStopped(stop);
  // The most promising ones are looked at closely; what is near one of them is the same line.
  constexpr int tries = 6;
  for (int i = 0; i < tries; ++i) {
    const auto found =
        std::max_element(peaks.begin(), peaks.end(), [](const Peak& a, const Peak& b) { return a.height < b.height; });
    const Peak peak = *found;
    if (peak.at < 0) return false;
    const RuledLine line =
        placed(density, limitFor(grain), {(peak.at + 0.5) * reduction, slopeOf(found - peaks.begin())}, reduction, step,
               2.0 / density.width());
    if (runsThrough(density, limitFor(grain), line, 2 * leastFor(grain), true)) {
      takeOut(density, line);
      return true;
    }
    const auto from = found - std::min<std::ptrdiff_t>(4, found - peaks.begin());
    for (auto near = from; near != peaks.end() && near <= found + 4; ++near)
      if (std::abs(near->at - peak.at) < 4) *near = {};
  }
  return false;
}

/// @return how many lines were taken out.
int removeStraightAcross(Image<float>& density, float grain, const StopToken& stop) {
  constexpr int mostFolds = 3;
  auto search = Search(density, grain);
  int removed = removeAcross(density, search, grain, stop);
  if (removed > 0) search = Search(density, grain);
  for (int i = 0; i < mostFolds && removeFoldAcross(density, search, grain, stop); ++i) {
    ++removed;
    search = Search(density, grain);
  }
  return removed;
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

int removeStraightLines(Image<float>& density, float grain, StopToken stop) {
  const int across = removeStraightAcross(density, grain, stop);
  auto turned = transposed(density);
  const int down = removeStraightAcross(turned, grain, stop);
  if (down > 0) density = transposed(turned);
  return across + down;
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
  const auto share = enlarged(neutral.view(), {2 * neutral.width(), 2 * neutral.height()});
  parallelRows(sheet.density.height(), [&](int first, int end) {
    for (int y = first; y < end; ++y)
      for (int x = 0; x < sheet.density.width(); ++x)
        // Pencil keeps all of its density, a stain little of it.
        sheet.density(x, y) *= std::clamp((share.view().clamped(x, y) - 0.35f) * 3, 0.0f, 1.0f);
  });
}

Image<float> inkOn(const Sheet& sheet, double amount, StopToken stop) {
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
  throwIfStopped(stop);
  // Within half of what is darkest near, so that a line has its own width, however dark it is.
  constexpr int reach = 3;  // at half size
  auto darkest = halved(sheet.density);
  extremeAlongRows(darkest, reach, [](float a, float b) { return a > b ? a : b; });
  darkest = transposed(darkest);
  extremeAlongRows(darkest, reach, [](float a, float b) { return a > b ? a : b; });
  darkest = enlarged(transposed(darkest).view(), sheet.density.size());
  throwIfStopped(stop);
  Image<float> ink(sheet.density.size());
  parallelRows(ink.height(), [&](int first, int end) {
    for (int y = first; y < end; ++y)
      for (int x = 0; x < ink.width(); ++x)
        if (const auto piece = pieces.label(x, y); piece >= 0 && strong[static_cast<std::size_t>(piece)]) {
          const float d = sheet.density(x, y), share = d / std::max(darkest(x, y), low);
          ink(x, y) = std::clamp(std::max((share - 0.25f) / 0.4f, (d / full - 0.5f) / 0.4f), 0.0f, 1.0f);
        }
  });
  return ink;
}

}  // namespace hscaffold
