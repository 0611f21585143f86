/// A smooth guess through measured values, and how sure it is (Gaussian process regression; Rasmussen and Williams
/// 2006).
#pragma once

#include <Eigen/Core>

namespace hscaffold {

/// Matern covariance of smoothness 5/2 with a length of its own along each setting, and noise; lengths and noise are
/// those under which what was measured is likeliest.
class GaussianProcess {
 public:
  struct Guess {
    double mean = 0, deviation = 0;
  };
  /// @param places  n x d, [0, 1], n >= 1.
  /// @param values  n.
  GaussianProcess(Eigen::MatrixXd places, const Eigen::VectorXd& values);

  /// @param place  d. The deviation is that of what lies behind the noise.
  [[nodiscard]] Guess at(const Eigen::VectorXd& place) const;
  /// Over which length values change along each setting; the whole range has 1.
  [[nodiscard]] const Eigen::VectorXd& lengths() const { return lengths_; }

 private:
  /// @return the logarithm of the likelihood; -infinity where it cannot be computed.
  double fit(const Eigen::VectorXd& lengths, double noise);

  Eigen::MatrixXd places_;
  double middle_ = 0, spread_ = 1;
  Eigen::VectorXd values_, lengths_, weights_;
  Eigen::MatrixXd lower_;  ///< Cholesky factor of the covariance
};

}  // namespace hscaffold
