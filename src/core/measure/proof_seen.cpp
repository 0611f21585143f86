#include "core/measure/proof_seen.h"

#include <cmath>

#include "core/image/colour.h"
#include "core/image/parallel.h"
#include "core/image/resample.h"

namespace hscaffold {
namespace {

template <typename Work>
void once(std::once_flag& flag, Work&& work) {
  std::call_once(flag, [&] { isolated(work); });
}

}  // namespace

const Image<Rgb>& ProofSeen::linear(StopToken stop) const {
  once(linearOnce_, [&] {
    throwIfStopped(stop);
    linear_ = toLinear(pixels_);
  });
  return linear_;
}

const Image<Rgb>& ProofSeen::fromAfar(StopToken stop) const {
  const int longer = std::max(pixels_.width(), pixels_.height());
  if (longer <= longestFromAfar) return linear(stop);
  once(fromAfarOnce_, [&] {
    const double scale = static_cast<double>(longestFromAfar) / longer;
    const Size small{std::max(1, static_cast<int>(std::lround(pixels_.width() * scale))),
                     std::max(1, static_cast<int>(std::lround(pixels_.height() * scale)))};
    fromAfar_ = resampled(linear(stop).view(), small, Resampling::area, stop);
  });
  return fromAfar_;
}

const EdgeField& ProofSeen::edges(StopToken stop) const {
  // Softer than maps are made with: brush strokes are no lines.
  once(edgesOnce_, [&] { edges_ = edgeField(pixels_, 1.8, stop, {.histogram = false}); });
  return edges_;
}

}  // namespace hscaffold
