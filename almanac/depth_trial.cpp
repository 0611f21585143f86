#include "depth_trial.h"

#include <algorithm>
#include <cmath>

#include "core/engine/standin/noise.h"

namespace almanac {

using hscaffold::depth::Constraints;
using hscaffold::depth::Seen;
using hscaffold::depth::Solution;

std::vector<float> trueNear(const Seen& seen, hscaffold::View<float> nearness) {
  std::vector<double> sums(seen.patches.cells.size());
  std::vector<float> all;
  for (int y = 0; y < seen.size.height; ++y)
    for (int x = 0; x < seen.size.width; ++x) {
      sums[static_cast<std::size_t>(seen.patches.cell(x, y))] += static_cast<double>(nearness(x, y));
      all.push_back(nearness(x, y));
    }
  const auto at = static_cast<std::ptrdiff_t>(all.size() * 985 / 1000);
  std::nth_element(all.begin(), all.begin() + at, all.end());
  const float top = std::max(1e-6f, all[static_cast<std::size_t>(at)]);
  std::vector<float> out;
  for (std::size_t i = 0; i < sums.size(); ++i)
    out.push_back(std::min(1.0f, static_cast<float>(sums[i]) / static_cast<float>(seen.patches.cells[i].area) / top));
  return out;
}

Pairs truePairs(const std::vector<float>& truth, int count, std::uint64_t seed) {
  using hscaffold::standin::mixed;
  Pairs out;
  const auto any = [&](std::uint64_t i, std::uint64_t which) {
    return static_cast<std::size_t>(hscaffold::standin::unit(mixed(seed, i, which)) * static_cast<float>(truth.size()));
  };
  for (std::uint64_t i = 0; static_cast<int>(out.size()) < count && i < 20 * static_cast<std::uint64_t>(count); ++i) {
    const std::size_t a = any(i, 1), b = any(i, 2);
    if (truth[a] - truth[b] > 0.03f) out.emplace_back(static_cast<int>(a), static_cast<int>(b));
  }
  return out;
}

double inOrder(const Pairs& pairs, const std::vector<float>& near) {
  double right = 0;
  for (const auto& [a, b] : pairs) {
    const float apart = near[static_cast<std::size_t>(a)] - near[static_cast<std::size_t>(b)];
    right += apart > 1e-6f ? 1 : apart < -1e-6f ? 0 : 0.5;
  }
  return pairs.empty() ? 1 : right / static_cast<double>(pairs.size());
}

double turned(const std::vector<float>& from, const std::vector<float>& to, float apart) {
  double changed = 0, all = 0;
  for (std::size_t i = 0; i < from.size(); ++i)
    for (std::size_t j = i + 1; j < from.size(); ++j) {
      const float p = from[i] - from[j], q = to[i] - to[j];
      if (std::isnan(p) || std::isnan(q) || std::fabs(p) <= apart) continue;
      all += 1;
      changed += (p > 0) != (q > 0) ? 1 : 0;
    }
  return all > 0 ? changed / all : 0;
}

Pairs awayFrom(const Pairs& pairs, const Seen& seen, const std::vector<int>& cells) {
  const auto away = [&](int i) {
    const auto at = static_cast<std::size_t>(i);
    return std::none_of(cells.begin(), cells.end(), [&](int c) {
      const auto cell = static_cast<std::size_t>(c);
      return std::hypot(seen.x[at] - seen.x[cell], seen.y[at] - seen.y[cell]) < 0.1f;
    });
  };
  Pairs out;
  for (const auto& pair : pairs)
    if (away(pair.first) && away(pair.second)) out.push_back(pair);
  return out;
}

int worstPlace(const Seen& seen, const std::vector<float>& truth, const std::vector<float>& near) {
  std::vector<float> error;
  for (std::size_t i = 0; i < truth.size(); ++i) error.push_back(near[i] - truth[i]);
  for (int round = 0; round < 3; ++round) {
    auto sum = error;
    std::vector<float> count(error.size(), 1);
    for (const auto& border : seen.patches.borders) {
      const auto a = static_cast<std::size_t>(border.a), b = static_cast<std::size_t>(border.b);
      sum[a] += error[b];
      sum[b] += error[a];
      ++count[a];
      ++count[b];
    }
    for (std::size_t i = 0; i < sum.size(); ++i) error[i] = sum[i] / count[i];
  }
  const auto worse = [](float a, float b) { return std::fabs(a) < std::fabs(b); };
  return static_cast<int>(std::max_element(error.begin(), error.end(), worse) - error.begin());
}

Hinted hinted(const Seen& seen, const std::vector<float>& truth, const Solution& first, int count) {
  Hinted out;
  out.near = first.near;
  Constraints constraints;
  for (int h = 0; h < count; ++h) {
    const int worst = worstPlace(seen, truth, out.near);
    out.places.push_back(worst);
    constraints.levels.push_back({worst, truth[static_cast<std::size_t>(worst)], 1});
    out.near = hscaffold::depth::withHints(seen, first, constraints).near;
  }
  return out;
}

}  // namespace almanac
