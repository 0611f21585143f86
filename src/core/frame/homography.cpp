#include "core/frame/homography.h"

namespace hscaffold {

Homography Homography::ontoQuad(const Quad& q) {
  const double sx = q[0].x - q[1].x + q[2].x - q[3].x, sy = q[0].y - q[1].y + q[2].y - q[3].y;
  const double ax = q[1].x - q[2].x, ay = q[1].y - q[2].y, bx = q[3].x - q[2].x, by = q[3].y - q[2].y;
  const double whole = ax * by - bx * ay;
  const double g = whole != 0 ? (sx * by - bx * sy) / whole : 0, h = whole != 0 ? (ax * sy - sx * ay) / whole : 0;
  return Homography({q[1].x - q[0].x + g * q[1].x, q[3].x - q[0].x + h * q[3].x, q[0].x, q[1].y - q[0].y + g * q[1].y,
                     q[3].y - q[0].y + h * q[3].y, q[0].y, g, h, 1});
}

Homography Homography::inverted() const {
  const auto& [a, b, c, d, e, f, g, h, i] = m_;
  // The adjugate: a perspective is the same whatever it is multiplied by; the determinant keeps its sign.
  const double whole = a * (e * i - f * h) - b * (d * i - f * g) + c * (d * h - e * g);
  const double by = whole != 0 ? 1 / whole : 1;
  return Homography({by * (e * i - f * h), by * (c * h - b * i), by * (b * f - c * e), by * (f * g - d * i),
                     by * (a * i - c * g), by * (c * d - a * f), by * (d * h - e * g), by * (b * g - a * h),
                     by * (a * e - b * d)});
}

Homography Homography::after(const Homography& first) const {
  std::array<double, 9> out{};
  for (std::size_t row = 0; row < 3; ++row)
    for (std::size_t column = 0; column < 3; ++column)
      for (std::size_t k = 0; k < 3; ++k) out[3 * row + column] += m_[3 * row + k] * first.m_[3 * k + column];
  return Homography(out);
}

}  // namespace hscaffold
