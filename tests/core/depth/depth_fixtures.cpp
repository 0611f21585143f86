#include "depth_fixtures.h"

#include <algorithm>

namespace depth_fixtures {

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
