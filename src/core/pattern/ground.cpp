#include "core/pattern/ground.h"

#include <Eigen/Dense>
#include <algorithm>
#include <cmath>
#include <random>
#include <vector>

namespace hscaffold::pattern {
namespace {

/// Disparity as it lies at a place of the frame, in pixels from its middle.
struct Sample {
  double x, y, near;
};

std::vector<Sample> samplesIn(const Quad& outline, Size frame, View<std::uint16_t> near) {
  double left = frame.width, right = 0, top = frame.height, bottom = 0;
  for (const Point& p : outline) {
    left = std::min(left, p.x);
    right = std::max(right, p.x);
    top = std::min(top, p.y);
    bottom = std::max(bottom, p.y);
  }
  left = std::clamp(left, 0.0, frame.width - 1.0),
  right = std::clamp(right, left + 1, static_cast<double>(frame.width));
  top = std::clamp(top, 0.0, frame.height - 1.0),
  bottom = std::clamp(bottom, top + 1, static_cast<double>(frame.height));
  constexpr int across = 48;
  std::vector<Sample> out;
  for (int j = 0; j < across; ++j)
    for (int i = 0; i < across; ++i) {
      const double x = left + (i + 0.5) / across * (right - left), y = top + (j + 0.5) / across * (bottom - top);
      const double v = near(std::min(static_cast<int>(x * near.width() / frame.width), near.width() - 1),
                            std::min(static_cast<int>(y * near.height() / frame.height), near.height() - 1)) /
                       65535.0;
      out.push_back({x - 0.5 * frame.width, y - 0.5 * frame.height, v});
    }
  return out;
}

/// near = plane . (x, y, 1) for most of them.
Eigen::Vector3d planeThrough(const std::vector<Sample>& samples) {
  constexpr double within = 0.025;  // of near to far
  constexpr int trials = 300;
  std::mt19937 random(1);
  const auto fits = [&](const Eigen::Vector3d& plane, const Sample& s) {
    return std::abs(plane.dot(Eigen::Vector3d(s.x, s.y, 1)) - s.near) < within;
  };
  Eigen::Vector3d best = Eigen::Vector3d::Zero();
  std::size_t most = 0;
  for (int trial = 0; trial < trials; ++trial) {
    Eigen::Matrix3d places;
    Eigen::Vector3d values;
    for (int row = 0; row < 3; ++row) {
      const Sample& s = samples[random() % samples.size()];
      places.row(row) << s.x, s.y, 1;
      values[row] = s.near;
    }
    if (std::abs(places.determinant()) < 100) continue;  // nearly on a line
    const Eigen::Vector3d plane = places.inverse() * values;
    const auto count = static_cast<std::size_t>(
        std::count_if(samples.begin(), samples.end(), [&](const Sample& s) { return fits(plane, s); }));
    if (count > most) {
      most = count;
      best = plane;
    }
  }
  constexpr double least = 0.35;
  if (static_cast<double>(most) < least * static_cast<double>(samples.size()))
    throw badInput("No plane is to be seen in the depth map where the pattern lies.");
  Eigen::Matrix3d sum = Eigen::Matrix3d::Zero();
  Eigen::Vector3d right = Eigen::Vector3d::Zero();
  for (const Sample& s : samples) {
    if (!fits(best, s)) continue;
    const Eigen::Vector3d at(s.x, s.y, 1);
    sum += at * at.transpose();
    right += at * s.near;
  }
  return sum.ldlt().solve(right);
}

}  // namespace

Quad cornersOnGround(PatternTuning tuning, Size frame, View<std::uint16_t> near) {
  if (tuning.corners) {
    // As large as it lies now, and there.
    const auto lies = outlineOf(tuning, frame);
    if (!lies) throw badInput("There is no pattern to be laid yet.");
    double edges = 0;
    for (std::size_t i = 0; i < 4; ++i) edges += distanceBetween((*lies)[i], (*lies)[(i + 1) % 4]);
    const Point middle = ((*lies)[0] + (*lies)[1] + (*lies)[2] + (*lies)[3]) * 0.25;
    tuning.x = 100 * middle.x / frame.width;
    tuning.y = 100 * middle.y / frame.height;
    tuning.size = 25 * edges / std::min(frame.width, frame.height);
    if (tuning.what == What::code)
      tuning.module = std::max(1, static_cast<int>(edges / 4 / codeOf(tuning.says, tuning.correction).side()));
    tuning.corners.reset();
  }
  const double turn = tuning.turn * std::numbers::pi / 180;
  // What it is without leaning says how wide it is and where its middle lies.
  tuning.lean = tuning.slant = tuning.turn = 0;
  const auto flat = outlineOf(tuning, frame);
  if (!flat) throw badInput("There is no pattern to be laid yet.");
  const Quad& q = *flat;
  const Eigen::Vector3d plane = planeThrough(samplesIn(q, frame, near));
  const double eye = 1.4 * std::max(frame.width, frame.height);
  const Point middle = (q[0] + q[1] + q[2] + q[3]) * 0.25;
  const double x = middle.x - 0.5 * frame.width, y = middle.y - 0.5 * frame.height;
  if (plane.dot(Eigen::Vector3d(x, y, 1)) < 0.01) throw badInput("The pattern's middle lies endlessly far.");
  const Eigen::Vector3d across(plane.x() * eye, plane.y() * eye, plane.z());
  constexpr double leastLean = 0.02;
  if (std::hypot(across.x(), across.y()) < leastLean * across.norm())
    throw badInput("What lies there faces the eye: there is nothing to lay the pattern down on.");
  const Eigen::Vector3d normal = across.normalized();
  // What is level in the picture and on the plane, and down it.
  Eigen::Vector3d down = Eigen::Vector3d::UnitY() - normal.y() * normal;
  if (down.norm() < 0.05) down = -Eigen::Vector3d::UnitZ() + normal.z() * normal;
  down.normalize();
  Eigen::Vector3d level = down.cross(normal);
  if (level.x() < 0) level = -level;
  const Eigen::Vector3d u = std::cos(turn) * level + std::sin(turn) * down,
                        v = -std::sin(turn) * level + std::cos(turn) * down, at(x, y, eye);
  double halfWide = 0.5 * distanceBetween(q[0], q[1]), halfTall = 0.5 * distanceBetween(q[1], q[2]);
  Quad out;
  for (int tries = 0; tries < 60; ++tries) {
    bool before = true;
    const std::array<std::pair<int, int>, 4> signs{{{-1, -1}, {1, -1}, {1, 1}, {-1, 1}}};
    for (std::size_t i = 0; i < 4; ++i) {
      const Eigen::Vector3d corner = at + signs[i].first * halfWide * u + signs[i].second * halfTall * v;
      before = before && corner.z() > 0.3 * eye;
      out[i] = {0.5 * frame.width + eye * corner.x() / corner.z(), 0.5 * frame.height + eye * corner.y() / corner.z()};
    }
    if (before) break;
    halfWide *= 0.9, halfTall *= 0.9;  // what would lie behind the eye
  }
  return out;
}

}  // namespace hscaffold::pattern
