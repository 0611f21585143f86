/// Shadows on whatever is there: the set as the light sees it (Williams 1978, "Casting curved shadows on curved
/// surfaces"); a place is as dark as much of a square about it is, so that borders are smooth or soft (Reeves, Salesin
/// and Cook 1987). Soft ones are looked up in a smaller picture of the map, all of whose samples in the square count.
#pragma once

#include <optional>

#include "core/stage/lit.h"
#include "core/stage/raster.h"

namespace hscaffold::stage {

class ShadowMap {
 public:
  /// What it sees: a square about a place, which holds a ball of this radius.
  struct Reach {
    Vec3 middle = Vec3::Zero();
    float radius = 0;  ///< metres; 0: nothing throws
    friend bool operator==(const Reach&, const Reach&) = default;
  };
  /// Where what throws is, as far as it has shadows at all. @param bounds  of the meshes
  static Bounds thrownBy(std::span<const Mesh> meshes, std::span<const Bounds> bounds);
  /// As closely as it may be about these.
  static Reach reachOf(const Bounds& throwing);

  /// @param meshes  those whose material throws are seen; the map holds just them
  /// @param soft    radius of the border, metres
  /// @param side    samples along each side
  /// As close about them as it may be.
  ShadowMap(std::span<const Mesh> meshes, const Vec3& from, float soft, int side = usualSide);
  ShadowMap(std::span<const Mesh> meshes, const Vec3& from, float soft, int side, const Reach& reach);
  static constexpr int usualSide = 1024, coarseSide = 512;

  /// The same light after something has changed: what it sees of that alone is drawn again, and the whole is what a map
  /// of this reach and side made anew would be, to the last bit.
  /// @param changed  places that hold all that was there and is not, or is and was not
  [[nodiscard]] ShadowMap after(std::span<const Mesh> meshes, std::span<const Bounds> changed) const;
  [[nodiscard]] const Reach& reach() const { return reach_; }
  /// Whether all within these bounds is in what it sees.
  [[nodiscard]] bool holds(const Bounds& bounds) const;
  [[nodiscard]] int side() const { return side_; }

  /// What may be lit otherwise, of what lies above a height, when something within these bounds changes: the bounds
  /// with their shadow, as points whose hull holds both. Nothing, if they reach beyond where all has shadows.
  [[nodiscard]] std::optional<std::array<Vec3, 16>> hullOf(const Bounds& bounds, float lowest) const;

  /// A place as the light has it: across, up, towards it, and how much it faces it. Straight in place and normal, so
  /// what lies between two places has what lies between theirs.
  using Seen = std::array<float, 4>;
  [[nodiscard]] Seen seen(const Vec3& place, const Vec3& normal) const;
  /// For `shadowsAt`, as long as the map is there.
  [[nodiscard]] ShadowField field() const;

 private:
  ShadowMap() = default;
  [[nodiscard]] const Image<float>& looked() const { return step_ > 1 ? looked_ : over_; }
  [[nodiscard]] int borderReach() const;
  void draw(std::span<const Mesh> meshes, const Patch& part);

  Reach reach_;
  Camera camera_;        ///< the light's eye; the rasteriser takes two samples along each side of a pixel
  int side_ = 0;         ///< samples
  int step_ = 1;         ///< samples along each side of one that is looked up
  float focal_ = 1;      ///< samples at one metre
  Image<float> over_;    ///< 1 / metres from the light's eye
  Image<float> looked_;  ///< the same as it is looked up, if `step_` is not 1: what half of its samples exceed
  Image<float> most_;    ///< of what is looked up, the greatest within a border's reach
  Image<float> least_;   ///< and the least
  float texel_ = 0;      ///< metres
  float soft_ = 0;       ///< samples
};

}  // namespace hscaffold::stage
