#include "depth_fixtures.h"

#include <algorithm>
#include <cmath>
#include <random>

namespace depth_fixtures {

std::vector<float> trueNear(const depth::Seen& seen, View<float> nearness) {
  std::vector<double> sums(seen.patches.cells.size());
  for (int y = 0; y < seen.size.height; ++y)
    for (int x = 0; x < seen.size.width; ++x)
      sums[static_cast<std::size_t>(seen.patches.cell(x, y))] += static_cast<double>(nearness(x, y));
  std::vector<float> out;
  for (std::size_t i = 0; i < sums.size(); ++i)
    out.push_back(static_cast<float>(sums[i]) / static_cast<float>(seen.patches.cells[i].area));
  auto sorted = out;
  std::sort(sorted.begin(), sorted.end());
  const float top = std::max(1e-6f, sorted[sorted.size() * 98 / 100]);
  for (float& v : out) v = std::min(1.0f, v / top);
  return out;
}

double inOrder(const depth::Seen& seen, const std::vector<float>& truth, const std::vector<float>& near,
               const std::vector<int>& far) {
  std::mt19937 random(5);
  std::uniform_int_distribution<std::size_t> any(0, truth.size() - 1);
  const auto beside = [&](std::size_t i) {
    return std::any_of(far.begin(), far.end(), [&](int f) {
      return std::hypot(seen.x[i] - seen.x[static_cast<std::size_t>(f)],
                        seen.y[i] - seen.y[static_cast<std::size_t>(f)]) < 0.1f;
    });
  };
  double right = 0, all = 0;
  for (int i = 0; i < 20000; ++i) {
    const std::size_t a = any(random), b = any(random);
    if (truth[a] - truth[b] <= 0.03f || beside(a) || beside(b)) continue;
    all += 1;
    right += near[a] > near[b] ? 1 : near[a] == near[b] ? 0.5 : 0;
  }
  return all > 0 ? right / all : 1;
}

int cellAt(const depth::Seen& seen, float x, float y) {
  return seen.patches.cell(static_cast<int>(x * static_cast<float>(seen.size.width)),
                           static_cast<int>(y * static_cast<float>(seen.size.height)));
}

float meanIn(const depth::Seen& seen, const std::vector<float>& values, float left, float top, float right,
             float bottom) {
  float sum = 0, count = 0;
  for (std::size_t i = 0; i < values.size(); ++i) {
    if (seen.x[i] < left || seen.x[i] > right || seen.y[i] < top || seen.y[i] > bottom) continue;
    sum += values[i];
    count += 1;
  }
  return sum / std::max(1.0f, count);
}

}  // namespace depth_fixtures
