#include "core/mood/transport.h"

#include <Eigen/Dense>
#include <algorithm>
#include <cmath>
#include <numbers>
#include <numeric>

#include "core/image/resample.h"

namespace hscaffold::mood {
namespace {

using Vector = Eigen::Vector3d;
using Matrix = Eigen::Matrix3d;

Vector vectorOf(OkLab c) { return {static_cast<double>(c.l), static_cast<double>(c.a), static_cast<double>(c.b)}; }

struct Cloud {
  Vector mean = Vector::Zero();
  Matrix spread = Matrix::Zero();
};

Cloud cloudOf(std::span<const OkLab> colours) {
  Cloud out;
  for (const OkLab& c : colours) out.mean += vectorOf(c);
  out.mean /= static_cast<double>(colours.size());
  for (const OkLab& c : colours) {
    const Vector d = vectorOf(c) - out.mean;
    out.spread += d * d.transpose();
  }
  out.spread /= static_cast<double>(colours.size());
  // Greys have no spread in colour: what little they are given keeps the map from stretching noise.
  constexpr double least = 2e-5;
  out.spread += least * Matrix::Identity();
  return out;
}

Matrix rootOf(const Matrix& m) {
  const Eigen::SelfAdjointEigenSolver<Matrix> solver(m);
  return solver.eigenvectors() * solver.eigenvalues().cwiseMax(0).cwiseSqrt().asDiagonal() *
         solver.eigenvectors().transpose();
}

/// The value below which this share of sorted values lies.
double quantile(const std::vector<float>& sorted, double share) {
  const double at = share * static_cast<double>(sorted.size() - 1);
  const auto below = static_cast<std::size_t>(at);
  const std::size_t above = std::min(below + 1, sorted.size() - 1);
  const double t = at - static_cast<double>(below);
  return (1 - t) * static_cast<double>(sorted[below]) + t * static_cast<double>(sorted[above]);
}

/// Share of sorted values that lie below one.
double shareBelow(const std::vector<float>& sorted, double value) {
  const auto after = std::upper_bound(sorted.begin(), sorted.end(), static_cast<float>(value));
  const auto before = std::lower_bound(sorted.begin(), after, static_cast<float>(value));
  return 0.5 * static_cast<double>((after - sorted.begin()) + (before - sorted.begin())) /
         static_cast<double>(sorted.size());
}

/// Directions that lie evenly on half a sphere (a Fibonacci lattice).
std::vector<Vector> directions(int count, double turn) {
  std::vector<Vector> out;
  const double golden = std::numbers::pi * (3 - std::sqrt(5.0));
  for (int i = 0; i < count; ++i) {
    const double z = (i + 0.5) / count, r = std::sqrt(1 - z * z), angle = golden * i + turn;
    out.emplace_back(r * std::cos(angle), r * std::sin(angle), z);
  }
  return out;
}

std::vector<float> along(const std::vector<Vector>& points, const Vector& direction) {
  std::vector<float> out(points.size());
  std::transform(points.begin(), points.end(), out.begin(),
                 [&](const Vector& p) { return static_cast<float>(p.dot(direction)); });
  return out;
}

std::vector<Vector> vectorsOf(std::span<const OkLab> colours) {
  std::vector<Vector> out(colours.size());
  std::transform(colours.begin(), colours.end(), out.begin(), vectorOf);
  return out;
}

}  // namespace

const MonotoneTransport::Slopes MonotoneTransport::everySlope;

MonotoneTransport::MonotoneTransport(std::span<const OkLab> from, std::span<const OkLab> to, const Slopes& slopes) {
  const Cloud a = cloudOf(from), b = cloudOf(to);
  const Matrix root = rootOf(a.spread), back = root.inverse();
  const Matrix linear = back * rootOf(root * b.spread * root) * back;
  for (int i = 0; i < 3; ++i) {
    meanFrom_[static_cast<std::size_t>(i)] = a.mean[i];
    meanTo_[static_cast<std::size_t>(i)] = b.mean[i];
    for (int j = 0; j < 3; ++j) linear_[static_cast<std::size_t>(3 * i + j)] = linear(i, j);
  }
  // By the lightness that colours had: what was lighter stays lighter, whatever its colour.
  std::vector<float> had(from.size()), wanted(to.size());
  if (slopes.bound()) {
    // Along which hues differ most, in the sense in which the lighter ones lie.
    const Eigen::Matrix2d hues = a.spread.bottomRightCorner<2, 2>();
    const Eigen::SelfAdjointEigenSolver<Eigen::Matrix2d> solver(hues);
    Eigen::Vector2d axis = solver.eigenvectors().col(1);
    if (axis.dot(a.spread.block<2, 1>(1, 0)) < 0) axis = -axis;
    const double left = std::sqrt(b.spread.bottomRightCorner<2, 2>().trace() / hues.trace());
    constexpr double most = 0.8;
    const double share = most * std::clamp(1 - left, 0.0, 1.0);
    hueInKey_ = {static_cast<float>(share * axis[0]), static_cast<float>(share * axis[1])};
  }
  std::transform(from.begin(), from.end(), had.begin(), [&](const OkLab& c) { return keyOf(c); });
  std::transform(to.begin(), to.end(), wanted.begin(), [](const OkLab& c) { return c.l; });
  std::sort(had.begin(), had.end());
  std::sort(wanted.begin(), wanted.end());
  const auto darkest = static_cast<double>(had.front()), lightest = static_cast<double>(had.back());
  const auto toDarkest = static_cast<double>(wanted.front()), toLightest = static_cast<double>(wanted.back());
  for (int i = 0; i < grades; ++i) {
    const double value = static_cast<double>(i) / (grades - 1);
    double becomes = quantile(wanted, shareBelow(had, value));
    // Beyond what there was it goes on to black and to white: what comes later may be darker than all of it.
    if (value < darkest) becomes = toDarkest * value / darkest;
    if (value > lightest) becomes = toLightest + (1 - toLightest) * (value - lightest) / (1 - lightest);
    lightness_[static_cast<std::size_t>(i)] = static_cast<float>(becomes);
  }
  keepSlopes(slopes, had, b.mean[0]);
}

void MonotoneTransport::keepSlopes(const Slopes& slopes, const std::vector<float>& had, double wantedMean) {
  if (!slopes.bound()) return;
  std::array<double, grades> kept{};
  constexpr double step = 1.0 / (grades - 1);
  for (std::size_t i = 1; i < kept.size(); ++i) {
    const double slope = (static_cast<double>(lightness_[i]) - static_cast<double>(lightness_[i - 1])) / step;
    kept[i] = kept[i - 1] + step * std::clamp(slope, slopes.least, slopes.most);
  }
  // As light in the mean as is wanted.
  double mean = 0;
  for (const float l : had)
    mean += kept[static_cast<std::size_t>(std::lround(std::clamp(l, 0.0f, 1.0f) * (grades - 1)))];
  const double shift = wantedMean - mean / static_cast<double>(had.size());
  for (std::size_t i = 0; i < kept.size(); ++i)
    lightness_[i] = static_cast<float>(std::clamp(kept[i] + shift, 0.02, 0.99));
}

float MonotoneTransport::keyOf(OkLab colour) const {
  return std::clamp(colour.l + hueInKey_[0] * (colour.a - static_cast<float>(meanFrom_[1])) +
                        hueInKey_[1] * (colour.b - static_cast<float>(meanFrom_[2])),
                    0.0f, 1.0f);
}

OkLab MonotoneTransport::operator()(OkLab colour) const {
  const std::array<double, 3> d = {static_cast<double>(colour.l) - meanFrom_[0],
                                   static_cast<double>(colour.a) - meanFrom_[1],
                                   static_cast<double>(colour.b) - meanFrom_[2]};
  const auto row = [&](std::size_t i) {
    return static_cast<float>(meanTo_[i] + linear_[3 * i] * d[0] + linear_[3 * i + 1] * d[1] +
                              linear_[3 * i + 2] * d[2]);
  };
  const float at = keyOf(colour) * (grades - 1);
  const auto below = std::min(static_cast<std::size_t>(at), static_cast<std::size_t>(grades - 2));
  const float t = at - static_cast<float>(below);
  return {lightness_[below] + t * (lightness_[below + 1] - lightness_[below]), row(1), row(2)};
}

std::vector<OkLab> slicedTransport(std::span<const OkLab> from, std::span<const OkLab> to, StopToken stop) {
  std::vector<OkLab> out(from.begin(), from.end());
  if (from.empty() || to.empty()) return out;
  auto points = vectorsOf(from);
  const auto goals = vectorsOf(to);
  constexpr int rounds = 8, count = 6;
  std::vector<std::size_t> order(points.size());
  for (int round = 0; round < rounds; ++round) {
    throwIfStopped(stop);
    // All directions of a round move together: their mean is the step.
    std::vector<Vector> steps(points.size(), Vector::Zero());
    for (const Vector& direction : directions(count, 0.7 * round)) {
      const auto has = along(points, direction);
      auto wants = along(goals, direction);
      std::sort(wants.begin(), wants.end());
      std::iota(order.begin(), order.end(), std::size_t{0});
      std::sort(order.begin(), order.end(), [&](std::size_t a, std::size_t b) { return has[a] < has[b]; });
      for (std::size_t i = 0; i < order.size(); ++i) {
        const double share = (static_cast<double>(i) + 0.5) / static_cast<double>(order.size());
        steps[order[i]] += (quantile(wants, share) - static_cast<double>(has[order[i]])) * direction;
      }
    }
    // Directions overlap in three dimensions: a third of them is the whole.
    for (std::size_t i = 0; i < points.size(); ++i) points[i] += steps[i] * (3.0 / count);
  }
  std::transform(points.begin(), points.end(), out.begin(), [](const Vector& p) {
    return OkLab{static_cast<float>(p[0]), static_cast<float>(p[1]), static_cast<float>(p[2])};
  });
  return out;
}

double colourDistance(std::span<const OkLab> a, std::span<const OkLab> b) {
  if (a.empty() || b.empty()) return 0;
  const auto first = vectorsOf(a), second = vectorsOf(b);
  constexpr int count = 32, samples = 512;
  double sum = 0;
  for (const Vector& direction : directions(count, 0)) {
    auto one = along(first, direction), other = along(second, direction);
    std::sort(one.begin(), one.end());
    std::sort(other.begin(), other.end());
    double distance = 0;
    for (int i = 0; i < samples; ++i) {
      const double share = (i + 0.5) / samples;
      distance += std::abs(quantile(one, share) - quantile(other, share));
    }
    sum += distance / samples;
  }
  return 100 * sum / count;
}

double colourDistance(View<Rgb> a, View<Rgb> b) { return colourDistance(coloursOf(a), coloursOf(b)); }

std::vector<OkLab> labsOf(View<Rgb> picture) {
  std::vector<OkLab> out;
  out.reserve(static_cast<std::size_t>(picture.size().area()));
  for (int y = 0; y < picture.height(); ++y)
    for (const Rgb& c : picture.line(y)) out.push_back(linearToOkLab(c));
  return out;
}

std::vector<OkLab> coloursOf(View<Rgb> picture) {
  constexpr double longest = 192;
  const auto small = resampled(picture, within(picture.size(), longest), Resampling::area);
  return labsOf(small.view());
}

}  // namespace hscaffold::mood
