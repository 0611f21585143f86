/// Sparse least squares over the cells of a picture, solved directly.
#pragma once

#include <Eigen/SparseCholesky>
#include <Eigen/SparseCore>
#include <memory>
#include <span>
#include <utility>
#include <vector>

#include "core/problem.h"

namespace hscaffold::depth {

/// Sums of squares of linear terms, as a matrix and a right side.
class LeastSquares {
 public:
  explicit LeastSquares(std::size_t unknowns) : right_(Eigen::VectorXd::Zero(static_cast<Eigen::Index>(unknowns))) {}
  [[nodiscard]] int size() const { return static_cast<int>(right_.size()); }
  /// weight (sum of factor x unknown - value)^2
  void add(std::span<const std::pair<int, double>> terms, double value, double weight) {
    for (const auto& [i, f] : terms) {
      for (const auto& [j, g] : terms) entries_.emplace_back(i, j, weight * f * g);
      right_[i] += weight * f * value;
    }
  }
  /// weight (unknown - value)^2
  void fix(int i, double value, double weight) {
    entries_.emplace_back(i, i, weight);
    right_[i] += weight * value;
  }
  /// weight (unknown i - unknown j)^2
  void tie(int i, int j, double weight) {
    entries_.emplace_back(i, i, weight);
    entries_.emplace_back(j, j, weight);
    entries_.emplace_back(i, j, -weight);
    entries_.emplace_back(j, i, -weight);
  }
  using Factors = Eigen::SimplicialLDLT<Eigen::SparseMatrix<double>>;
  /// For several right sides. @throws Problem (failed)
  [[nodiscard]] std::unique_ptr<const Factors> factors() const {
    Eigen::SparseMatrix<double> matrix(size(), size());
    matrix.setFromTriplets(entries_.begin(), entries_.end());
    auto out = std::make_unique<const Factors>(matrix);
    if (out->info() != Eigen::Success) throw failed("The depth of this picture could not be solved.");
    return out;
  }
  /// @throws Problem (failed)
  [[nodiscard]] Eigen::VectorXd solved() const { return factors()->solve(right_); }

 private:
  std::vector<Eigen::Triplet<double>> entries_;
  Eigen::VectorXd right_;
};

}  // namespace hscaffold::depth
