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

/// Response to a sharp step of full height; divides magnitudes into [0, 1].
inline constexpr float fullStep = 4095.0f * 512.0f * 256.0f;

/// Gradient of `rows` rows from `firstRow` on (which may reach past the picture by clamping), in whole numbers.
class GradientRows {
 public:
  GradientRows(View<std::int16_t> plane, const Kernels& kernels, int firstRow, int rows);
  [[nodiscard]] const std::int32_t* acrossRow(int y) const { return across_.row(y - firstRow_); }
  [[nodiscard]] const std::int32_t* downRow(int y) const { return down_.row(y - firstRow_); }

 private:
  int firstRow_;
  Image<std::int32_t> across_, down_;
};

}  // namespace hscaffold::edges_detail
