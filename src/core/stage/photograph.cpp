#include "core/stage/photograph.h"

#include <Eigen/Dense>
#include <algorithm>
#include <cmath>
#include <random>

namespace hscaffold::stage {
namespace {

constexpr double degrees = 180 / std::numbers::pi;

double lengthOf(const DrawnLine& line) { return std::hypot(line.b.x - line.a.x, line.b.y - line.a.y); }

/// Through both ends, as n . (x, y, 1) = 0.
Eigen::Vector3d through(const DrawnLine& line) {
  return Eigen::Vector3d(line.a.x, line.a.y, 1).cross(Eigen::Vector3d(line.b.x, line.b.y, 1));
}

}  // namespace

std::optional<Eye> eyeOf(const PictureLines& lines, Size picture, const Eye& before) {
  constexpr double shortest = 4;  // pixels
  if (lengthOf(lines.horizon) < shortest || lengthOf(lines.left) < shortest || lengthOf(lines.right) < shortest)
    return {};
  Point from = lines.horizon.a, to = lines.horizon.b;
  if (to.x < from.x) std::swap(from, to);
  const double slope = std::atan2(to.y - from.y, to.x - from.x);  // downwards to the right
  if (std::fabs(slope) > 80 / degrees) return {};
  const Point middle{picture.width / 2.0, picture.height / 2.0};
  // Downwards from the horizon, at right angles to it.
  const Point down{-std::sin(slope), std::cos(slope)};
  const double horizon = (from.x - middle.x) * down.x + (from.y - middle.y) * down.y;
  double focal = static_cast<double>(before.millimetres) / 36 * picture.width;
  const Eigen::Vector3d meet = through(lines.left).cross(through(lines.right));
  if (std::fabs(meet.z()) > 1e-12) {
    const Point at{meet.x() / meet.z(), meet.y() / meet.z()};
    const double far = (at.x - middle.x) * down.x + (at.y - middle.y) * down.y;
    // They lie on opposite sides of the middle, and never too far to be drawn by hand.
    const double square = -horizon * far;
    constexpr double farthest = 30;
    if (square > 0 && std::fabs(far) < farthest * picture.height) {
      const double millimetres = std::sqrt(square) / picture.width * 36;
      if (millimetres >= 14 && millimetres <= 200) focal = std::sqrt(square);
    }
  }
  Eye out = before;
  out.millimetres = static_cast<float>(focal / picture.width * 36);
  out.tilt = static_cast<float>(std::atan2(horizon, focal) * degrees);
  out.roll = static_cast<float>(slope * degrees);
  return out;
}

PictureLines linesFor(const Eye& eye, Size picture) {
  const Camera camera = cameraOf(eye, picture);
  const float turn = eye.turn * pi / 180;
  const auto away = [&](float aside, float high, float far) {
    const auto seen = camera.seen(eye.at + Vec3(-std::sin(turn + aside) * far, high, -std::cos(turn + aside) * far));
    return Point{static_cast<double>(seen.x), static_cast<double>(seen.y)};
  };
  // As wide as three quarters of the frame.
  const float wide = std::atan(0.75f * 18 / eye.millimetres);
  constexpr float endless = 1e4f;
  PictureLines out;
  out.horizon = {away(wide, 0, endless), away(-wide, 0, endless)};
  const float near = 4, high = near * 0.5f * std::tan(std::atan(18 / eye.millimetres));
  out.left = {away(0.6f * wide, high, near), away(0.6f * wide, -high, near)};
  out.right = {away(-0.6f * wide, high, near), away(-0.6f * wide, -high, near)};
  return out;
}

std::optional<Image<std::uint16_t>> joinedDepth(View<std::uint16_t> picture, const Look& look) {
  const auto& near = look.seen.near;
  if (picture.size() != near.size()) return {};
  std::vector<Eigen::Vector2d> ground;
  for (int y = 0; y < near.height(); y += 2)
    for (int x = 0; x < near.width(); x += 2)
      if (look.seen.object(x, y) == groundObject && near(x, y) > 0.005f)
        ground.emplace_back(picture(x, y), static_cast<double>(near(x, y)));
  constexpr std::size_t fewest = 60;
  if (ground.size() < fewest) return {};
  // near = a * picture + b on the ground; what stands on the picture's ground is not on that line.
  std::mt19937 dice(17);
  std::uniform_int_distribution<std::size_t> any(0, ground.size() - 1);
  double most = 0;
  for (const auto& g : ground) most = std::max(most, g.y());
  const double close = 0.03 * most;
  Eigen::Vector2d best(0, 0);
  std::size_t agreed = 0;
  for (int tries = 0; tries < 200; ++tries) {
    const auto &p = ground[any(dice)], &q = ground[any(dice)];
    if (std::fabs(p.x() - q.x()) < 500) continue;
    const double a = (p.y() - q.y()) / (p.x() - q.x()), b = p.y() - a * p.x();
    if (a <= 0) continue;
    std::size_t agree = 0;
    for (std::size_t i = 0; i < ground.size(); i += 3)
      agree += std::fabs(a * ground[i].x() + b - ground[i].y()) < close ? 1 : 0;
    if (agree > agreed) agreed = agree, best = {a, b};
  }
  if (3 * agreed < ground.size() / 4) return {};
  double sx = 0, sy = 0, sxx = 0, sxy = 0, n = 0;
  for (const auto& g : ground) {
    if (std::fabs(best.x() * g.x() + best.y() - g.y()) >= close) continue;
    sx += g.x(), sy += g.y(), sxx += g.x() * g.x(), sxy += g.x() * g.y(), ++n;
  }
  const double spread = n * sxx - sx * sx;
  if (n < 3 || spread <= 0) return {};
  const double a = (n * sxy - sx * sy) / spread, b = (sy - a * sx) / n;
  if (a <= 0) return {};
  Image<float> joined(picture.size());
  float top = 65535;
  for (int y = 0; y < picture.height(); ++y)
    for (int x = 0; x < picture.width(); ++x) {
      float value = picture(x, y);
      const auto object = look.seen.object(x, y);
      if (object != 0 && object != groundObject)
        value = std::max(value, static_cast<float>((static_cast<double>(near(x, y)) - b) / a));
      joined(x, y) = value;
      top = std::max(top, value);
    }
  Image<std::uint16_t> out(picture.size());
  for (int y = 0; y < picture.height(); ++y)
    for (int x = 0; x < picture.width(); ++x)
      out(x, y) = static_cast<std::uint16_t>(std::lround(std::clamp(joined(x, y) * 65535 / top, 0.0f, 65535.0f)));
  return out;
}

}  // namespace hscaffold::stage
