#include "core/depth/solve.h"

#include <algorithm>
#include <cmath>
#include <numeric>

#include "core/depth/least_squares.h"

namespace hscaffold::depth {
namespace {

constexpr double smoothing = 1.5;  // of the first depth, against cues of weight 1
constexpr float likeColour = 6;    // CIELAB difference up to which two cells are alike

/// How strongly two neighbouring cells are held together.
double affinity(const Seen& seen, const Border& border) {
  return std::exp(-0.5 * std::pow(static_cast<double>(apartness(seen.patches, border) / likeColour), 2)) *
         border.length / static_cast<double>(seen.patches.spacing);
}

}  // namespace

Solution firstSolution(const Seen& seen, const Guess& guess, StopToken stop) {
  Solution out;
  const std::size_t count = guess.near.size();
  if (count == 0) return out;
  throwIfStopped(stop);
  LeastSquares system(count);
  for (std::size_t i = 0; i < count; ++i)
    system.fix(static_cast<int>(i), static_cast<double>(guess.near[i]), static_cast<double>(guess.weight[i]));
  for (const Border& border : seen.patches.borders) system.tie(border.a, border.b, smoothing * affinity(seen, border));
  // Fine texture all over hides what is before what, the more so where no horizon is to be seen.
  const float grain = std::accumulate(seen.grain.begin(), seen.grain.end(), 0.0f) / static_cast<float>(count),
              hidden = 0.6f * (1 - seen.horizon.sure()) * std::clamp((grain - 0.015f) / 0.03f, 0.0f, 1.0f);
  const Eigen::VectorXd near = system.solved();
  for (std::size_t i = 0; i < count; ++i) {
    const float value = std::clamp(static_cast<float>(near[static_cast<Eigen::Index>(i)]), 0.0f, 1.0f);
    out.near.push_back(value);
    // Sure is what many cues say alike, above all that something is very near or very far.
    const float agreed = std::exp(-std::pow(guess.spread[i] / 0.3f, 2.0f));
    const float told = guess.weight[i] / (guess.weight[i] + 1.0f);
    out.sure.push_back(std::clamp((1 - hidden) * agreed * told * (0.35f + 1.3f * std::fabs(value - 0.5f)), 0.0f, 1.0f));
  }
  return out;
}

std::vector<int> leastSure(const Seen& seen, const Solution& solution, int most) {
  struct Doubt {
    float much;
    std::size_t piece;
  };
  std::vector<Doubt> doubts;
  for (std::size_t p = 0; p < seen.pieces.size(); ++p) {
    float much = 0;
    for (const int i : seen.pieces[p].cells) much += 1 - solution.sure[static_cast<std::size_t>(i)];
    doubts.push_back({much, p});
  }
  std::stable_sort(doubts.begin(), doubts.end(), [](const Doubt& a, const Doubt& b) { return a.much > b.much; });
  std::vector<int> out;
  for (const Doubt& doubt : doubts) {
    if (static_cast<int>(out.size()) >= most) break;
    const auto& cells = seen.pieces[doubt.piece].cells;
    float x = 0, y = 0, weight = 1e-6f;
    for (const int i : cells) {
      const float w = 1 - solution.sure[static_cast<std::size_t>(i)];
      x += w * seen.x[static_cast<std::size_t>(i)];
      y += w * seen.y[static_cast<std::size_t>(i)];
      weight += w;
    }
    int best = cells[0];
    float nearest = 1e9f;
    for (const int i : cells) {
      const float away = std::hypot(seen.x[static_cast<std::size_t>(i)] - x / weight,
                                    seen.y[static_cast<std::size_t>(i)] - y / weight);
      if (away < nearest) {
        nearest = away;
        best = i;
      }
    }
    out.push_back(best);
  }
  return out;
}

}  // namespace hscaffold::depth
