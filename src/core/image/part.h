/// Parts of pictures.
#pragma once

#include "core/image/image.h"

namespace hscaffold {

/// A part of a picture, in pixels; right and bottom are outside.
struct Box {
  int left = 0, top = 0, right = 0, bottom = 0;
  [[nodiscard]] bool empty() const { return left >= right || top >= bottom; }
  [[nodiscard]] int width() const { return right - left; }
  [[nodiscard]] int height() const { return bottom - top; }
  [[nodiscard]] Size size() const { return {width(), height()}; }
  friend bool operator==(const Box&, const Box&) = default;
};
/// The whole of a picture.
inline Box boxOf(Size size) { return {0, 0, size.width, size.height}; }
/// What holds both; an empty one counts for nothing.
Box joined(const Box& a, const Box& b);
/// As far as it lies in a picture of this size.
Box cut(const Box& box, Size frame);
/// With so much more on every side.
inline Box grown(const Box& box, int by) { return {box.left - by, box.top - by, box.right + by, box.bottom + by}; }

/// The part of a picture that a box shows; the box lies within it.
template <typename T>
View<T> partOf(View<T> picture, const Box& box) {
  assert(box.left >= 0 && box.top >= 0 && box.right <= picture.width() && box.bottom <= picture.height());
  return {picture.row(box.top) + box.left, box.width(), box.height(), picture.stride()};
}
/// The same as a picture of its own.
template <typename T>
Image<T> copied(View<T> part) {
  Image<T> out(part.size());
  for (int y = 0; y < part.height(); ++y) std::copy_n(part.row(y), part.width(), out.row(y));
  return out;
}

}  // namespace hscaffold
