// Light and shadows of many places in vectors (Highway): compiled for every instruction set, chosen when the program
// runs. Products and sums are rounded one by one, so that all of them come to the same.
#undef HWY_TARGET_INCLUDE
#define HWY_TARGET_INCLUDE "core/stage/lit_simd.cpp"  // NOLINT: Highway includes this file once for each target
#include <hwy/foreach_target.h>
// Must come after foreach_target.h.
#include <hwy/highway.h>

#include <algorithm>

#include "core/stage/lit.h"

HWY_BEFORE_NAMESPACE();
namespace hscaffold::stage::raster_detail::HWY_NAMESPACE {
namespace hn = hwy::HWY_NAMESPACE;

void LightAt(const Triangles& triangles, const LitMesh* meshes, const LitPlace* places, std::size_t count, Lit* out,
             std::uint32_t* which) {
  const hn::CappedTag<float, Lit::count> f;
  const std::size_t lanes = hn::Lanes(f);
  for (std::size_t i = 0; i < count; ++i) {
    const LitPlace& place = places[i];
    const Triangle& t = triangles[place.triangle];
    const auto [u, v, w] = triangles.sharesAt(t, place.x, place.y);
    which[i] = t.mesh;
    const LitMesh& mesh = meshes[t.mesh];
    const auto& face = mesh.faces[t.face];
    const float *a = mesh.points[face[0]].part.data(), *b = mesh.points[face[1]].part.data(),
                *c = mesh.points[face[2]].part.data();
    const auto su = hn::Set(f, u), sv = hn::Set(f, v), sw = hn::Set(f, w);
    for (std::size_t k = 0; k < Lit::count; k += lanes)
      hn::Store(hn::Add(hn::Add(hn::Mul(su, hn::Load(f, a + k)), hn::Mul(sv, hn::Load(f, b + k))),
                        hn::Mul(sw, hn::Load(f, c + k))),
                f, out[i].part.data() + k);
  }
}

using F = hn::ScalableTag<float>;
using I = hn::RebindToSigned<F>;
using VF = hn::Vec<F>;
using VI = hn::Vec<I>;
using MF = hn::Mask<F>;

// Share of a square about a place that the map has something nearer the light in: each sample counts as far as it lies
// within.
HWY_INLINE VF Covered(const ShadowField& field, VF x, VF y, VF over) {
  const F f;
  const I i;
  const auto zero = hn::Zero(f), one = hn::Set(f, 1), soft = hn::Set(f, field.soft);
  const auto left = hn::Sub(x, soft), right = hn::Add(x, soft), top = hn::Sub(y, soft), low = hn::Add(y, soft);
  const auto x0 = hn::Floor(left), y0 = hn::Floor(top);
  const auto within = [&](VF from, VF start, VF end) HWY_ATTR {
    return hn::Max(zero, hn::Sub(hn::Min(hn::Add(from, one), end), hn::Max(from, start)));
  };
  const auto clipped = [&](VF at) HWY_ATTR {
    return hn::ConvertTo(i, hn::Min(hn::Max(at, zero), hn::Set(f, static_cast<float>(field.side - 1))));
  };
  constexpr int most = 2 * softest + 1;
  const int count = static_cast<int>(2 * field.soft) + 2;
  VF share[most];
  VI column[most];
  for (int k = 0; k < count; ++k) {
    const auto at = hn::Add(x0, hn::Set(f, static_cast<float>(k)));
    share[k] = within(at, left, right);
    column[k] = clipped(at);
  }
  auto sum = zero;
  for (int j = 0; j < count; ++j) {
    const auto at = hn::Add(y0, hn::Set(f, static_cast<float>(j)));
    const auto row = hn::Mul(clipped(at), hn::Set(i, static_cast<std::int32_t>(field.stride)));
    auto line = zero;
    for (int k = 0; k < count; ++k) {
      const auto dark = hn::Gt(hn::GatherIndex(f, field.over, hn::Add(row, column[k])), over);
      line = hn::Add(line, hn::IfThenElseZero(dark, share[k]));
    }
    sum = hn::Add(sum, hn::Mul(line, within(at, top, low)));
  }
  // Rounding makes nothing darker than dark.
  return hn::Min(one, hn::Mul(sum, hn::Set(f, 1 / (4 * field.soft * field.soft))));
}

HWY_INLINE VF Shadows(const ShadowField& field, VF across, VF up, VF towards, VF facing, MF there) {
  const F f;
  const I i;
  const auto zero = hn::Zero(f), one = hn::Set(f, 1);
  const auto far = hn::Neg(towards), scale = hn::Div(hn::Set(f, field.focal), far),
             middle = hn::Set(f, 0.5f * static_cast<float>(field.side));
  const auto x = hn::Add(middle, hn::Mul(scale, across)), y = hn::Sub(middle, hn::Mul(scale, up));
  const auto side = hn::Set(f, static_cast<float>(field.side));
  auto maybe =
      hn::And(there, hn::And(hn::And(hn::Ge(x, zero), hn::Ge(y, zero)), hn::And(hn::Lt(x, side), hn::Lt(y, side))));
  const auto x1 = hn::IfThenElseZero(maybe, x), y1 = hn::IfThenElseZero(maybe, y);
  const auto at =
      hn::Add(hn::Mul(hn::ConvertTo(i, y1), hn::Set(i, static_cast<std::int32_t>(field.stride))), hn::ConvertTo(i, x1));
  // And nearer the light by what it slopes within the border.
  const auto faces = hn::Max(hn::Set(f, 0.2f), facing);
  const auto slope = hn::Div(hn::Sqrt(hn::Max(zero, hn::Sub(one, hn::Mul(faces, faces)))), faces);
  const auto off = hn::Add(hn::Set(f, field.off), hn::Mul(hn::Set(f, 1.2f * (field.soft + 1) * field.texel), slope));
  const auto over = hn::Div(one, hn::Sub(far, off));
  // What holds all round settles most places at once.
  maybe = hn::And(maybe, hn::Gt(hn::GatherIndex(f, field.most, at), over));
  if (hn::AllFalse(f, maybe)) return zero;
  const auto dark = hn::And(maybe, hn::Gt(hn::GatherIndex(f, field.least, at), over));
  const auto border = hn::AndNot(dark, maybe);
  const auto plain = hn::IfThenElseZero(dark, one);
  if (hn::AllFalse(f, border)) return plain;
  return hn::IfThenElse(border, Covered(field, x1, y1, over), plain);
}

void ShadowsAt(const ShadowField& field, const Lit* places, std::size_t count, float* out) {
  const F f;
  const I i;
  const std::size_t lanes = hn::Lanes(f);
  const auto step = hn::Mul(hn::Iota(i, 0), hn::Set(i, static_cast<std::int32_t>(Lit::count)));
  for (std::size_t n = 0; n < count; n += lanes) {
    const std::size_t left = std::min(lanes, count - n);
    const auto there = hn::FirstN(f, left);
    // Beyond the last place the first of these is taken again.
    const auto at = hn::IfThenElseZero(hn::FirstN(i, left), step);
    const float* from = places[n].part.data() + Lit::light;
    const auto shadows = Shadows(field, hn::GatherIndex(f, from, at), hn::GatherIndex(f, from + 1, at),
                                 hn::GatherIndex(f, from + 2, at), hn::GatherIndex(f, from + 3, at), there);
    hn::BlendedStore(shadows, there, f, out + n);
  }
}

}  // namespace hscaffold::stage::raster_detail::HWY_NAMESPACE
HWY_AFTER_NAMESPACE();

#if HWY_ONCE
namespace hscaffold::stage::raster_detail {
namespace {
HWY_EXPORT(LightAt);
HWY_EXPORT(ShadowsAt);
}  // namespace

void lightAt(const Triangles& triangles, std::span<const LitMesh> meshes, std::span<const LitPlace> places, Lit* out,
             std::uint32_t* mesh) {
  HWY_DYNAMIC_DISPATCH(LightAt)(triangles, meshes.data(), places.data(), places.size(), out, mesh);
}

void shadowsAt(const ShadowField& field, std::span<const Lit> places, float* out) {
  if (field.side == 0) {
    std::fill_n(out, places.size(), 0.0f);
    return;
  }
  HWY_DYNAMIC_DISPATCH(ShadowsAt)(field, places.data(), places.size(), out);
}
}  // namespace hscaffold::stage::raster_detail
#endif
