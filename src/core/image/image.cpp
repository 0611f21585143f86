#include "core/image/image.h"

#include <sys/mman.h>

#include <cstdlib>
#include <new>

namespace hscaffold {
namespace {

constexpr std::size_t lineOfCache = 64;
constexpr std::size_t hugePage = std::size_t{2} << 20;

std::size_t roundedUp(std::size_t bytes, std::size_t unit) { return (bytes + unit - 1) / unit * unit; }

}  // namespace

void* allocatePixels(std::size_t bytes) {
  // Below two pages most of the last one would be lost.
  const bool huge = bytes >= 2 * hugePage;
  const std::size_t unit = huge ? hugePage : lineOfCache;
  const std::size_t whole = roundedUp(bytes, unit);
  void* pixels = std::aligned_alloc(unit, whole);
  if (pixels == nullptr) throw std::bad_alloc();
#ifdef MADV_HUGEPAGE
  if (huge) madvise(pixels, whole, MADV_HUGEPAGE);  // a wish: where it is refused, everything works as before
#endif
  return pixels;
}

void freePixels(void* pixels) { std::free(pixels); }

}  // namespace hscaffold
