/// A small sphere tracer (Hart 1996) with soft shadows, for drawing the almanac's "photographs".
#pragma once

#include <cmath>
#include <cstdint>
#include <functional>

#include "core/image/image.h"

namespace almanac {

struct Vec {
  float x = 0, y = 0, z = 0;
  friend Vec operator+(Vec a, Vec b) { return {a.x + b.x, a.y + b.y, a.z + b.z}; }
  friend Vec operator-(Vec a, Vec b) { return {a.x - b.x, a.y - b.y, a.z - b.z}; }
  friend Vec operator*(Vec a, float s) { return {a.x * s, a.y * s, a.z * s}; }
};
inline float dot(Vec a, Vec b) { return a.x * b.x + a.y * b.y + a.z * b.z; }
inline float length(Vec a) { return std::sqrt(dot(a, a)); }
inline Vec unit(Vec a) { return a * (1 / length(a)); }
inline Vec cross(Vec a, Vec b) { return {a.y * b.z - a.z * b.y, a.z * b.x - a.x * b.z, a.x * b.y - a.y * b.x}; }

/// Distance to the nearest surface, and what it is made of. y points up.
struct Surface {
  float distance = 1e6f;
  int material = 0;
};
inline Surface nearer(Surface a, Surface b) { return a.distance < b.distance ? a : b; }

inline float sphere(Vec p, Vec centre, float radius) { return length(p - centre) - radius; }
/// A limb: round at both ends, with its own radius at each.
inline float limb(Vec p, Vec a, Vec b, float ra, float rb) {
  const Vec ab = b - a;
  const float t = std::fmin(1.0f, std::fmax(0.0f, dot(p - a, ab) / dot(ab, ab)));
  return length(p - a - ab * t) - (ra + (rb - ra) * t);
}
inline float block(Vec p, Vec centre, Vec half, float round = 0.01f) {
  const float x = std::fabs(p.x - centre.x) - half.x + round, y = std::fabs(p.y - centre.y) - half.y + round,
              z = std::fabs(p.z - centre.z) - half.z + round;
  const Vec outside{std::fmax(x, 0.0f), std::fmax(y, 0.0f), std::fmax(z, 0.0f)};
  return length(outside) + std::fmin(std::fmax(x, std::fmax(y, z)), 0.0f) - round;
}
/// Both joined with a soft seam.
inline float joined(float a, float b, float soft) {
  const float h = std::fmax(soft - std::fabs(a - b), 0.0f) / soft;
  return std::fmin(a, b) - h * h * soft * 0.25f;
}

struct Camera {
  Vec eye, target;
  float lens = 1.5f;  ///< focal length over half the picture's height
  float roll = 0;
};

struct Scene {
  Camera camera;
  Vec sun;  ///< towards it, unit length
  hscaffold::Rgb sunColour, skyColour, fogColour;
  float fog = 0;     ///< per unit of distance
  float reach = 60;  ///< nothing farther is looked for
  std::function<Surface(Vec)> surface;
  /// Colour of a material at a place; `shine` may be set for wet or glossy ones.
  std::function<hscaffold::Rgb(int material, Vec place, Vec normal, float& shine)> colour;
  std::function<hscaffold::Rgb(Vec direction)> sky;
};

/// Linear light, with a lens's small faults: soft corners, vignette, grain.
hscaffold::Image<hscaffold::Rgb> photograph(const Scene& scene, hscaffold::Size size, std::uint64_t seed);

/// How near everything is: 1 / distance along the line of sight's axis, at pixel centres; 0 where nothing is met.
hscaffold::Image<float> nearness(const Scene& scene, hscaffold::Size size);

}  // namespace almanac
