#include "core/depth/solve.h"

#include <Eigen/SparseCholesky>
#include <Eigen/SparseCore>
#include <algorithm>
#include <cmath>
#include <set>

namespace hscaffold::depth {
namespace {

using Matrix = Eigen::SparseMatrix<double>;
using Vector = Eigen::VectorXd;

constexpr double smoothing = 1.5;       // of the first depth, against cues of weight 1
constexpr double hold = 2e-4;           // how hard the first depth resists being moved, against a border of no contrast
constexpr double hard = 1000;           // a hint
constexpr float oneColour = 6;          // CIELAB difference up to which two cells are alike
constexpr double leastAffinity = 0.02;  // inside a piece, however strong its grain
constexpr double acrossPieces = 0.01;   // of the same likeness, between pieces: hints stay on theirs

double likeness(const Seen& seen, const Border& border) {
  return std::exp(-0.5 * std::pow(static_cast<double>(apartness(seen.patches, border) / oneColour), 2));
}

/// How strongly two neighbouring cells are held together.
double affinity(const Seen& seen, const Border& border) {
  return likeness(seen, border) * border.length / static_cast<double>(seen.patches.spacing);
}

/// The same for what hints spread over.
double spreading(const Seen& seen, const Border& border) {
  const bool one = seen.piece[static_cast<std::size_t>(border.a)] == seen.piece[static_cast<std::size_t>(border.b)];
  const double like = likeness(seen, border);
  return (one ? like + leastAffinity : acrossPieces * like + 1e-6) * border.length /
         static_cast<double>(seen.patches.spacing);
}

/// Sums of squares of linear terms, as a matrix and a right side.
class System {
 public:
  explicit System(std::size_t unknowns) : right_(Vector::Zero(static_cast<Eigen::Index>(unknowns))) {}
  [[nodiscard]] int size() const { return static_cast<int>(right_.size()); }
  /// weight (sum of factor x unknown - value)^2
  void add(std::span<const std::pair<int, double>> terms, double value, double weight) {
    for (const auto& [i, f] : terms) {
      for (const auto& [j, g] : terms) entries_.emplace_back(i, j, weight * f * g);
      right_[i] += weight * f * value;
    }
  }
  void fix(int i, double value, double weight) {
    entries_.emplace_back(i, i, weight);
    right_[i] += weight * value;
  }
  void tie(int i, int j, double weight) {
    entries_.emplace_back(i, i, weight);
    entries_.emplace_back(j, j, weight);
    entries_.emplace_back(i, j, -weight);
    entries_.emplace_back(j, i, -weight);
  }
  [[nodiscard]] Vector solved() const {
    Matrix matrix(size(), size());
    matrix.setFromTriplets(entries_.begin(), entries_.end());
    const Eigen::SimplicialLDLT<Matrix> factors(matrix);
    if (factors.info() != Eigen::Success) throw failed("The depth of this picture could not be solved.");
    return factors.solve(right_);
  }

 private:
  std::vector<Eigen::Triplet<double>> entries_;
  Vector right_;
};

/// Every cell's sets of cuts that it lies in; borders between different ones hold nothing together.
std::vector<std::vector<int>> cutsOf(const Constraints& hints, std::size_t cells) {
  std::vector<std::vector<int>> out(cells);
  for (std::size_t c = 0; c < hints.cuts.size(); ++c)
    for (const int i : hints.cuts[c].cells) out[static_cast<std::size_t>(i)].push_back(static_cast<int>(c));
  return out;
}

void addRelations(System& system, const Constraints& hints, const Seen& seen, const std::vector<float>& first) {
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

}  // namespace

Solution firstSolution(const Seen& seen, const Guess& guess, StopToken stop) {
  Solution out;
  const std::size_t count = guess.near.size();
  if (count == 0) return out;
  throwIfStopped(stop);
  System system(count);
  for (std::size_t i = 0; i < count; ++i)
    system.fix(static_cast<int>(i), static_cast<double>(guess.near[i]), static_cast<double>(guess.weight[i]));
  for (const Border& border : seen.patches.borders) system.tie(border.a, border.b, smoothing * affinity(seen, border));
  const Vector near = system.solved();
  for (std::size_t i = 0; i < count; ++i) {
    const float value = std::clamp(static_cast<float>(near[static_cast<Eigen::Index>(i)]), 0.0f, 1.0f);
    out.near.push_back(value);
    // Sure is what many cues say alike, above all that something is very near or very far.
    const float agreed = std::exp(-std::pow(guess.spread[i] / 0.3f, 2.0f));
    const float told = guess.weight[i] / (guess.weight[i] + 1.0f);
    out.sure.push_back(std::clamp(agreed * told * (0.35f + 1.3f * std::fabs(value - 0.5f)), 0.0f, 1.0f));
  }
  return out;
}

Solution withHints(const Seen& seen, const Solution& first, const Constraints& hints, StopToken stop) {
  if (hints.empty() || first.near.empty()) return first;
  const std::size_t count = first.near.size();
  const auto cuts = cutsOf(hints, count);
  const auto built = [&](const std::set<std::size_t>& active, bool reach) {
    System system(count + 3 * hints.planes.size());
    // Where a hint carries to is known less far away than what it moves.
    for (std::size_t i = 0; i < count; ++i) system.fix(static_cast<int>(i), 0, reach ? 40 * hold : hold);
    for (const Border& border : seen.patches.borders) {
      const bool open = cuts[static_cast<std::size_t>(border.a)] == cuts[static_cast<std::size_t>(border.b)];
      system.tie(border.a, border.b, open ? spreading(seen, border) : 1e-7);
    }
    for (const auto& level : hints.levels)
      system.fix(level.cell,
                 reach ? 1.0 : static_cast<double>(level.near - first.near[static_cast<std::size_t>(level.cell)]),
                 hard * static_cast<double>(level.share));
    if (!reach) {
      addRelations(system, hints, seen, first.near);
      for (const std::size_t b : active) {
        const auto& before = hints.before[b];
        const std::pair<int, double> terms[] = {{before.front, 1.0}, {before.behind, -1.0}};
        system.add(terms,
                   static_cast<double>(before.by - first.near[static_cast<std::size_t>(before.front)] +
                                       first.near[static_cast<std::size_t>(before.behind)]),
                   hard);
      }
    } else {
      for (const auto& plane : hints.planes)
        for (const int i : plane.cells) system.fix(i, 1, hard);
      for (int k = 0; k < static_cast<int>(3 * hints.planes.size()); ++k) system.fix(static_cast<int>(count) + k, 0, 1);
      for (const auto& same : hints.same)
        for (const int i : same.cells) system.fix(i, 0.7, hard);
      for (const auto& before : hints.before) {
        system.fix(before.front, 0.7, hard);
        system.fix(before.behind, 0.7, hard);
      }
    }
    return system.solved();
  };
  // What must be nearer is pushed only where it is not: relations that are broken become active until none is.
  std::set<std::size_t> active;
  Vector moved = built(active, false);
  const auto nearAt = [&](int i) {
    return static_cast<double>(first.near[static_cast<std::size_t>(i)]) + moved[static_cast<Eigen::Index>(i)];
  };
  for (std::size_t round = 0; round <= hints.before.size(); ++round) {
    throwIfStopped(stop);
    const std::size_t known = active.size();
    for (std::size_t b = 0; b < hints.before.size(); ++b) {
      const auto& before = hints.before[b];
      if (nearAt(before.front) - nearAt(before.behind) < static_cast<double>(before.by) - 1e-3) active.insert(b);
    }
    if (active.size() == known) break;
    moved = built(active, false);
  }
  const Vector reach = built({}, true);
  Solution out;
  for (std::size_t i = 0; i < count; ++i) {
    const auto e = static_cast<Eigen::Index>(i);
    out.near.push_back(std::clamp(first.near[i] + static_cast<float>(moved[e]), 0.0f, 1.0f));
    const float known = std::clamp(static_cast<float>(reach[e]), 0.0f, 1.0f);
    out.sure.push_back(first.sure[i] + (1 - first.sure[i]) * known);
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
