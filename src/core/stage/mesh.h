/// Surfaces of the set: triangles with colours, and what they are built from. Metres, y up, x to the right, z towards
/// the eye at rest.
#pragma once

#include <Eigen/Core>
#include <array>
#include <cstdint>
#include <limits>
#include <memory>
#include <numbers>
#include <span>
#include <vector>

#include "core/image/image.h"

namespace hscaffold::stage {

inline constexpr float pi = std::numbers::pi_v<float>;

using Vec3 = Eigen::Vector3f;

class PanelPicture;

/// How a surface takes light and how its colour varies over space.
struct Material {
  float shine = 0;                                   ///< strength of highlights, [0, 1]
  float grain = 0;                                   ///< how much its lightness varies, [0, 1]
  float grainSize = 0.1f;                            ///< of the variation, metres
  bool glows = false;                                ///< as bright as its colour, whatever the light
  bool throws = true;                                ///< a shadow, where the light throws any
  bool grown = false;                                ///< of flesh: what bends sharply is a fold and no edge
  std::shared_ptr<const PanelPicture> picture = {};  ///< shown where `Mesh::across` says; may be null
};

/// One thing of the set. Faces turn counter-clockwise as seen from outside; both sides are drawn, but for what is
/// closed.
struct Mesh {
  std::vector<Vec3> at, normal;
  std::vector<Rgb> colour;                   ///< one a point, linear
  std::vector<std::array<float, 2>> across;  ///< where in its material's picture a point is, [0, 1]; below 0: nowhere
  std::vector<std::array<std::uint32_t, 3>> faces;
  std::size_t closed = 0;  ///< so many faces come first that leave no gap: who is outside sees none from behind
  std::vector<std::array<std::uint32_t, 2>> drawn;  ///< edges that a drawing shows wherever they are seen: hems, lips
  Material material;
  std::uint16_t object = 0;  ///< in the picture of objects; 0 is nothing

  void add(const Mesh& other);  ///< what is closed of it stays so where all is before it
};

/// A box that holds places.
struct Bounds {
  Vec3 low = Vec3::Constant(std::numeric_limits<float>::max()), high = -low;
  void take(const Vec3& p) {
    low = low.cwiseMin(p);
    high = high.cwiseMax(p);
  }
  [[nodiscard]] bool empty() const { return (low.array() > high.array()).any(); }
  [[nodiscard]] bool meets(const Bounds& other) const {
    return (low.array() <= other.high.array()).all() && (other.low.array() <= high.array()).all();
  }
  [[nodiscard]] std::array<Vec3, 8> corners() const;
};
Bounds boundsOf(const Mesh& mesh);
/// Of each.
std::vector<Bounds> boundsOf(std::span<const Mesh> meshes);

/// A closed line across a tube: an ellipse about `centre` with these half axes.
struct Ring {
  Vec3 centre, across, deep;
  Rgb colour;
};
/// Which ends of a tube are closed.
enum class Ends { open, first, last, both };
/// A tube through rings. @param around  points a ring, at least 3
void addTube(Mesh& mesh, std::span<const Ring> rings, int around, Ends ends = Ends::both);
/// Part of a tube, from angle `from` to angle `to` (radians, 0 along `across`, growing towards `deep`).
void addHalfTube(Mesh& mesh, std::span<const Ring> rings, int around, float from, float to);
/// Half axes as vectors.
void addEllipsoid(Mesh& mesh, const Vec3& centre, const Vec3& x, const Vec3& y, const Vec3& z, Rgb colour,
                  int around = 10);
/// Half axes as vectors.
void addBox(Mesh& mesh, const Vec3& centre, const Vec3& x, const Vec3& y, const Vec3& z, Rgb colour);
/// A sheet from a corner along two sides, in so many fields.
void addSheet(Mesh& mesh, const Vec3& corner, const Vec3& side, const Vec3& up, Rgb colour, int across = 1,
              int down = 1);

/// Smooth normals from faces; must be called after points were added or moved.
void computeNormals(Mesh& mesh);

}  // namespace hscaffold::stage
