/// Shadows on whatever is there: the set as the light sees it (Williams 1978, "Casting curved shadows on curved
/// surfaces"), looked up with several taps so that borders are smooth or soft (Reeves, Salesin and Cook 1987).
#pragma once

#include "core/stage/lit.h"
#include "core/stage/raster.h"

namespace hscaffold::stage {

class ShadowMap {
 public:
  /// @param meshes  those whose material throws are seen; the map holds just them
  /// @param soft    radius of the border, metres
  /// @param side    samples along each side
  ShadowMap(std::span<const Mesh> meshes, const Vec3& from, float soft, int side = usualSide);
  static constexpr int usualSide = 1024, coarseSide = 512;

  /// A place as the light has it: across, up, towards it, and how much it faces it. Straight in place and normal, so
  /// what lies between two places has what lies between theirs.
  using Seen = std::array<float, 4>;
  [[nodiscard]] Seen seen(const Vec3& place, const Vec3& normal) const;
  /// For `shadowsAt`, as long as the map is there.
  [[nodiscard]] ShadowField field() const;

 private:
  Eigen::Matrix3f look_ = Eigen::Matrix3f::Identity();  ///< of the light's eye
  Vec3 eye_ = Vec3::Zero();
  int side_;            ///< samples; the rasteriser takes two along each side of a pixel
  float focal_ = 1;     ///< samples at one metre
  Image<float> over_;   ///< 1 / metres from the light's eye
  Image<float> tiles_;  ///< greatest of each tile and those round it
  float texel_ = 0;     ///< metres
  float soft_ = 0;      ///< samples
};

}  // namespace hscaffold::stage
