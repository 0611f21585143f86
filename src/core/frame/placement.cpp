#include "core/frame/placement.h"

#include <Eigen/Geometry>
#include <cmath>
#include <numbers>
#include <optional>

#include "core/image/filter.h"
#include "core/image/parallel.h"
#include "core/image/resample.h"
#include "core/limits.h"

namespace hscaffold {
namespace {

double radians(double degrees) { return degrees * std::numbers::pi / 180; }

/// Sine and cosine that are exact at quarter turns.
void exactSineCosine(double degrees, double& sine, double& cosine) {
  const double turned = std::remainder(degrees, 360.0);
  if (std::fmod(turned, 90.0) == 0) {
    const int quarter = (static_cast<int>(turned / 90) + 4) % 4;
    sine = quarter == 1 ? 1 : quarter == 3 ? -1 : 0;
    cosine = quarter == 0 ? 1 : quarter == 2 ? -1 : 0;
    return;
  }
  sine = std::sin(radians(turned));
  cosine = std::cos(radians(turned));
}

Eigen::Affine2d matrixOf(const Affine& m) {
  Eigen::Affine2d out;
  out.matrix() << m.a, m.b, m.c, m.d, m.e, m.f, 0, 0, 1;
  return out;
}

Affine numbersOf(const Eigen::Affine2d& matrix) {
  const auto& m = matrix.matrix();
  return {m(0, 0), m(0, 1), m(0, 2), m(1, 0), m(1, 1), m(1, 2)};
}

/// Cubic through the samples (Catmull and Rom 1974), border pixels go on.
Rgb sampleCubic(View<Rgb> picture, double x, double y) {
  const double fx = x - 0.5, fy = y - 0.5;
  const int x0 = static_cast<int>(std::floor(fx)), y0 = static_cast<int>(std::floor(fy));
  const auto weights = [](float t, float(&w)[4]) {
    w[0] = ((-0.5f * t + 1) * t - 0.5f) * t;
    w[1] = (1.5f * t - 2.5f) * t * t + 1;
    w[2] = ((-1.5f * t + 2) * t + 0.5f) * t;
    w[3] = (0.5f * t - 0.5f) * t * t;
  };
  float wx[4], wy[4];
  weights(static_cast<float>(fx - x0), wx);
  weights(static_cast<float>(fy - y0), wy);
  Rgb sum;
  for (int j = 0; j < 4; ++j) {
    Rgb line;
    for (int i = 0; i < 4; ++i) line = line + picture.clamped(x0 - 1 + i, y0 - 1 + j) * wx[i];
    sum = sum + line * wy[j];
  }
  return {std::clamp(sum.r, 0.0f, 1.0f), std::clamp(sum.g, 0.0f, 1.0f), std::clamp(sum.b, 0.0f, 1.0f)};
}

double mirrored(double value, double length) {
  const double period = 2 * length;
  value = std::fmod(std::fmod(value, period) + period, period);
  return value < length ? value : period - value;
}

}  // namespace

Affine Affine::inverted() const { return numbersOf(matrixOf(*this).inverse()); }

Affine Affine::after(const Affine& first) const { return numbersOf(matrixOf(*this) * matrixOf(first)); }

void keepWithinLimits(Placement& placement) {
  keepWithin(placement.x, limits::centre);
  keepWithin(placement.y, limits::centre);
  keepWithin(placement.scaleX, limits::scale);
  keepWithin(placement.scaleY, limits::scale);
  keepWithin(placement.turn, limits::turn);
  Rgb& colour = placement.fillColour;
  for (float* channel : {&colour.r, &colour.g, &colour.b}) keepWithin(*channel, limits::channel);
}

Affine thenFromNow(Size frameThen, const std::optional<Affine>& then, Size frameNow, const std::optional<Affine>& now) {
  if (then && now) return then->after(now->inverted());
  return {static_cast<double>(frameThen.width) / frameNow.width,   0, 0, 0,
          static_cast<double>(frameThen.height) / frameNow.height, 0};
}

bool isIdentity(const Affine& m) {
  constexpr double little = 1e-7;
  return std::abs(m.a - 1) < little && std::abs(m.b) < little && std::abs(m.c) < 1e-4 && std::abs(m.d) < little &&
         std::abs(m.e - 1) < little && std::abs(m.f) < 1e-4;
}

Placement resolved(const Placement& placement, Size reference, Size frame) {
  Placement out = placement;
  if (placement.fit == Fit::free || reference.area() == 0) return out;
  double sine = 0, cosine = 1;
  exactSineCosine(placement.turn, sine, cosine);
  sine = std::abs(sine);
  cosine = std::abs(cosine);
  const double w = reference.width, h = reference.height, fw = frame.width, fh = frame.height;
  out.x = out.y = 0.5;
  if (placement.fit == Fit::stretch) {
    // Exact for quarter turns; between them the turned box is stretched evenly.
    const bool sideways = sine > cosine;
    out.scaleX = (sideways ? fh : fw) / w;
    out.scaleY = (sideways ? fw : fh) / h;
    return out;
  }
  if (placement.fit == Fit::contain) {
    out.scaleX = out.scaleY = std::min(fw / (w * cosine + h * sine), fh / (w * sine + h * cosine));
  } else {
    // The turned reference covers the frame when the frame, turned back, fits inside it.
    out.scaleX = out.scaleY = std::max((fw * cosine + fh * sine) / w, (fw * sine + fh * cosine) / h);
  }
  return out;
}

Affine frameFromReference(const Placement& placement, Size reference, Size frame) {
  const Placement p = resolved(placement, reference, frame);
  double sine = 0, cosine = 1;
  exactSineCosine(p.turn, sine, cosine);
  const double sx = p.flipAcross ? -p.scaleX : p.scaleX, sy = p.flipDown ? -p.scaleY : p.scaleY;
  Affine m{cosine * sx, -sine * sy, 0, sine * sx, cosine * sy, 0};
  m.c = p.x * frame.width - m.a * reference.width / 2.0 - m.b * reference.height / 2.0;
  m.f = p.y * frame.height - m.d * reference.width / 2.0 - m.e * reference.height / 2.0;
  return m;
}

double coverage(const Placement& placement, Size reference, Size frame) {
  const Affine back = frameFromReference(placement, reference, frame).inverted();
  constexpr int grid = 64;
  int inside = 0;
  for (int j = 0; j < grid; ++j) {
    for (int i = 0; i < grid; ++i) {
      const double x = (i + 0.5) / grid * frame.width, y = (j + 0.5) / grid * frame.height;
      const double u = back.mapX(x, y), v = back.mapY(x, y);
      inside += u >= 0 && v >= 0 && u < reference.width && v < reference.height ? 1 : 0;
    }
  }
  return inside / static_cast<double>(grid * grid);
}

namespace {

/// Where the frame's corner lies in a picture of which it shows pixels just as they are; empty if it does not.
std::optional<std::pair<int, int>> cropOf(const Affine& toPicture, Size picture, Size frame) {
  constexpr double little = 1e-6;
  const double left = std::round(toPicture.c), top = std::round(toPicture.f);
  const bool asItIs = std::abs(toPicture.a - 1) * frame.width < little &&
                      std::abs(toPicture.b) * frame.height < little && std::abs(toPicture.d) * frame.width < little &&
                      std::abs(toPicture.e - 1) * frame.height < little && std::abs(toPicture.c - left) < little &&
                      std::abs(toPicture.f - top) < little;
  if (!asItIs || left < 0 || top < 0 || left + frame.width > picture.width || top + frame.height > picture.height)
    return {};
  return std::pair(static_cast<int>(left), static_cast<int>(top));
}

void clampColours(Image<Rgb>& picture) {
  parallelRows(picture.height(), [&](int first, int end) {
    for (int y = first; y < end; ++y)
      for (Rgb& c : picture.line(y))
        c = {std::clamp(c.r, 0.0f, 1.0f), std::clamp(c.g, 0.0f, 1.0f), std::clamp(c.b, 0.0f, 1.0f)};
  });
}

}  // namespace

std::optional<View<Rgba16>> pixelsSeen(View<Rgba16> reference, const Placement& placement, Size frame) {
  const Affine back = frameFromReference(placement, reference.size(), frame).inverted();
  const auto corner = cropOf(back, reference.size(), frame);
  if (!corner) return {};
  return View<Rgba16>(reference.row(corner->second) + corner->first, frame.width, frame.height, reference.stride());
}

Image<Rgb> place(View<Rgba16> reference, const Placement& placement, Size frame, StopToken stop) {
  if (reference.empty()) throw badInput("The reference has no pixels.");
  // A frame that shows the picture's own pixels needs no sampling: that is how most references lie. Only the part that
  // is seen is looked at.
  if (const auto pixels = pixelsSeen(reference, placement, frame))
    return resampled(*pixels, frame, Resampling::lanczos3, stop);
  const Placement p = resolved(placement, reference.size(), frame);
  // First to the size it has in the frame, so that shrinking is filtered; never enlarged, that is the sampler's job.
  const auto shrunkSide = [](int side, double scale) {
    return scale >= 1 ? side : std::clamp(static_cast<int>(std::lround(side * scale)), 1, side);
  };
  const Size shrunk{shrunkSide(reference.width(), p.scaleX), shrunkSide(reference.height(), p.scaleY)};
  const double toShrunkX = static_cast<double>(shrunk.width) / reference.width();
  const double toShrunkY = static_cast<double>(shrunk.height) / reference.height();
  const Affine back = frameFromReference(p, reference.size(), frame).inverted();
  // The same for one that shows the pixels of what was shrunk.
  if (const auto corner = cropOf({back.a * toShrunkX, back.b * toShrunkX, back.c * toShrunkX, back.d * toShrunkY,
                                  back.e * toShrunkY, back.f * toShrunkY},
                                 shrunk, frame)) {
    auto seen = resampled(reference, shrunk, Resampling::lanczos3, stop);
    clampColours(seen);
    if (shrunk == frame) return seen;
    Image<Rgb> cropped(frame);
    for (int y = 0; y < frame.height; ++y)
      std::copy_n(seen.row(y + corner->second) + corner->first, frame.width, cropped.row(y));
    return cropped;
  }
  const Image<Rgb> picture = resampled(reference, shrunk, Resampling::lanczos3, stop);

  Image<Rgb> blurred;
  if (p.fill == Fill::blur && coverage(p, reference.size(), frame) < 1) {
    // A copy that covers the frame, worked on at an eighth of its size.
    const double cover =
        std::max(static_cast<double>(frame.width) / shrunk.width, static_cast<double>(frame.height) / shrunk.height) /
        8;
    const Size small{std::max(1, static_cast<int>(std::lround(shrunk.width * cover))),
                     std::max(1, static_cast<int>(std::lround(shrunk.height * cover)))};
    blurred = gaussianBlur(resampled(picture.view(), small, Resampling::area, stop),
                           static_cast<float>(std::max(frame.width, frame.height)) / 128);
  }
  const float blurredX = (static_cast<float>(blurred.width()) - static_cast<float>(frame.width) / 8) / 2;
  const float blurredY = (static_cast<float>(blurred.height()) - static_cast<float>(frame.height) / 8) / 2;
  Image<Rgb> out(frame);
  parallelRows(frame.height, [&](int first, int end) {
    for (int y = first; y < end && !stop.stop_requested(); ++y) {
      for (int x = 0; x < frame.width; ++x) {
        const double u = back.mapX(x + 0.5, y + 0.5) * toShrunkX, v = back.mapY(x + 0.5, y + 0.5) * toShrunkY;
        if (u >= 0 && v >= 0 && u < shrunk.width && v < shrunk.height) {
          out(x, y) = sampleCubic(picture, u, v);
          continue;
        }
        switch (p.fill) {
          case Fill::edge:
            out(x, y) = sampleLinear(picture, static_cast<float>(u), static_cast<float>(v));
            break;
          case Fill::mirror:
            out(x, y) = sampleLinear(picture, static_cast<float>(mirrored(u, shrunk.width)),
                                     static_cast<float>(mirrored(v, shrunk.height)));
            break;
          case Fill::blur:
            out(x, y) = sampleLinear(blurred, (static_cast<float>(x) + 0.5f) / 8 + blurredX,
                                     (static_cast<float>(y) + 0.5f) / 8 + blurredY);
            break;
          case Fill::colour:
            out(x, y) = p.fillColour;
            break;
        }
        out(x, y) = {std::clamp(out(x, y).r, 0.0f, 1.0f), std::clamp(out(x, y).g, 0.0f, 1.0f),
                     std::clamp(out(x, y).b, 0.0f, 1.0f)};
      }
    }
  });
  throwIfStopped(stop);
  return out;
}

}  // namespace hscaffold
