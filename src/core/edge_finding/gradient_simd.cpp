// Filters, magnitude and suppression in vectors (Highway): compiled for every instruction set, chosen when the program
// runs.
#undef HWY_TARGET_INCLUDE
#define HWY_TARGET_INCLUDE \
  "core/edge_finding/gradient_simd.cpp"  // NOLINT: Highway includes this file once for each target
#include <hwy/foreach_target.h>
// Must come after foreach_target.h.
#include <hwy/highway.h>

#include "core/edge_finding/gradient.h"

HWY_BEFORE_NAMESPACE();
namespace hscaffold::edges_detail::HWY_NAMESPACE {
namespace hn = hwy::HWY_NAMESPACE;

// Sums stay in registers: two vectors of pixels at a time, all taps of the kernel for each.
void Across(const std::int32_t* padded, int width, const Kernels& kernels, std::int32_t* smoothed,
            std::int32_t* sloped) {
  const hn::CappedTag<std::int32_t, vectorSlack> i;
  const int radius = kernels.radius(), lanes = static_cast<int>(hn::Lanes(i));
  const std::int32_t* middle = padded + radius;
  for (int x = 0; x < width; x += lanes) {
    auto sum = hn::Mul(hn::LoadU(i, middle + x), hn::Set(i, kernels.smooth[0]));
    auto slope = hn::Zero(i);
    for (int k = 1; k <= radius; ++k) {
      const auto left = hn::LoadU(i, middle + x - k), right = hn::LoadU(i, middle + x + k);
      sum = hn::Add(sum, hn::Mul(hn::Add(left, right), hn::Set(i, kernels.smooth[static_cast<std::size_t>(k)])));
      slope = hn::Add(slope, hn::Mul(hn::Sub(right, left), hn::Set(i, kernels.slope[static_cast<std::size_t>(k)])));
    }
    hn::StoreU(sum, i, smoothed + x);
    hn::StoreU(slope, i, sloped + x);
  }
}

void Down(const std::int32_t* const* smoothed, const std::int32_t* const* sloped, int width, const Kernels& kernels,
          float* gx, float* gy, float* magnitude) {
  const hn::CappedTag<float, vectorSlack> f;
  const hn::RebindToSigned<decltype(f)> i;
  const auto scale = hn::Set(f, 1 / fullStep);
  const int radius = kernels.radius(), lanes = static_cast<int>(hn::Lanes(i));
  for (int x = 0; x < width; x += lanes) {
    auto sum = hn::Mul(hn::LoadU(i, sloped[radius] + x), hn::Set(i, kernels.smooth[0]));
    auto slope = hn::Zero(i);
    for (int k = 1; k <= radius; ++k) {
      const auto pair = hn::Add(hn::LoadU(i, sloped[radius - k] + x), hn::LoadU(i, sloped[radius + k] + x));
      const auto difference = hn::Sub(hn::LoadU(i, smoothed[radius + k] + x), hn::LoadU(i, smoothed[radius - k] + x));
      sum = hn::Add(sum, hn::Mul(pair, hn::Set(i, kernels.smooth[static_cast<std::size_t>(k)])));
      slope = hn::Add(slope, hn::Mul(difference, hn::Set(i, kernels.slope[static_cast<std::size_t>(k)])));
    }
    const auto h = hn::Mul(hn::ConvertTo(f, sum), scale), v = hn::Mul(hn::ConvertTo(f, slope), scale);
    hn::StoreU(h, f, gx + x);
    hn::StoreU(v, f, gy + x);
    // Products and sum apart: a fused one would round differently when the picture is turned.
    hn::StoreU(hn::Sqrt(hn::Add(hn::Mul(h, h), hn::Mul(v, v))), f, magnitude + x);
  }
}

void Bin(const float* magnitude, int width, int bins, std::int32_t* bin) {
  const hn::CappedTag<float, vectorSlack> f;
  const hn::RebindToSigned<decltype(f)> i;
  for (int x = 0; x < width; x += static_cast<int>(hn::Lanes(f))) {
    const auto scaled = hn::Mul(hn::LoadU(f, magnitude + x), hn::Set(f, static_cast<float>(bins)));
    hn::StoreU(hn::ConvertTo(i, hn::Min(scaled, hn::Set(f, static_cast<float>(bins - 1)))), i, bin + x);
  }
}

template <class D>
HWY_INLINE std::size_t SuppressVector(D f, const float* above, const float* here, const float* below, const float* gx,
                                      const float* gy, int x, hn::Vec<D> least, std::int32_t* kept, float* shiftX,
                                      float* shiftY) {
  if (hn::AllFalse(f, hn::Ge(hn::LoadU(f, here + x), least))) return 0;  // flat ground: most of many pictures
  const auto zero = hn::Zero(f), one = hn::Set(f, 1.0f), half = hn::Set(f, 0.5f);
  const auto h = hn::LoadU(f, gx + x), v = hn::LoadU(f, gy + x), m = hn::LoadU(f, here + x);
  const auto ah = hn::Abs(h), av = hn::Abs(v);
  const auto flat = hn::Ge(ah, av);
  const auto part = hn::Div(hn::Min(ah, av), hn::Add(hn::Max(ah, av), hn::Set(f, 1e-30f)));
  const auto rest = hn::Sub(one, part);
  // Towards lower right or upper left: both components of one sign.
  const auto falling = hn::Not(hn::Xor(hn::Gt(h, zero), hn::Gt(v, zero)));
  const auto east = hn::LoadU(f, here + x + 1), west = hn::LoadU(f, here + x - 1);
  const auto south = hn::LoadU(f, below + x), north = hn::LoadU(f, above + x);
  const auto southEast = hn::LoadU(f, below + x + 1), southWest = hn::LoadU(f, below + x - 1);
  const auto northEast = hn::LoadU(f, above + x + 1), northWest = hn::LoadU(f, above + x - 1);
  const auto diagonalA = hn::IfThenElse(falling, southEast, hn::IfThenElse(flat, northEast, southWest));
  const auto diagonalB = hn::IfThenElse(falling, northWest, hn::IfThenElse(flat, southWest, northEast));
  const auto sideA = hn::Add(hn::Mul(hn::IfThenElse(flat, east, south), rest), hn::Mul(diagonalA, part));
  const auto sideB = hn::Add(hn::Mul(hn::IfThenElse(flat, west, north), rest), hn::Mul(diagonalB, part));
  const auto aheadIsA = hn::Gt(hn::IfThenElse(flat, h, v), zero);
  const auto ahead = hn::IfThenElse(aheadIsA, sideA, sideB), behind = hn::IfThenElse(aheadIsA, sideB, sideA);
  const auto keep = hn::And(hn::And(hn::Gt(m, ahead), hn::Ge(m, behind)), hn::Ge(m, least));
  if (hn::AllFalse(f, keep)) return 0;
  // Where it is kept the parabola bends down, or is flat on one side: never a division by nothing.
  const auto bend = hn::Sub(hn::Add(ahead, behind), hn::Add(m, m));
  const auto top = hn::Div(hn::Mul(half, hn::Sub(behind, ahead)), hn::IfThenElse(keep, bend, one));
  const auto along = hn::Div(hn::Min(half, hn::Max(hn::Neg(half), top)), hn::Add(hn::Max(ah, av), hn::Set(f, 1e-30f)));
  // Stores may write a whole vector; what is too much is written over by the next.
  const hn::RebindToSigned<D> i;
  hn::CompressStore(hn::Mul(h, along), keep, f, shiftX);
  hn::CompressStore(hn::Mul(v, along), keep, f, shiftY);
  return hn::CompressStore(hn::Iota(i, x), hn::RebindMask(i, keep), i, kept);
}

std::size_t Suppress(const float* above, const float* here, const float* below, const float* gx, const float* gy,
                     int width, float least, std::int32_t* kept, float* shiftX, float* shiftY) {
  const hn::CappedTag<float, vectorSlack> f;
  const int lanes = static_cast<int>(hn::Lanes(f));
  std::size_t count = 0;
  int x = 1;
  for (; x + lanes <= width - 1; x += lanes)
    count += SuppressVector(f, above, here, below, gx, gy, x, hn::Set(f, least), kept + count, shiftX + count,
                            shiftY + count);
  const hn::CappedTag<float, 1> single;
  for (; x < width - 1; ++x)
    count += SuppressVector(single, above, here, below, gx, gy, x, hn::Set(single, least), kept + count, shiftX + count,
                            shiftY + count);
  return count;
}

}  // namespace hscaffold::edges_detail::HWY_NAMESPACE
HWY_AFTER_NAMESPACE();

#if HWY_ONCE
namespace hscaffold::edges_detail {

HWY_EXPORT(Across);
HWY_EXPORT(Down);
HWY_EXPORT(Bin);
HWY_EXPORT(Suppress);

void filterAcross(const std::int32_t* padded, int width, const Kernels& kernels, std::int32_t* smoothed,
                  std::int32_t* sloped) {
  HWY_DYNAMIC_DISPATCH(Across)(padded, width, kernels, smoothed, sloped);
}

void filterDown(const std::int32_t* const* smoothed, const std::int32_t* const* sloped, int width,
                const Kernels& kernels, float* gx, float* gy, float* magnitude) {
  HWY_DYNAMIC_DISPATCH(Down)(smoothed, sloped, width, kernels, gx, gy, magnitude);
}

void binRow(const float* magnitude, int width, int bins, std::int32_t* bin) {
  HWY_DYNAMIC_DISPATCH(Bin)(magnitude, width, bins, bin);
}

std::size_t suppressRow(const float* above, const float* here, const float* below, const float* gx, const float* gy,
                        int width, float least, std::int32_t* kept, float* shiftX, float* shiftY) {
  return HWY_DYNAMIC_DISPATCH(Suppress)(above, here, below, gx, gy, width, least, kept, shiftX, shiftY);
}

}  // namespace hscaffold::edges_detail
#endif
