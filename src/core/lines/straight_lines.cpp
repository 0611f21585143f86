#include "core/lines/straight_lines.h"

#include <algorithm>
#include <array>
#include <cmath>
#include <vector>

#include "core/image/parallel.h"
#include "core/image/transform.h"

namespace hscaffold {
namespace {

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

/// Takes one line out: along it, in pieces, a little more than the usual density at each place of its cross section.
void takeOut(Image<float>& rows, const RuledLine& line) {
  constexpr int half = 4, piece = 96;
  const auto rowAt = [&](int x) {
    return static_cast<int>(std::lround(line.at + line.slope * (x - rows.width() / 2.0)));
  };
  // Each place of the cross section on its own: no two of them share a pixel.
  parallelRows(
      2 * half + 1,
      [&](int first, int end) {
        std::vector<float> values;
        for (int k = first - half; k < end - half; ++k)
          for (int x0 = 0; x0 < rows.width(); x0 += piece) {
            const int x1 = std::min(rows.width(), x0 + piece);
            values.clear();
            for (int x = std::max(0, x0 - piece / 2); x < std::min(rows.width(), x1 + piece / 2); ++x)
              if (const int y = rowAt(x) + k; y >= 0 && y < rows.height()) values.push_back(rows(x, y));
            if (values.empty()) continue;
            const auto upper = values.begin() + static_cast<std::ptrdiff_t>(values.size() * 6 / 10);
            std::nth_element(values.begin(), upper, values.end());
            const float usual = 1.15f * *upper;
            for (int x = x0; x < x1; ++x)
              if (const int y = rowAt(x) + k; y >= 0 && y < rows.height())
                rows(x, y) = std::max(0.0f, rows(x, y) - usual);
          }
      },
      2);
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

}  // namespace

int removeStraightLines(Image<float>& density, float grain, StopToken stop) {
  const int across = removeStraightAcross(density, grain, stop);
  auto turned = transposed(density);
  const int down = removeStraightAcross(turned, grain, stop);
  if (down > 0) density = transposed(turned);
  return across + down;
}

}  // namespace hscaffold
