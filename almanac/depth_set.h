/// What the made-up scenes of known depth are put together from.
#pragma once

#include <algorithm>

#include "core/engine/standin/noise.h"
#include "raymarch.h"

namespace almanac {

/// Numbers that follow from a seed, one after the other.
class Dice {
 public:
  explicit Dice(std::uint64_t seed) : state_(seed) {}
  float between(float low, float high) {
    state_ = hscaffold::standin::mixed(state_, 0x51edULL);
    return low + (high - low) * hscaffold::standin::unit(state_);
  }
  int upTo(int count) { return std::min(count - 1, static_cast<int>(between(0, static_cast<float>(count)))); }
  bool chance(float share) { return between(0, 1) < share; }
  /// Earthy, sometimes bright.
  hscaffold::Rgb colour() {
    const float light = between(0.04f, 0.6f), warm = between(-0.25f, 0.45f), green = between(-0.2f, 0.25f);
    return {light * (1 + warm), light * (1 + green), light * (1 - warm)};
  }

 private:
  std::uint64_t state_;
};

struct Paint {
  hscaffold::Rgb colour;
  float grain = 8;       ///< patches per unit of length
  float unevenness = 0;  ///< how strongly they differ
};

struct Thing {
  std::function<float(Vec)> distance;
  int paint = 0;
  Vec centre;
  float radius = 1;  ///< of a ball that holds it
};

struct Set {
  std::vector<Thing> things;
  std::vector<Paint> paints;
  Scene scene;
  float focus = 0;    ///< distance that is sharp
  float opening = 0;  ///< size of what is out of focus, share of the height; 0: all is sharp
  bool flat = false;  ///< few plain colours, as printed

  int paint(Dice& dice, float unevenness) {
    paints.push_back({dice.colour(), dice.between(2, 14), unevenness * dice.between(0.3f, 1.2f)});
    return static_cast<int>(paints.size()) - 1;
  }
  void add(int paint, Vec centre, float radius, std::function<float(Vec)> distance) {
    things.push_back({std::move(distance), paint, centre, radius});
  }
};

inline void addBall(Set& set, int paint, Vec centre, float radius) {
  set.add(paint, centre, radius, [=](Vec p) { return sphere(p, centre, radius); });
}
inline void addBlock(Set& set, int paint, Vec centre, Vec half, float turn = 0) {
  const float c = std::cos(turn), s = std::sin(turn);
  set.add(paint, centre, length(half), [=](Vec p) {
    const Vec q = p - centre;
    return block({c * q.x - s * q.z, q.y, s * q.x + c * q.z}, {}, half, 0.01f);
  });
}
inline void addLimb(Set& set, int paint, Vec a, Vec b, float ra, float rb) {
  set.add(paint, (a + b) * 0.5f, length(b - a) * 0.5f + std::max(ra, rb), [=](Vec p) { return limb(p, a, b, ra, rb); });
}

/// Sun or grey light, clouds.
void daylight(Set& set, Dice& dice);

/// Leaves and twigs in layers before a wall or open land: fine texture all over, and holes through which it goes on.
void setLeaves(Set& set, Dice& dice);
/// Wheels with spokes, plates with holes, gratings and pipes, one behind the other.
void setMachine(Set& set, Dice& dice);

}  // namespace almanac
