/// Gaussian derivatives in whole numbers, row by row, and suppression. Private to the edges folder.
#pragma once

#include <cstdint>
#include <vector>

#include "core/image/image.h"

namespace hscaffold::edges_detail {

/// Half kernels in whole numbers: `smooth[0]` is the middle; the whole smoothing kernel adds up to 512, and so do the
/// absolute values of the derivative kernel (`slope[0]` is 0). With 12-bit pictures no sum leaves 31 bits.
struct Kernels {
  std::vector<std::int32_t> smooth, slope;
  [[nodiscard]] int radius() const { return static_cast<int>(smooth.size()) - 1; }
};
Kernels kernelsFor(double sigma);

/// Vectors may read and write this many pixels past the end of a row; rows of images are padded to as many.
inline constexpr int vectorSlack = 16;

/// Response to a sharp step of full height; divides magnitudes into [0, 1].
inline constexpr float fullStep = 4095.0f * 512.0f * 256.0f;

/// Rows of the gradient one after the other. Only as many filtered rows are held as the kernel reaches, so that all
/// work stays in the cache.
class GradientStream {
 public:
  GradientStream(View<std::int16_t> plane, const Kernels& kernels);
  /// The next call of `row` may be for any row; after it rows follow each other.
  void restart() { ready_ = false; }
  /// Gradient and magnitude of row y in full steps; rows outside the picture are its border rows.
  void row(int y, float* gx, float* gy, float* magnitude);

 private:
  void filterRow(int y);

  View<std::int16_t> plane_;
  const Kernels& kernels_;
  Image<std::int32_t> smoothed_, sloped_;  ///< ring of filtered rows, row y at y modulo their number
  std::vector<std::int32_t> padded_;
  std::vector<const std::int32_t*> smoothRows_, slopeRows_;
  bool ready_ = false;
  int next_ = 0;  ///< the first row that is not filtered yet
};

// In vectors, for whatever instructions the machine has (gradient_simd.cpp). Whole numbers give the same everywhere,
// and nothing is fused that would round differently when the picture is turned.

/// One row across: `padded` has the row with `radius` pixels more on either side. Writes the smoothed row and its
/// slope.
void filterAcross(const std::int32_t* padded, int width, const Kernels& kernels, std::int32_t* smoothed,
                  std::int32_t* sloped);
/// The same down, over 2 radius + 1 rows of each, to the gradient and its magnitude in full steps.
void filterDown(const std::int32_t* const* smoothed, const std::int32_t* const* sloped, int width,
                const Kernels& kernels, float* gx, float* gy, float* magnitude);

/// In which of `bins` bins over [0, 1] each of `width` magnitudes falls. Room for width + vectorSlack.
void binRow(const float* magnitude, int width, int bins, std::int32_t* bin);

/// Non-maximum suppression of pixels 1 to width - 2 of a row (Canny 1986) between neighbours interpolated along the
/// gradient; of two equal ones the one on the brighter side, which turns with the picture.
/// @param least  smaller magnitudes are never kept.
/// @param kept   room for width + vectorSlack pixels: which are kept, by x.
/// @param shiftX, shiftY  as much room: how far along the gradient the top of the parabola through the three magnitudes
///               lies, for each kept pixel; at most half a pixel of the gradient's larger component.
/// @return how many are kept.
std::size_t suppressRow(const float* above, const float* here, const float* below, const float* gx, const float* gy,
                        int width, float least, std::int32_t* kept, float* shiftX, float* shiftY);

}  // namespace hscaffold::edges_detail
