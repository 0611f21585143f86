/// Triangles before the eye, and which of them is nearest at each sample of a strip of rows: a z-buffer (Catmull 1974)
/// filled row by row between a triangle's sides.
#pragma once

#include <array>
#include <cstdint>
#include <span>
#include <vector>

#include "core/stage/raster.h"

namespace hscaffold::stage {

inline constexpr int samplesAside = 2;  ///< samples along each side of a pixel
inline constexpr int stripRows = 32;    ///< rows of pixels that are worked on together
/// A sample's winner where nothing is.
inline constexpr std::uint32_t nobody = 0xffffffffu;

/// A triangle on its way to the screen.
struct Triangle {
  struct Corner {
    float x = 0, y = 0;  ///< in samples
    float over = 0;      ///< 1 / metres
  };
  std::array<Corner, 3> at;
  std::uint32_t mesh = 0, face = 0;
  std::uint32_t cut = nobody;  ///< which of `Triangles`' cuts its corners are; nobody: they are the face's own
};

/// What is nearest in a strip. Rows lie one after the other, `width` samples each.
struct Samples {
  int width = 0, first = 0, end = 0;  ///< rows [first, end) of samples
  std::span<const Patch::Run> runs;   ///< of its rows of pixels: what lies beside them is of no picture
  std::vector<float> over;            ///< 1 / metres; 0: nothing
  std::vector<std::uint32_t> winner;  ///< a triangle's number, or `nobody`
};

/// All triangles of a picture, or of a part of it: there they win the same samples, to the last bit.
class Triangles {
 public:
  /// @param throwsOnly  only of meshes whose material throws
  /// @param part        within the camera's picture
  Triangles(std::span<const Mesh> meshes, const Camera& camera, bool throwsOnly, Patch part);

  /// Of the part, from its top.
  [[nodiscard]] std::size_t strips() const { return strips_.size(); }
  /// Whether anything of a mesh may be seen in the part.
  [[nodiscard]] bool shows(std::size_t mesh) const { return shows_[mesh]; }
  /// Fills `into` with what is nearest in a strip; its runs are there as long as this is.
  void nearestIn(std::size_t strip, Samples& into) const;
  [[nodiscard]] const Triangle& operator[](std::uint32_t number) const { return all_[number]; }
  /// Shares of the three points of its face at a place in samples; they add up to 1.
  [[nodiscard]] std::array<float, 3> sharesAt(const Triangle& triangle, float x, float y) const {
    const auto& [p, q, r] = triangle.at;
    const float px = p.x - x, py = p.y - y, qx = q.x - x, qy = q.y - y, rx = r.x - x, ry = r.y - y;
    const float u = (qx * ry - rx * qy) * p.over, v = (rx * py - px * ry) * q.over, w = (px * qy - qx * py) * r.over;
    const float sum = u + v + w, scale = sum != 0 ? 1 / sum : 0;
    const std::array<float, 3> shares = {u * scale, v * scale, w * scale};
    return triangle.cut == nobody ? shares : ofFace(triangle, shares);
  }

 private:
  /// From shares of a cut triangle's corners to those of its face's points.
  [[nodiscard]] std::array<float, 3> ofFace(const Triangle& triangle, const std::array<float, 3>& shares) const;
  /// Shares of a face's points at the corners of a triangle that is part of it.
  using Cut = std::array<Vec3, 3>;
  struct Part {
    std::vector<Triangle> triangles;
    std::vector<Cut> cuts;
  };
  static Part partOf(const Mesh& mesh, std::uint32_t number, const Camera& camera, const Box& part);

  Size size_;
  Patch part_;
  std::vector<std::uint8_t> shows_;  ///< by mesh
  std::vector<Triangle> all_;
  std::vector<Cut> cuts_;
  std::vector<std::vector<std::uint32_t>> strips_;  ///< triangles that reach into each of the part, in their order
};

namespace raster_detail {
/// Vectors of samples may reach so far beyond the last one of a strip.
inline constexpr std::size_t slack = 16;
/// Draws triangles of these numbers into a strip.
void drawAll(const Triangle* triangles, std::span<const std::uint32_t> numbers, Samples& into);
}  // namespace raster_detail

}  // namespace hscaffold::stage
