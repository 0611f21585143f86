// Rows of samples in vectors (Highway): compiled for every instruction set, chosen when the program runs.
#undef HWY_TARGET_INCLUDE
#define HWY_TARGET_INCLUDE "core/stage/triangles_simd.cpp"  // NOLINT: Highway includes this file once for each target
#include <hwy/foreach_target.h>
// Must come after foreach_target.h.
#include <hwy/highway.h>

#include <algorithm>

#include "core/stage/triangles.h"

HWY_BEFORE_NAMESPACE();
namespace hscaffold::stage::raster_detail::HWY_NAMESPACE {
namespace hn = hwy::HWY_NAMESPACE;

// Rounded up, of what is not negative: the library's own is a call.
HWY_INLINE int UpOf(float v) {
  const int whole = static_cast<int>(v);
  return static_cast<float>(whole) < v ? whole + 1 : whole;
}

HWY_INLINE float Within(float v, int from, int to) {
  return std::min(std::max(v, static_cast<float>(from)), static_cast<float>(to));
}

// A side between two corners, always reckoned from the upper one: two triangles that share it agree on every row.
struct Side {
  float x, y, slope;
  Side(const Triangle::Corner& upper, const Triangle::Corner& lower)
      : x(upper.x), y(upper.y), slope(lower.y > upper.y ? (lower.x - upper.x) / (lower.y - upper.y) : 0) {}
  [[nodiscard]] float At(float row) const { return x + slope * (row - y); }
};

HWY_INLINE void Draw(const Triangle& t, std::uint32_t name, Samples& into) {
  const Triangle::Corner *top = t.at.data(), *middle = top + 1, *low = top + 2;
  if (middle->y < top->y) std::swap(top, middle);
  if (low->y < middle->y) std::swap(middle, low);
  if (middle->y < top->y) std::swap(top, middle);
  if (low->y - 0.5f < static_cast<float>(into.first)) return;
  const int y0 = UpOf(Within(top->y - 0.5f, into.first, into.end)),
            y1 = static_cast<int>(Within(low->y - 0.5f, into.first, into.end - 1));
  if (y0 > y1) return;
  const auto& [p, q, r] = t.at;
  const float area = (q.x - p.x) * (r.y - p.y) - (r.x - p.x) * (q.y - p.y);
  if (area == 0) return;
  // From a corner on, since far away all of it is alike but for the last digits.
  const float more = (q.over - p.over) / area, most = (r.over - p.over) / area;
  const float right = more * (r.y - p.y) - most * (q.y - p.y), down = most * (q.x - p.x) - more * (r.x - p.x);
  const Side whole(*top, *low), upper(*top, *middle), lower(*middle, *low);

  const hn::CappedTag<float, slack> f;
  const hn::RebindToUnsigned<decltype(f)> u;
  const int lanes = static_cast<int>(hn::Lanes(f));
  // Slivers, whose growth is all rounding, come no nearer than their nearest corner.
  const auto nearest = hn::Set(f, std::max({p.over, q.over, r.over}));
  const auto number = hn::Set(u, name);
  const auto grows = hn::Mul(hn::Iota(f, 0), hn::Set(f, right));
  for (int y = y0; y <= y1; ++y) {
    const float row = static_cast<float>(y) + 0.5f;
    const float a = whole.At(row), b = row < middle->y ? upper.At(row) : lower.At(row);
    const Patch::Run& run = into.runs[static_cast<std::size_t>(y - into.first) / samplesAside];
    const int left = run.left * samplesAside, rightmost = run.right * samplesAside - 1;
    const float from = std::max(std::min(a, b) - 0.5f, 0.0f),
                to = std::min(std::max(a, b) - 0.5f, static_cast<float>(rightmost));
    if (!(from <= to)) continue;
    const int begin = UpOf(from), last = static_cast<int>(to);
    // Reckoned from where the row begins, whatever part of it is wanted: so it is the same in every part.
    const int skipped = left > begin ? (left - begin) / lanes * lanes : 0;
    const float over = p.over + down * (row - p.y) + right * (static_cast<float>(begin) + 0.5f - p.x);
    const std::size_t at = static_cast<std::size_t>(y - into.first) * static_cast<std::size_t>(into.width);
    float* overs = into.over.data() + at;
    std::uint32_t* winners = into.winner.data() + at;
    for (int x = begin + skipped; x <= last; x += lanes) {
      const auto here = hn::Min(nearest, hn::Add(hn::Set(f, over + right * static_cast<float>(x - begin)), grows));
      const auto there = hn::LoadU(f, overs + x);
      const auto wins = hn::And(hn::Gt(here, there), hn::FirstN(f, static_cast<std::size_t>(last - x + 1)));
      hn::StoreU(hn::IfThenElse(wins, here, there), f, overs + x);
      hn::StoreU(hn::IfThenElse(hn::RebindMask(u, wins), number, hn::LoadU(u, winners + x)), u, winners + x);
    }
  }
}

void DrawAll(const Triangle* triangles, const std::uint32_t* numbers, std::size_t count, Samples& into) {
  for (std::size_t i = 0; i < count; ++i) Draw(triangles[numbers[i]], numbers[i], into);
}

}  // namespace hscaffold::stage::raster_detail::HWY_NAMESPACE
HWY_AFTER_NAMESPACE();

#if HWY_ONCE
namespace hscaffold::stage::raster_detail {
namespace {
HWY_EXPORT(DrawAll);
}  // namespace

void drawAll(const Triangle* triangles, std::span<const std::uint32_t> numbers, Samples& into) {
  HWY_DYNAMIC_DISPATCH(DrawAll)(triangles, numbers.data(), numbers.size(), into);
}
}  // namespace hscaffold::stage::raster_detail
#endif
