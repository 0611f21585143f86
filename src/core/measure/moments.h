/// Sums over pairs of numbers: how far they spread, and along which way.
#pragma once

namespace hscaffold {

struct Moments {
  double mass = 0, x = 0, y = 0, xx = 0, xy = 0, yy = 0;

  void add(double px, double py) {
    mass += 1;
    x += px, y += py;
    xx += px * px, xy += px * py, yy += py * py;
  }
  void operator+=(const Moments& other) {
    mass += other.mass;
    x += other.x, y += other.y;
    xx += other.xx, xy += other.xy, yy += other.yy;
  }

  /// Sums of products of what lies off the means; `mass` times the covariances.
  struct Spread {
    double xx = 0, xy = 0, yy = 0;
  };
  [[nodiscard]] Spread spread() const { return {xx - x * x / mass, xy - x * y / mass, yy - y * y / mass}; }
};

}  // namespace hscaffold
