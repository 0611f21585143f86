/// Small rearrangements of whole pictures.
#pragma once

#include "core/image/image.h"
#include "core/image/parallel.h"

namespace hscaffold {

/// Rows become columns.
Image<float> transposed(View<float> picture);

/// The mean of each two by two pixels.
template <typename T>
Image<T> twoByTwo(View<T> picture) {
  Image<T> out(std::max(1, picture.width() / 2), std::max(1, picture.height() / 2));
  parallelRows(out.height(), [&](int first, int end) {
    for (int y = first; y < end; ++y)
      for (int x = 0; x < out.width(); ++x)
        out(x, y) = (picture.clamped(2 * x, 2 * y) + picture.clamped(2 * x + 1, 2 * y) +
                     picture.clamped(2 * x, 2 * y + 1) + picture.clamped(2 * x + 1, 2 * y + 1)) *
                    0.25f;
  });
  return out;
}

}  // namespace hscaffold
