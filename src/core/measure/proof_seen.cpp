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

ProofSeen::ProofSeen(View<Rgb8> pixels)
    : pixels_(pixels), size_(pixels.empty() ? Size{} : scaledTo(pixels.size(), longestSeen)) {}

const Image<Rgb>& ProofSeen::linear(StopToken stop) const {
  once(linearOnce_, [&] {
    throwIfStopped(stop);
    if (size_.area() <= pixels_.size().area()) {
      linear_ = toLinear(pixels_);
      if (size_ != pixels_.size()) linear_ = resampled(linear_.view(), size_, Resampling::area, stop);
      return;
    }
    // What lies between two pixels is made as they are encoded: in linear light borders would move into the dark.
    Image<Rgb> encoded(pixels_.size());
    for (int y = 0; y < encoded.height(); ++y)
      std::transform(pixels_.row(y), pixels_.row(y) + encoded.width(), encoded.row(y), [](const Rgb8& c) {
        return Rgb{static_cast<float>(c.r) / 255, static_cast<float>(c.g) / 255, static_cast<float>(c.b) / 255};
      });
    linear_ = resampled(encoded.view(), size_, Resampling::area, stop);
    for (int y = 0; y < linear_.height(); ++y)
      for (Rgb& c : linear_.line(y)) c = {srgbToLinear(c.r), srgbToLinear(c.g), srgbToLinear(c.b)};
  });
  return linear_;
}

const Image<Rgb>& ProofSeen::fromAfar(StopToken stop) const {
  once(fromAfarOnce_,
       [&] { fromAfar_ = resampled(linear(stop).view(), scaledTo(size_, longestFromAfar), Resampling::area, stop); });
  return fromAfar_;
}

const EdgeField& ProofSeen::edges(StopToken stop) const {
  // Softer than maps are made with: brush strokes are no lines.
  constexpr double soft = 1.6;
  once(edgesOnce_, [&] {
    if (size_ == pixels_.size())
      edges_ = edgeField(pixels_, soft, stop, {.histogram = false});
    else
      edges_ = edgeField(toSrgb8(linear(stop)), soft, stop, {.histogram = false});
  });
  return edges_;
}

}  // namespace hscaffold
