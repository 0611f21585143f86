#include "core/find/gaussian_process.h"

#include <Eigen/Cholesky>
#include <cmath>
#include <limits>

namespace hscaffold {
namespace {

double covariance(const Eigen::VectorXd& a, const Eigen::VectorXd& b, const Eigen::VectorXd& lengths) {
  const double r = std::sqrt(5.0) * (a - b).cwiseQuotient(lengths).norm();
  return (1 + r + r * r / 3) * std::exp(-r);
}

/// What is usual of lengths and noise, so that a handful of values is not explained by anything.
double usual(const Eigen::VectorXd& lengths, double noise) {
  const double off = (lengths.array() / 0.6).log().matrix().squaredNorm(), loud = std::log(noise / 0.02);
  return -0.25 * off - 0.15 * loud * loud;
}

}  // namespace

GaussianProcess::GaussianProcess(Eigen::MatrixXd places, const Eigen::VectorXd& values) : places_(std::move(places)) {
  middle_ = values.mean();
  const double variance = (values.array() - middle_).square().mean();
  spread_ = variance > 1e-12 ? std::sqrt(variance) : 1;
  values_ = (values.array() - middle_) / spread_;
  // Along one length after the other, in ever smaller steps.
  Eigen::VectorXd best = Eigen::VectorXd::Constant(places_.cols(), 0.6);
  double noise = 0.02, likeliest = fit(best, noise) + usual(best, noise);
  for (const double factor : {2.0, 1.5, 1.2}) {
    for (int round = 0; round < 3; ++round) {
      bool better = false;
      for (Eigen::Index i = 0; i <= best.size(); ++i)
        for (const double by : {factor, 1 / factor}) {
          Eigen::VectorXd lengths = best;
          double loud = noise;
          if (i < best.size())
            lengths[i] = std::clamp(lengths[i] * by, 0.08, 4.0);
          else
            loud = std::clamp(noise * by * by, 1e-4, 0.5);
          const double likely = fit(lengths, loud) + usual(lengths, loud);
          if (likely <= likeliest + 1e-9) continue;
          likeliest = likely;
          best = std::move(lengths);
          noise = loud;
          better = true;
        }
      if (!better) break;
    }
  }
  fit(best, noise);
}

double GaussianProcess::fit(const Eigen::VectorXd& lengths, double noise) {
  const Eigen::Index n = places_.rows();
  Eigen::MatrixXd all(n, n);
  for (Eigen::Index i = 0; i < n; ++i)
    for (Eigen::Index j = 0; j <= i; ++j)
      all(i, j) = all(j, i) = covariance(places_.row(i), places_.row(j), lengths) + (i == j ? noise + 1e-8 : 0.0);
  const Eigen::LLT<Eigen::MatrixXd> factored(all);
  if (factored.info() != Eigen::Success) return -std::numeric_limits<double>::infinity();
  lengths_ = lengths;
  weights_ = factored.solve(values_);
  lower_ = factored.matrixL();
  return -0.5 * values_.dot(weights_) - lower_.diagonal().array().log().sum();
}

GaussianProcess::Guess GaussianProcess::at(const Eigen::VectorXd& place) const {
  Eigen::VectorXd near(places_.rows());
  for (Eigen::Index i = 0; i < near.size(); ++i) near[i] = covariance(places_.row(i), place, lengths_);
  const Eigen::VectorXd known = lower_.triangularView<Eigen::Lower>().solve(near);
  return {middle_ + spread_ * near.dot(weights_), spread_ * std::sqrt(std::max(0.0, 1 - known.squaredNorm()))};
}

}  // namespace hscaffold
