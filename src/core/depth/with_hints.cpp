// What hints move. First all of the depth together, as far as hints agree that the first guess is bent: without
// changing any order. Then what is left, cell by cell: it reaches near, farther and far over what a cell is tied to, in
// equal parts, since nothing tells for sure how far a thing goes. And no hint turns over more of the picture than it
// can answer for.
#include <Eigen/Cholesky>
#include <algorithm>
#include <cmath>
#include <numeric>
#include <set>
#include <tuple>

#include "core/depth/least_squares.h"
#include "core/depth/solve.h"
#include "core/groups.h"
#include "core/image/parallel.h"

namespace hscaffold::depth {
namespace {

using Vector = Eigen::VectorXd;

constexpr double hard = 1000;                 // a hint, against a border of no contrast
constexpr double softly = 50;                 // what a hint says of what it lies on, against what holds a cell back
constexpr double hung = 1e-6, cutOff = 1e-7;  // between what nothing ties; where an outline was cut

/// How far what is left goes: about 1 / sqrt(hold) cells where all is alike.
struct Reach {
  double hold;          ///< how hard a cell resists being moved
  double acrossPieces;  ///< what a tie counts there
  double share;         ///< of what is moved; in all 1
};
constexpr Reach reaches[] = {{0.3, 1, 0.32}, {0.02, 1, 0.38}, {0.001, 0.1, 0.3}, {0.0001, 0.01, 0}};
constexpr double extra = 0.1;    // of what hints may turn over, what the longest reach alone may
constexpr double sureHold = 60;  ///< how much harder a cell holds of which the first depth is sure

/// Share of pairs that one place told of may turn over, besides those that what is marked has part in.
constexpr double mayTurn = 0.02;

/// Every cell's sets of cuts that it lies in; borders between different ones hold nothing together.
std::vector<std::vector<int>> cutsOf(const Constraints& hints, std::size_t cells) {
  std::vector<std::vector<int>> out(cells);
  for (std::size_t c = 0; c < hints.cuts.size(); ++c)
    for (const int i : hints.cuts[c].cells) out[static_cast<std::size_t>(i)].push_back(static_cast<int>(c));
  return out;
}

void addRelations(LeastSquares& system, const Constraints& hints, const Seen& seen, const std::vector<float>& first) {
  const auto at = [&](int i) { return static_cast<double>(first[static_cast<std::size_t>(i)]); };
  for (const auto& same : hints.same) {
    for (std::size_t k = 1; k < same.cells.size(); ++k) {
      const int a = same.cells[k - 1], b = same.cells[k];
      const std::pair<int, double> terms[] = {{a, 1.0}, {b, -1.0}};
      system.add(terms, at(b) - at(a), hard);
    }
  }
  int next = static_cast<int>(first.size());
  for (const auto& plane : hints.planes) {
    for (const int i : plane.cells) {
      const auto cell = static_cast<std::size_t>(i);
      const std::pair<int, double> terms[] = {{i, 1.0},
                                              {next, -1.0},
                                              {next + 1, -static_cast<double>(seen.x[cell])},
                                              {next + 2, -static_cast<double>(seen.y[cell])}};
      system.add(terms, -at(i), hard);
    }
    for (int k = 0; k < 3; ++k) system.fix(next + k, k == 0 ? 0.5 : 0.0, 1e-3);
    next += 3;
  }
}

/// Cells that levels tell of, with what they say; those that are only told softly left out.
std::vector<const Constraints::Level*> firmLevels(const Constraints& hints) {
  std::vector<const Constraints::Level*> out;
  for (const auto& level : hints.levels)
    if (!level.soft) out.push_back(&level);
  return out;
}

/// The least change that makes `values` rise with `by` (pool adjacent violators, Ayer et al. 1955).
void makeRise(const std::vector<float>& by, std::vector<double>& values) {
  std::vector<std::size_t> order(by.size());
  std::iota(order.begin(), order.end(), 0U);
  std::stable_sort(order.begin(), order.end(), [&](std::size_t p, std::size_t q) { return by[p] < by[q]; });
  struct Block {
    double sum;
    std::size_t count;
    [[nodiscard]] double mean() const { return sum / static_cast<double>(count); }
  };
  std::vector<Block> blocks;
  for (const std::size_t i : order) {
    blocks.push_back({values[i], 1});
    while (blocks.size() > 1 && blocks[blocks.size() - 2].mean() > blocks.back().mean()) {
      Block& before = blocks[blocks.size() - 2];
      before.sum += blocks.back().sum;
      before.count += blocks.back().count;
      blocks.pop_back();
    }
  }
  std::size_t at = 0;
  for (const Block& block : blocks)
    for (std::size_t k = 0; k < block.count; ++k) values[order[at++]] = block.mean();
}

/// What hints lie on: how many places, marked cells that touch being one, and how much of the frame.
struct Marked {
  double places = 0, share = 0;
};
Marked markedIn(const Seen& seen, const Constraints& hints) {
  std::vector<bool> marked(seen.x.size());
  const auto mark = [&](int i) { marked[static_cast<std::size_t>(i)] = true; };
  for (const auto& level : hints.levels) mark(level.cell);
  for (const auto& same : hints.same) std::for_each(same.cells.begin(), same.cells.end(), mark);
  for (const auto& plane : hints.planes) std::for_each(plane.cells.begin(), plane.cells.end(), mark);
  for (const auto& before : hints.before) {
    mark(before.front);
    mark(before.behind);
  }
  Marked out;
  double area = 0;
  for (std::size_t i = 0; i < marked.size(); ++i) {
    if (!marked[i]) continue;
    out.places += 1;
    area += seen.patches.cells[i].area;
  }
  // As many as there are cells, less what joins them.
  Groups places(marked.size());
  for (const Border& border : seen.patches.borders) {
    const auto i = static_cast<std::size_t>(border.a), j = static_cast<std::size_t>(border.b);
    if (!marked[i] || !marked[j] || places.of(i) == places.of(j)) continue;
    places.join(i, j);
    out.places -= 1;
  }
  out.share = area / static_cast<double>(std::max<std::int64_t>(1, seen.size.area()));
  return out;
}

/// The first depth bent as hints say that it is: near and far mean what they mean to who set the hints, and what lay
/// before something else still does. A Gaussian process over depth; what lies close together tells little more than one
/// place does; of one place alone nothing follows for the rest.
std::vector<float> bentBy(const Constraints& hints, const Marked& marked, const Seen& seen,
                          const std::vector<float>& first) {
  constexpr double all = 0.1, here = 0.1, alike = 0.3, own = 0.2, apart = 0.1, noise = 1e-4;
  constexpr std::size_t most = 200;  // cells; of long strokes every so many
  const auto levels = firmLevels(hints);
  if (levels.empty() || marked.places < 2) return first;
  const std::size_t step = (levels.size() + most - 1) / most;
  std::vector<std::size_t> cells;
  for (std::size_t k = 0; k < levels.size(); k += step) cells.push_back(static_cast<std::size_t>(levels[k]->cell));
  const auto bend = [&](float u, float v) {
    const double away = static_cast<double>(u - v) / alike;
    return all * all + here * here * std::exp(-0.5 * away * away);
  };
  const auto count = static_cast<Eigen::Index>(cells.size());
  Eigen::MatrixXd covariance(count, count);
  Vector off(count);
  for (Eigen::Index i = 0; i < count; ++i) {
    const std::size_t p = cells[static_cast<std::size_t>(i)];
    off[i] = static_cast<double>(levels[static_cast<std::size_t>(i) * step]->near - first[p]);
    for (Eigen::Index j = 0; j < count; ++j) {
      const std::size_t q = cells[static_cast<std::size_t>(j)];
      const double away =
          std::hypot(static_cast<double>(seen.x[p] - seen.x[q]), static_cast<double>(seen.y[p] - seen.y[q]));
      covariance(i, j) = bend(first[p], first[q]) + own * own * std::exp(-away / apart) + (i == j ? noise : 0);
    }
  }
  const Vector weights = covariance.ldlt().solve(off);
  std::vector<double> bent(first.begin(), first.end());
  for (std::size_t i = 0; i < bent.size(); ++i)
    for (Eigen::Index j = 0; j < count; ++j)
      bent[i] += bend(first[i], first[cells[static_cast<std::size_t>(j)]]) * weights[j];
  makeRise(first, bent);
  return {bent.begin(), bent.end()};
}

/// What is left to be moved, at one reach.
class Movement {
 public:
  Movement(const Seen& seen, const Solution& first, const std::vector<float>& base, const Constraints& hints)
      : seen_(seen), first_(first), base_(base), hints_(hints), cuts_(cutsOf(hints, base.size())) {}

  /// By how much each cell is moved. @throws Cancelled
  [[nodiscard]] Vector moved(const Reach& reach, const StopToken& stop) const {
    // What must be nearer is pushed only where it is not: relations that are broken become active until none is.
    std::set<std::size_t> active;
    Vector out = solved(reach, active);
    const auto nearAt = [&](int i) { return baseAt(i) + out[static_cast<Eigen::Index>(i)]; };
    for (std::size_t round = 0; round <= hints_.before.size(); ++round) {
      throwIfStopped(stop);
      const std::size_t known = active.size();
      for (std::size_t b = 0; b < hints_.before.size(); ++b) {
        const auto& before = hints_.before[b];
        if (nearAt(before.front) - nearAt(before.behind) < static_cast<double>(before.by) - 1e-3) active.insert(b);
      }
      if (active.size() == known) break;
      out = solved(reach, active);
    }
    return out;
  }

  /// How surely what hints say reaches each cell.
  [[nodiscard]] Vector reached(const Reach& reach) const {
    LeastSquares system = tied(reach);
    for (const auto& level : hints_.levels) system.fix(level.cell, 1, weightOf(level, reach));
    for (const auto& plane : hints_.planes)
      for (const int i : plane.cells) system.fix(i, 1, hard);
    for (int k = 0; k < planeUnknowns(); ++k) system.fix(static_cast<int>(base_.size()) + k, 0, 1);
    constexpr double related = 0.7;  // known against another place only
    for (const auto& same : hints_.same)
      for (const int i : same.cells) system.fix(i, related, hard);
    for (const auto& before : hints_.before) {
      system.fix(before.front, related, hard);
      system.fix(before.behind, related, hard);
    }
    return system.solved();
  }

 private:
  [[nodiscard]] double baseAt(int i) const { return static_cast<double>(base_[static_cast<std::size_t>(i)]); }
  [[nodiscard]] int planeUnknowns() const { return static_cast<int>(3 * hints_.planes.size()); }
  static double weightOf(const Constraints::Level& level, const Reach& reach) {
    return level.soft ? softly * reach.hold : hard * static_cast<double>(level.share);
  }

  [[nodiscard]] LeastSquares tied(const Reach& reach) const {
    LeastSquares system(base_.size() + static_cast<std::size_t>(planeUnknowns()));
    for (std::size_t i = 0; i < base_.size(); ++i) {
      const auto sure = static_cast<double>(first_.sure[i]);
      system.fix(static_cast<int>(i), 0, reach.hold * (1 + sureHold * sure * sure));
    }
    for (std::size_t k = 0; k < seen_.ties.size(); ++k) {
      const Border& border = seen_.patches.borders[k];
      const auto a = static_cast<std::size_t>(border.a), b = static_cast<std::size_t>(border.b);
      const double tie = seen_.ties[k] * (seen_.piece[a] == seen_.piece[b] ? 1 : reach.acrossPieces) + hung;
      system.tie(border.a, border.b, cuts_[a] == cuts_[b] ? tie : cutOff);
    }
    return system;
  }

  [[nodiscard]] Vector solved(const Reach& reach, const std::set<std::size_t>& active) const {
    LeastSquares system = tied(reach);
    for (const auto& level : hints_.levels)
      system.fix(level.cell, static_cast<double>(level.near) - baseAt(level.cell), weightOf(level, reach));
    addRelations(system, hints_, seen_, base_);
    for (const std::size_t b : active) {
      const auto& before = hints_.before[b];
      const std::pair<int, double> terms[] = {{before.front, 1.0}, {before.behind, -1.0}};
      system.add(terms, static_cast<double>(before.by) - baseAt(before.front) + baseAt(before.behind), hard);
    }
    return system.solved();
  }

  const Seen& seen_;
  const Solution& first_;
  const std::vector<float>& base_;
  const Constraints& hints_;
  std::vector<std::vector<int>> cuts_;
};

/// Share of pairs whose order in `base` the values turn over; what is nearly equal in `base` has none.
double turnedOver(const std::vector<float>& base, const std::vector<double>& values) {
  constexpr float equal = 0.02f;
  std::vector<std::size_t> order(base.size());
  std::iota(order.begin(), order.end(), 0U);
  const auto step = [&](std::size_t i) { return std::lround(base[i] / equal); };
  std::sort(order.begin(), order.end(), [&](std::size_t p, std::size_t q) {
    return std::tuple{step(p), values[p], p} < std::tuple{step(q), values[q], q};
  });
  std::vector<double> now, merged(base.size());
  for (const std::size_t i : order) now.push_back(values[i]);
  // Counted while sorting by merging.
  double turned = 0;
  const auto at = [](std::vector<double>& v, std::size_t i) { return v.begin() + static_cast<std::ptrdiff_t>(i); };
  for (std::size_t run = 1; run < now.size(); run *= 2) {
    for (std::size_t from = 0; from < now.size(); from += 2 * run) {
      const std::size_t middle = std::min(from + run, now.size()), end = std::min(from + 2 * run, now.size());
      std::size_t left = from, right = middle;
      for (std::size_t out = from; out < end; ++out) {
        if (right == end || (left < middle && now[left] <= now[right])) {
          merged[out] = now[left++];
        } else {
          turned += static_cast<double>(middle - left);
          merged[out] = now[right++];
        }
      }
    }
    std::copy(at(merged, 0), merged.end(), at(now, 0));
  }
  const auto count = static_cast<double>(base.size());
  return turned / std::max(1.0, 0.5 * count * (count - 1));
}

/// From the shortest reach alone over all of them to the longest alone: as far as may be.
/// @param moved  at each reach
std::vector<double> asFarAsMayBe(const std::vector<float>& base, const std::vector<Vector>& moved, double most) {
  Vector all = Vector::Zero(moved.front().size());
  for (std::size_t r = 0; r < moved.size(); ++r) all += reaches[r].share * moved[r];
  const auto at = [&](double far) {
    const Vector mixed =
        far <= 1 ? Vector((1 - far) * moved.front() + far * all) : Vector((2 - far) * all + (far - 1) * moved.back());
    std::vector<double> out;
    for (std::size_t i = 0; i < base.size(); ++i)
      out.push_back(static_cast<double>(base[i]) + mixed[static_cast<Eigen::Index>(i)]);
    return out;
  };
  // All reaches are the rule; the longest alone is for what it takes along without turning much of anything over.
  const auto may = [&](double far) { return turnedOver(base, at(far)) <= (far <= 1 ? most : most * extra); };
  double low = may(1) ? 1 : 0, high = low + 1;
  if (low > 0 && may(high)) return at(high);
  for (int round = 0; round < 6; ++round) {
    const double far = (low + high) / 2;
    (may(far) ? low : high) = far;
  }
  return at(low);
}

}  // namespace

Solution withHints(const Seen& seen, const Solution& first, const Constraints& hints, StopToken stop) {
  if (hints.empty() || first.near.empty()) return first;
  const Marked marked = markedIn(seen, hints);
  const auto base = bentBy(hints, marked, seen, first.near);
  const Movement movement(seen, first, base, hints);
  std::vector<Vector> moved(std::size(reaches)), reached(moved.size());
  parallelItems(moved.size(), [&](std::size_t r) {
    moved[r] = movement.moved(reaches[r], stop);
    reached[r] = reaches[r].share * movement.reached(reaches[r]);
  });
  throwIfStopped(stop);
  Vector told = reached.front();
  for (std::size_t r = 1; r < reached.size(); ++r) told += reached[r];
  // So much for each place, and whatever has part in what is marked.
  const auto near = asFarAsMayBe(base, moved, mayTurn * marked.places + 2 * marked.share);
  Solution out;
  for (std::size_t i = 0; i < near.size(); ++i) {
    out.near.push_back(std::clamp(static_cast<float>(near[i]), 0.0f, 1.0f));
    const float known = std::clamp(static_cast<float>(told[static_cast<Eigen::Index>(i)]), 0.0f, 1.0f);
    out.sure.push_back(first.sure[i] + (1 - first.sure[i]) * known);
  }
  return out;
}

}  // namespace hscaffold::depth
