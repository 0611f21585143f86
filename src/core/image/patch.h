/// Patches of pictures: what of a picture is to be done again, closer than a box says it.
#pragma once

#include <span>
#include <vector>

#include "core/image/part.h"
#include "core/image/point.h"

namespace hscaffold {

/// Of each row from `top` on a run of pixels.
struct Patch {
  struct Run {
    int left = 0, right = 0;  ///< right is outside; no pixel where it is not above left
    [[nodiscard]] bool empty() const { return left >= right; }
    friend bool operator==(const Run&, const Run&) = default;
  };
  int top = 0;
  std::vector<Run> rows;

  /// The box that holds its runs.
  [[nodiscard]] Box bounds() const;
  [[nodiscard]] bool empty() const { return bounds().empty(); }
  friend bool operator==(const Patch&, const Patch&) = default;
};

Patch patchOf(const Box& box);
/// All pixels of both, and what lies between their runs.
Patch joined(const Patch& a, const Patch& b);
/// Every pixel of a picture that lies within the convex hull of points, or within `rim` pixels of it.
/// @param points  pixels, centres at +0.5; not above a million
Patch hullOf(std::span<const Point> points, double rim, Size frame);

}  // namespace hscaffold
