#include "core/depth/kinship.h"

#include <algorithm>
#include <cmath>

#include "core/depth/least_squares.h"

namespace hscaffold::depth {
namespace {

constexpr double oneColour = 2, grainCounts = 0.5;  ///< CIELAB difference that counts as alike; of what is usual there
constexpr int roundAbout = 3;                       ///< steps from cell to cell

/// Mean difference to the neighbours, round about each cell.
std::vector<double> grainOf(const Superpixels& patches) {
  const std::size_t count = patches.cells.size();
  std::vector<double> out(count), length(count);
  const auto ends = [](const Border& border) {
    return std::pair{static_cast<std::size_t>(border.a), static_cast<std::size_t>(border.b)};
  };
  for (const Border& border : patches.borders) {
    const auto [a, b] = ends(border);
    const double apart = static_cast<double>(apartness(patches, border)) * border.length;
    out[a] += apart, out[b] += apart;
    length[a] += border.length, length[b] += border.length;
  }
  for (std::size_t i = 0; i < count; ++i) out[i] /= std::max(1.0, length[i]);
  for (int round = 0; round < roundAbout; ++round) {
    auto sum = out;
    std::vector<double> weight(count, 1);
    for (const Border& border : patches.borders) {
      const auto [a, b] = ends(border);
      sum[a] += out[b], sum[b] += out[a];
      ++weight[a], ++weight[b];
    }
    for (std::size_t i = 0; i < count; ++i) out[i] = sum[i] / weight[i];
  }
  return out;
}

}  // namespace

std::vector<double> tiesOf(const Superpixels& patches) {
  const auto grain = grainOf(patches);
  std::vector<double> out;
  for (const Border& border : patches.borders) {
    const double usual = oneColour +
                         grainCounts * 0.5 *
                             (grain[static_cast<std::size_t>(border.a)] + grain[static_cast<std::size_t>(border.b)]),
                 apart = static_cast<double>(apartness(patches, border)) / usual;
    out.push_back(std::exp(-0.5 * apart * apart) * border.length / static_cast<double>(patches.spacing));
  }
  return out;
}

struct Kinship::Parts {
  LeastSquares walks;
  std::unique_ptr<const LeastSquares::Factors> factors;
  double ending = 1;
};

Kinship::~Kinship() = default;
Kinship::Kinship(Kinship&&) noexcept = default;
Kinship& Kinship::operator=(Kinship&&) noexcept = default;

Kinship::Kinship(const Superpixels& patches, std::span<const double> ties, double ending) {
  LeastSquares walks(patches.cells.size());
  // A cell that nothing resembles is still tied a little to those that it touches.
  constexpr double least = 1e-6;
  for (std::size_t k = 0; k < patches.borders.size(); ++k)
    walks.tie(patches.borders[k].a, patches.borders[k].b, ties[k] + least);
  for (int i = 0; i < patches.count(); ++i) walks.fix(i, 0, ending);
  auto factors = walks.factors();
  parts_ = std::make_unique<Parts>(Parts{std::move(walks), std::move(factors), ending});
}

std::vector<float> Kinship::mean(std::span<const float> values) const {
  Eigen::VectorXd right(parts_->walks.size());
  for (Eigen::Index i = 0; i < right.size(); ++i)
    right[i] = parts_->ending * static_cast<double>(values[static_cast<std::size_t>(i)]);
  const Eigen::VectorXd solved = parts_->factors->solve(right);
  return {solved.begin(), solved.end()};
}

std::vector<float> Kinship::reaches(std::span<const int> wanted, std::span<const int> others) const {
  // Whoever comes there stays, as good as surely.
  constexpr double caught = 10;
  auto walks = parts_->walks;
  for (const int i : wanted) walks.fix(i, 1, caught);
  for (const int i : others) walks.fix(i, 0, caught);
  const Eigen::VectorXd solved = walks.solved();
  return {solved.begin(), solved.end()};
}

}  // namespace hscaffold::depth
