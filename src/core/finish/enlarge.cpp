#include "core/finish/enlarge.h"

#include <cmath>
#include <numeric>

#include "core/image/colour.h"
#include "core/image/filter.h"
#include "core/image/parallel.h"
#include "core/image/resample.h"
#include "core/image/tensor.h"

namespace hscaffold {
namespace {

/// Which way an edge runs at a place, as long as it is sure.
struct Along {
  float x = 0, y = 0;
};

/// @param scale  by how much the picture was enlarged
Image<Along> edgesOf(const Image<Rgb>& picture, float scale) {
  Image<float> light = luminanceOf(picture.view());
  // As the eye counts light, so that edges in shadow have directions, too.
  parallelRows(light.height(), [&](int first, int end) {
    for (int y = first; y < end; ++y)
      for (float& v : light.line(y)) v = std::sqrt(std::max(0.0f, v));
  });
  const auto tensor = structureTensor(light.view(), 0.75f * scale);
  Image<Along> along(picture.size());
  parallelRows(along.height(), [&](int first, int end) {
    for (int y = first; y < end; ++y)
      for (int x = 0; x < along.width(); ++x) {
        const Rgb t =
            sampleLinear(tensor.view(), (static_cast<float>(x) + 0.5f) / 2, (static_cast<float>(y) + 0.5f) / 2);
        const float difference = t.r - t.b, root = std::sqrt(difference * difference + 4 * t.g * t.g);
        constexpr float faint = 2e-5f;
        const float sure = root / (t.r + t.b + faint), strength = sure * sure;
        // Half of the angle that both components give twice.
        const float twice = root > 0 ? -difference / root : 1, cosine = std::sqrt(std::max(0.0f, 0.5f * (1 + twice))),
                    sine = std::sqrt(std::max(0.0f, 0.5f * (1 - twice)));
        along(x, y) = {cosine * strength, (t.g > 0 ? -sine : sine) * strength};
      }
  });
  return along;
}

Image<Rgb> smoothedAlong(const Image<Rgb>& picture, const Image<Along>& along, float reach) {
  Image<Rgb> out(picture.size());
  parallelRows(out.height(), [&](int first, int end) {
    for (int y = first; y < end; ++y)
      for (int x = 0; x < out.width(); ++x) {
        const Along a = along(x, y);
        const float sure = std::hypot(a.x, a.y);
        const Rgb here = picture(x, y);
        if (sure < 0.1f) {
          out(x, y) = here;
          continue;
        }
        const float dx = a.x / sure * reach, dy = a.y / sure * reach;
        const float px = static_cast<float>(x) + 0.5f, py = static_cast<float>(y) + 0.5f;
        const Rgb both =
            sampleLinear(picture.view(), px + dx, py + dy) + sampleLinear(picture.view(), px - dx, py - dy);
        out(x, y) = here + (both * 0.5f - here) * (0.8f * sure);
      }
  });
  return out;
}

void add(Image<Rgb>& to, const Image<Rgb>& what) {
  parallelRows(to.height(), [&](int first, int end) {
    for (int y = first; y < end; ++y)
      for (int x = 0; x < to.width(); ++x) to(x, y) = to(x, y) + what(x, y);
  });
}

Image<Rgb> lacking(View<Rgb> picture, const Image<Rgb>& enlarged, const StopToken& stop) {
  auto out = resampled(enlarged.view(), picture.size(), Resampling::area, stop);
  parallelRows(out.height(), [&](int first, int end) {
    for (int y = first; y < end; ++y)
      for (int x = 0; x < out.width(); ++x) out(x, y) = picture(x, y) - out(x, y);
  });
  return out;
}

}  // namespace

Image<Rgb> enlargedAlongEdges(View<Rgb> picture, Size size, StopToken stop, int turns) {
  if (size.width < picture.width() || size.height < picture.height())
    throw badInput("A picture is enlarged to a size that is not smaller than its own.");
  auto out = resampled(picture, size, Resampling::lanczos3, stop);
  if (size == picture.size()) return out;
  const float scale = std::sqrt(static_cast<float>(size.width) / static_cast<float>(picture.width()) *
                                static_cast<float>(size.height) / static_cast<float>(picture.height()));
  Image<Along> along;
  for (int turn = 0; turn < turns; ++turn) {
    // Directions hardly change any more from then on.
    if (turn < 2) along = edgesOf(out, scale);
    out = smoothedAlong(out, along, 0.8f * scale);
    throwIfStopped(stop);
    // By linear interpolation: what is lacking is not made to ring.
    add(out, resampled(lacking(picture, out, stop).view(), size, Resampling::area, stop));
    throwIfStopped(stop);
  }
  return out;
}

Image<Rgb> enlargedPart(View<Rgb> picture, Size whole, const Box& part, StopToken stop, int turns) {
  // Corners are chosen where pixels of both sizes meet, at even ones, since directions are told for pairs of pixels.
  // All that the turns look at lies round the part.
  constexpr int round = 24;
  const auto range = [](int source, int target, int from, int to) {
    const int unit = 2 * source / std::gcd(source, target);
    const auto back = [&](int at) { return static_cast<int>(std::int64_t{at} * source / target); };
    const int first = std::max(0, (back(from) - round) / unit * unit);
    const int last = std::min(source, (back(to - 1) + round + unit) / unit * unit);
    return std::pair{first, last};
  };
  const auto [left, right] = range(picture.width(), whole.width, part.left, part.right);
  const auto [top, bottom] = range(picture.height(), whole.height, part.top, part.bottom);
  const auto across = [&](int at) { return static_cast<int>(std::int64_t{at} * whole.width / picture.width()); };
  const auto down = [&](int at) { return static_cast<int>(std::int64_t{at} * whole.height / picture.height()); };
  const Box large{across(left), down(top), across(right), down(bottom)};
  const auto enlarged = enlargedAlongEdges(partOf(picture, {left, top, right, bottom}), large.size(), stop, turns);
  return copied(partOf(enlarged.view(), {part.left - large.left, part.top - large.top, part.right - large.left,
                                         part.bottom - large.top}));
}

}  // namespace hscaffold
