/// What shading needs of many places at once: light brought from points to places, and shadows looked up, in vectors.
#pragma once

#include <array>
#include <cstdint>
#include <span>

#include "core/image/image.h"
#include "core/stage/triangles.h"

namespace hscaffold::stage {

/// What a point of a mesh gives to the pixels of its faces: all of it runs evenly over a triangle.
struct alignas(64) Lit {
  enum : std::size_t { colour = 0, beam = 3, normal = 6, light = 9, across = 13, count = 16 };
  /// Light but for what shadows may take; what they may take; normal in the eye's axes; as the shadow map has it
  /// (`ShadowMap::Seen`); where in the material's picture.
  std::array<float, count> part{};

  void put(std::size_t first, const Rgb& c) { part[first] = c.r, part[first + 1] = c.g, part[first + 2] = c.b; }
  [[nodiscard]] Rgb rgb(std::size_t first) const { return {part[first], part[first + 1], part[first + 2]}; }
};

/// A place on a triangle, in samples.
struct LitPlace {
  std::uint32_t triangle = 0;
  float x = 0, y = 0;
};

/// A mesh as these see it.
struct LitMesh {
  const std::array<std::uint32_t, 3>* faces = nullptr;
  const Lit* points = nullptr;
};

/// A shadow map as these see it: see shadow_map.cpp. Its pictures are all as large, with rows that begin as far apart.
struct ShadowField {
  const float* over = nullptr;   ///< 1 / metres from the light
  const float* most = nullptr;   ///< greatest within a border's reach: what is nearer has no shadow
  const float* least = nullptr;  ///< least within it: what is farther lies in shadow
  std::ptrdiff_t stride = 0;     ///< floats from row to row
  int side = 0;                  ///< samples; 0: there are no shadows
  float focal = 1;               ///< samples at one metre
  float texel = 0;               ///< metres
  float soft = 0;                ///< samples, below `raster_detail::softest`
  float off = 0;                 ///< metres: what is so much farther than the map says lies on what it shows
};

namespace raster_detail {
inline constexpr int softest = 4;  ///< samples
/// @param meshes  by `Triangle::mesh` @param out, mesh  as many as places; the mesh that each is on
void lightAt(const Triangles& triangles, std::span<const LitMesh> meshes, std::span<const LitPlace> places, Lit* out,
             std::uint32_t* mesh);
/// Share of the first light that does not come to each place, [0, 1].
void shadowsAt(const ShadowField& field, std::span<const Lit> places, float* out);
}  // namespace raster_detail

}  // namespace hscaffold::stage
