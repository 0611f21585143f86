#include "core/image/part.h"

namespace hscaffold {

Box joined(const Box& a, const Box& b) {
  if (a.empty()) return b;
  if (b.empty()) return a;
  return {std::min(a.left, b.left), std::min(a.top, b.top), std::max(a.right, b.right), std::max(a.bottom, b.bottom)};
}

Box cut(const Box& box, Size frame) {
  return {std::max(0, box.left), std::max(0, box.top), std::min(frame.width, box.right),
          std::min(frame.height, box.bottom)};
}

}  // namespace hscaffold
