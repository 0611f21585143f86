/// Gaussian derivatives in whole numbers. Private to the edges folder.
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

/// Works out gradients of rows one after the other; its buffers are used again and again.
class GradientRows {
 public:
  /// @param mostRows  of one call of `compute`.
  GradientRows(View<std::int16_t> plane, const Kernels& kernels, int mostRows);
  /// Gradient of `rows` rows from `firstRow` on, which may reach past the picture by clamping; whole numbers.
  void compute(int firstRow, int rows);
  /// Row `i` of those computed last.
  [[nodiscard]] const std::int32_t* acrossRow(int i) const { return across_.row(i); }
  [[nodiscard]] const std::int32_t* downRow(int i) const { return down_.row(i); }

 private:
  View<std::int16_t> plane_;
  const Kernels& kernels_;
  Image<std::int32_t> smoothed_, sloped_, across_, down_;
  std::vector<std::int32_t> padded_;
};

/// One row across: `padded` has the row with `radius` pixels more on either side. Writes the smoothed row and its slope.
void filterAcross(const std::int32_t* padded, int width, const Kernels& kernels, std::int32_t* smoothed, std::int32_t* sloped);
/// The same down, over 2 radius + 1 rows of each: `across` from sloped rows, `down` from smoothed ones.
void filterDown(const std::int32_t* const* smoothed, const std::int32_t* const* sloped, int width, const Kernels& kernels,
                std::int32_t* across, std::int32_t* down);

/// In which of `bins` bins over [0, 1] each of `width` magnitudes falls. Room for width + vectorSlack.
void binRow(const float* magnitude, int width, int bins, std::int32_t* bin);

/// Magnitude and gradient in full steps from whole numbers. Vector instructions where there are any.
void magnitudeRow(const std::int32_t* across, const std::int32_t* down, int width, float* gx, float* gy, float* magnitude);

/// Non-maximum suppression of pixels 1 to width - 2 of a row (Canny 1986) between neighbours interpolated along the
/// gradient; of two equal ones the one on the brighter side, which turns with the picture.
/// @param least  smaller magnitudes are never kept.
/// @param kept   room for width + vectorSlack pixels: which are kept, by x.
/// @param shift  as much room: where the top of the parabola through the three magnitudes lies along the gradient, for each
///               kept pixel; [-0.5, 0.5], in pixels of the gradient's larger component.
/// @return how many are kept.
std::size_t suppressRow(const float* above, const float* here, const float* below, const float* gx, const float* gy, int width,
                        float least, std::int32_t* kept, float* shift);

}  // namespace hscaffold::edges_detail
