/// Perspective between two planes (Heckbert 1989, "Fundamentals of Texture Mapping and Image Warping").
#pragma once

#include <array>

#include "core/image/point.h"

namespace hscaffold {

/// Four corners: top left, top right, bottom right, bottom left, as the thing itself lies.
using Quad = std::array<Point, 4>;

/// x' = (a x + b y + c) / (g x + h y + i), y' = (d x + e y + f) / (g x + h y + i).
class Homography {
 public:
  /// Everything stays where it is.
  Homography() = default;
  explicit Homography(const std::array<double, 9>& rows) : m_(rows) {}
  /// The unit square onto these corners.
  static Homography ontoQuad(const Quad& corners);

  [[nodiscard]] Point operator()(Point p) const {
    const double x = p.x, y = p.y, w = m_[6] * x + m_[7] * y + m_[8];
    return {(m_[0] * x + m_[1] * y + m_[2]) / w, (m_[3] * x + m_[4] * y + m_[5]) / w};
  }
  /// Below or at 0 where a place lies behind the eye.
  [[nodiscard]] double weight(Point p) const { return m_[6] * p.x + m_[7] * p.y + m_[8]; }
  /// The way back; its `weight` is positive before the eye where that of this is.
  [[nodiscard]] Homography inverted() const;
  /// What `first` and then this does.
  [[nodiscard]] Homography after(const Homography& first) const;

 private:
  std::array<double, 9> m_{1, 0, 0, 0, 1, 0, 0, 0, 1};
};

}  // namespace hscaffold
