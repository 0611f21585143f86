/// Where a reference lies in the frame, and the picture that the frame then shows.
#pragma once

#include <optional>

#include "core/image/image.h"
#include "core/problem.h"

namespace hscaffold {

/// How the part of the frame that the reference leaves uncovered is filled.
enum class Fill { edge, mirror, blur, colour };

/// Starting placements; any change by hand makes it `free`.
enum class Fit { cover, contain, stretch, free };

/// The reference is scaled and flipped about its own centre, turned, and its centre put at (`x`, `y`).
struct Placement {
  Fit fit = Fit::cover;
  double x = 0.5, y = 0.5;        ///< centre, in shares of frame width and height
  double scaleX = 1, scaleY = 1;  ///< frame pixels per reference pixel, > 0 (used as they are when fit is free)
  double turn = 0;                ///< degrees, clockwise
  bool flipAcross = false, flipDown = false;
  Fill fill = Fill::edge;
  Rgb fillColour{1, 1, 1};  ///< linear
  friend bool operator==(const Placement&, const Placement&) = default;
};

/// Brings everything into the ranges that readers accept.
void keepWithinLimits(Placement& placement);

/// Frame from reference coordinates: x' = a x + b y + c, y' = d x + e y + f (pixels, centres at +0.5). Six plain
/// numbers, as files keep them; Eigen reckons with them.
struct Affine {
  double a = 1, b = 0, c = 0, d = 0, e = 1, f = 0;
  friend bool operator==(const Affine&, const Affine&) = default;
  [[nodiscard]] double mapX(double x, double y) const { return a * x + b * y + c; }
  [[nodiscard]] double mapY(double x, double y) const { return d * x + e * y + f; }
  [[nodiscard]] Affine inverted() const;
  /// What `first` and then this does.
  [[nodiscard]] Affine after(const Affine& first) const;
};

/// From frame coordinates now to those of when hand work was done, which remembers how large the frame was and where
/// its reference lay (none for work without a reference: then the frames' corners lie on each other).
Affine thenFromNow(Size frameThen, const std::optional<Affine>& then, Size frameNow, const std::optional<Affine>& now);
bool isIdentity(const Affine& m);

/// `placement` with centre and scales as the fit asks (cover, contain and stretch ignore the stored ones, and
/// respect the turn by its bounding box).
Placement resolved(const Placement& placement, Size reference, Size frame);
Affine frameFromReference(const Placement& placement, Size reference, Size frame);

/// Share of the frame that the reference covers, [0, 1].
double coverage(const Placement& placement, Size reference, Size frame);

/// The reference's own pixels, where the frame shows them just as they are.
std::optional<View<Rgba16>> pixelsSeen(View<Rgba16> reference, const Placement& placement, Size frame);
/// The frame's picture, linear light, [0, 1]. Shrinking goes through Lanczos-3, enlarging through Catmull-Rom.
/// @throws Cancelled, Problem (badInput) for an empty reference.
Image<Rgb> place(View<Rgba16> reference, const Placement& placement, Size frame, StopToken stop = {});

}  // namespace hscaffold
