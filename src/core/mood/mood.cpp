#include "core/mood/mood.h"

#include <algorithm>
#include <array>
#include <cmath>
#include <numeric>

#include "core/image/filter.h"
#include "core/image/narrow.h"
#include "core/image/parallel.h"
#include "core/image/resample.h"
#include "core/mood/transport.h"

namespace hscaffold::mood {
namespace {

constexpr std::array sortings = {std::pair{Sorting::asItLies, "as-it-lies"}, std::pair{Sorting::byLight, "by-light"},
                                 std::pair{Sorting::byColour, "by-colour"}, std::pair{Sorting::byDepth, "by-depth"}};

/// A mood has no detail: it is made at this size and enlarged.
constexpr double longest = 256;

Image<Rgb> linearOf(const std::vector<OkLab>& colours, Size size) {
  Image<Rgb> out(size);
  std::size_t at = 0;
  for (int y = 0; y < size.height; ++y)
    for (Rgb& c : out.line(y)) {
      OkLab lab = colours[at++];
      lab.l = std::clamp(lab.l, 0.0f, 1.0f);
      c = okLabToLinearInGamut(lab);
    }
  return out;
}

Image<Rgb> blurred(Image<Rgb> picture, double percent) {
  const double sigma = percent / 100 * std::max(picture.width(), picture.height());
  return sigma < 0.3 ? std::move(picture) : broadBlur(picture.view(), static_cast<float>(sigma));
}

/// Mean colours of a mood from its top to its bottom.
std::vector<OkLab> fromTopToBottom(const Image<Rgb>& mood) {
  std::vector<OkLab> rows;
  for (int y = 0; y < mood.height(); ++y) {
    OkLab sum{};
    for (const Rgb& c : mood.line(y)) {
      const OkLab lab = linearToOkLab(c);
      sum = {sum.l + lab.l, sum.a + lab.a, sum.b + lab.b};
    }
    const auto count = static_cast<float>(mood.width());
    rows.push_back({sum.l / count, sum.a / count, sum.b / count});
  }
  return rows;
}

/// Each place gets the colour of the row that has as much above it as the place has behind it.
Image<Rgb> byDepth(const Image<Rgb>& mood, View<std::uint16_t> near, Size size) {
  const auto values = resampled(widened(near).view(), size, Resampling::area);
  std::vector<float> sorted;
  for (int y = 0; y < size.height; ++y) sorted.insert(sorted.end(), values.row(y), values.row(y) + size.width);
  std::sort(sorted.begin(), sorted.end());
  const auto rows = fromTopToBottom(mood);
  std::vector<OkLab> out;
  for (int y = 0; y < size.height; ++y)
    for (const float v : values.line(y)) {
      const auto [first, last] = std::equal_range(sorted.begin(), sorted.end(), v);
      const double rank = 0.5 * static_cast<double>((first - sorted.begin()) + (last - sorted.begin())) /
                          static_cast<double>(sorted.size());
      const double at =
          std::clamp(rank * static_cast<double>(rows.size()) - 0.5, 0.0, static_cast<double>(rows.size() - 1));
      const auto above = static_cast<std::size_t>(at), below = std::min(above + 1, rows.size() - 1);
      const auto t = static_cast<float>(at - static_cast<double>(above));
      out.push_back({rows[above].l + t * (rows[below].l - rows[above].l),
                     rows[above].a + t * (rows[below].a - rows[above].a),
                     rows[above].b + t * (rows[below].b - rows[above].b)});
    }
  return linearOf(out, size);
}

float squaredDistance(OkLab a, OkLab b) {
  return (a.l - b.l) * (a.l - b.l) + (a.a - b.a) * (a.a - b.a) + (a.b - b.b) * (a.b - b.b);
}

}  // namespace

const char* idOf(Sorting sorting) {
  return std::find_if(sortings.begin(), sortings.end(), [&](const auto& s) { return s.first == sorting; })->second;
}

std::optional<Sorting> sortingNamed(const std::string& id) {
  for (const auto& [sorting, name] : sortings)
    if (id == name) return sorting;
  return {};
}

bool canSort(Sorting sorting, const Layout& layout) {
  switch (sorting) {
    case Sorting::asItLies:
      return true;
    case Sorting::byDepth:
      return !layout.near.empty();
    default:
      return !layout.picture.empty();
  }
}

Image<Rgb> moodOf(View<Rgb> picture, const MoodTuning& tuning, const Layout& layout, StopToken stop) {
  if (picture.empty()) return {};
  const Size size = picture.size(), small = within(size, longest);
  auto mood = resampled(picture, small, Resampling::area, stop);
  Image<Rgb> out;
  if (tuning.sorting == Sorting::asItLies || !canSort(tuning.sorting, layout)) {
    out = blurred(std::move(mood), tuning.blur);
  } else if (tuning.sorting == Sorting::byDepth) {
    out = blurred(byDepth(mood, layout.near, small), 0.25 * tuning.blur);
  } else {
    const auto shape = resampled(layout.picture, small, Resampling::area, stop);
    const auto from = labsOf(shape), to = labsOf(mood);
    std::vector<OkLab> sorted;
    const MonotoneTransport transport(from, to);
    for (const OkLab& c : from) sorted.push_back(transport(c));
    // From there it is not far to the mood's own distribution. Light stays in its order, which is what layout is told
    // by.
    if (tuning.sorting == Sorting::byColour) {
      auto exact = slicedTransport(sorted, to, stop);
      for (std::size_t i = 0; i < exact.size(); ++i) exact[i].l = sorted[i].l;
      sorted = std::move(exact);
    }
    // The layout's edges stay: what is smoothed is what colours move by.
    out = blurred(linearOf(sorted, small), 0.25 * tuning.blur);
  }
  throwIfStopped(stop);
  if (small != size) out = resampled(out.view(), size, Resampling::lanczos3, stop);
  parallelRows(size.height, [&](int first, int end) {
    for (int y = first; y < end; ++y)
      for (Rgb& c : out.line(y))
        c = {std::clamp(c.r, 0.0f, 1.0f), std::clamp(c.g, 0.0f, 1.0f), std::clamp(c.b, 0.0f, 1.0f)};
  });
  return out;
}

std::vector<WantedColour> paletteOf(View<Rgb> picture, std::size_t count, const std::vector<WantedColour>& before) {
  count = std::clamp(count, leastColours, mostColours);
  std::vector<WantedColour> out(count);
  std::vector<bool> fixed(count);
  for (std::size_t i = 0; i < std::min(count, before.size()); ++i)
    if (before[i].locked) {
      out[i] = before[i];
      fixed[i] = true;
    }
  if (picture.empty()) return out;
  const auto colours = coloursOf(picture);
  std::vector<OkLab> centres(count);
  std::vector<std::size_t> set;
  for (std::size_t i = 0; i < count; ++i)
    if (fixed[i]) {
      centres[i] = linearToOkLab(out[i].colour);
      set.push_back(i);
    }
  // Begun with the mean, then with what is far from all others and not alone there.
  OkLab mean{};
  for (const OkLab& c : colours) mean = {mean.l + c.l, mean.a + c.a, mean.b + c.b};
  const auto all = static_cast<float>(colours.size());
  mean = {mean.l / all, mean.a / all, mean.b / all};
  for (std::size_t i = 0; i < count; ++i) {
    if (fixed[i]) continue;
    if (set.empty()) {
      centres[i] = mean;
      set.push_back(i);
      continue;
    }
    std::vector<std::pair<float, std::size_t>> away;
    for (std::size_t c = 0; c < colours.size(); ++c) {
      float least = 1e9f;
      for (const std::size_t s : set) least = std::min(least, squaredDistance(colours[c], centres[s]));
      away.emplace_back(least, c);
    }
    // Not the farthest of all, which may be a single spark: what one in a hundred is farther than.
    const auto at = away.begin() + static_cast<std::ptrdiff_t>(away.size() / 100);
    std::nth_element(away.begin(), at, away.end(), std::greater<>());
    centres[i] = colours[at->second];
    set.push_back(i);
  }
  std::vector<std::size_t> members(count);
  constexpr int rounds = 24;
  for (int round = 0; round < rounds; ++round) {
    std::vector<std::array<double, 4>> sums(count, {0, 0, 0, 0});
    for (const OkLab& c : colours) {
      std::size_t nearest = 0;
      for (std::size_t i = 1; i < count; ++i)
        if (squaredDistance(c, centres[i]) < squaredDistance(c, centres[nearest])) nearest = i;
      auto& sum = sums[nearest];
      sum[0] += static_cast<double>(c.l), sum[1] += static_cast<double>(c.a), sum[2] += static_cast<double>(c.b);
      ++sum[3];
    }
    for (std::size_t i = 0; i < count; ++i) {
      members[i] = static_cast<std::size_t>(sums[i][3]);
      if (fixed[i] || sums[i][3] <= 0) continue;
      centres[i] = {static_cast<float>(sums[i][0] / sums[i][3]), static_cast<float>(sums[i][1] / sums[i][3]),
                    static_cast<float>(sums[i][2] / sums[i][3])};
    }
  }
  std::vector<std::size_t> order;
  for (std::size_t i = 0; i < count; ++i)
    if (!fixed[i]) order.push_back(i);
  std::stable_sort(order.begin(), order.end(), [&](std::size_t a, std::size_t b) { return members[a] > members[b]; });
  std::size_t next = 0;
  for (std::size_t i = 0; i < count; ++i)
    if (!fixed[i]) out[i] = {okLabToLinearInGamut(centres[order[next++]]), false};
  return out;
}

}  // namespace hscaffold::mood
