/// How a guess of depth fares on a scene of known depth: pairs of places in their order, and hints as someone who sees
/// the scene would set them.
#pragma once

#include "core/depth/depth.h"
#include "depth_scenes.h"

namespace almanac {

/// True nearness of every cell, [0, 1], against the nearest 1.5 percent of the picture.
std::vector<float> trueNear(const hscaffold::depth::Seen& seen, hscaffold::View<float> nearness);

/// Pairs of cells of which the first is nearer, by more than 3 % of the nearest; the same for the same seed.
using Pairs = std::vector<std::pair<int, int>>;
Pairs truePairs(const std::vector<float>& truth, int count, std::uint64_t seed);

/// Share of pairs in order; those that are equal count half.
double inOrder(const Pairs& pairs, const std::vector<float>& near);
/// Share of pairs whose order changes from one reading of the same places to another: of those further apart than so
/// much in the first. Places that either does not know are NaN.
double turned(const std::vector<float>& from, const std::vector<float>& to, float apart);
/// Those of which neither lies within a tenth of the frame of one of these cells.
Pairs awayFrom(const Pairs& pairs, const hscaffold::depth::Seen& seen, const std::vector<int>& cells);

/// What someone would set right next: where the guess is most wrong, over a patch of some cells rather than in one.
int worstPlace(const hscaffold::depth::Seen& seen, const std::vector<float>& truth, const std::vector<float>& near);

/// `count` hints, one after the other, each at the worst place and as near as is true there.
struct Hinted {
  std::vector<float> near;
  std::vector<int> places;
};
Hinted hinted(const hscaffold::depth::Seen& seen, const std::vector<float>& truth,
              const hscaffold::depth::Solution& first, int count);

}  // namespace almanac
