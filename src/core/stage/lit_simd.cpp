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

// Whether the map has something nearer the light there; outside of it there is nothing.
HWY_INLINE MF IsDark(const ShadowField& field, VF x, VF y, VF over) {
  const F f;
  const I i;
  const auto zero = hn::Zero(f), side = hn::Set(f, static_cast<float>(field.side));
  const auto inside = hn::And(hn::And(hn::Ge(x, zero), hn::Ge(y, zero)), hn::And(hn::Lt(x, side), hn::Lt(y, side)));
  const auto at = hn::Add(
      hn::Mul(hn::ConvertTo(i, hn::IfThenElseZero(inside, y)), hn::Set(i, static_cast<std::int32_t>(field.stride))),
      hn::ConvertTo(i, hn::IfThenElseZero(inside, x)));
  return hn::And(inside, hn::Gt(hn::GatherIndex(f, field.over, at), over));
}

// Four samples, weighted by where the place lies between them.
HWY_INLINE VF Tapped(const ShadowField& field, VF x, VF y, VF over) {
  const F f;
  const I i;
  const auto zero = hn::Zero(f), one = hn::Set(f, 1), most = hn::Set(f, static_cast<float>(field.side - 2)),
             half = hn::Set(f, 0.5f);
  x = hn::Min(hn::Max(hn::Sub(x, half), zero), most);
  y = hn::Min(hn::Max(hn::Sub(y, half), zero), most);
  const auto x0 = hn::ConvertTo(i, x), y0 = hn::ConvertTo(i, y);
  const auto u = hn::Sub(x, hn::ConvertTo(f, x0)), v = hn::Sub(y, hn::ConvertTo(f, y0));
  const auto at = hn::Add(hn::Mul(y0, hn::Set(i, static_cast<std::int32_t>(field.stride))), x0);
  const auto dark = [&](const float* from)
                        HWY_ATTR { return hn::IfThenElseZero(hn::Gt(hn::GatherIndex(f, from, at), over), one); };
  const auto u1 = hn::Sub(one, u), v1 = hn::Sub(one, v);
  const float *above = field.over, *below = field.over + field.stride;
  return hn::Add(hn::Mul(hn::Add(hn::Mul(dark(above), u1), hn::Mul(dark(above + 1), u)), v1),
                 hn::Mul(hn::Add(hn::Mul(dark(below), u1), hn::Mul(dark(below + 1), u)), v));
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
  const auto share = hn::Set(f, 1.0f / shadowTile);
  const auto tile = hn::Add(hn::Mul(hn::ConvertTo(i, hn::Mul(hn::IfThenElseZero(maybe, y), share)),
                                    hn::Set(i, static_cast<std::int32_t>(field.tileStride))),
                            hn::ConvertTo(i, hn::Mul(hn::IfThenElseZero(maybe, x), share)));
  maybe = hn::And(maybe, hn::Gt(hn::Mul(hn::GatherIndex(f, field.tiles, tile), far), one));
  if (hn::AllFalse(f, maybe)) return zero;
  // And nearer the light by what it slopes within the border.
  const auto faces = hn::Max(hn::Set(f, 0.2f), facing);
  const auto slope = hn::Div(hn::Sqrt(hn::Max(zero, hn::Sub(one, hn::Mul(faces, faces)))), faces);
  const auto off = hn::Add(hn::Set(f, 1.2f * field.texel + 0.004f),
                           hn::Mul(hn::Set(f, 1.2f * (field.soft + 1) * field.texel), slope));
  const auto over = hn::Div(one, hn::Sub(far, off));
  const auto soft = hn::Set(f, field.soft);
  // Far from a border all agree.
  const auto left = hn::Sub(x, soft), right = hn::Add(x, soft), top = hn::Sub(y, soft), low = hn::Add(y, soft);
  const MF five[] = {IsDark(field, left, top, over), IsDark(field, right, top, over), IsDark(field, x, y, over),
                     IsDark(field, left, low, over), IsDark(field, right, low, over)};
  MF all = five[0], any = five[0];
  for (int k = 1; k < 5; ++k) all = hn::And(all, five[k]), any = hn::Or(any, five[k]);
  const auto plain = hn::IfThenElseZero(hn::And(maybe, all), one);
  const auto border = hn::And(maybe, hn::AndNot(all, any));
  if (hn::AllFalse(f, border)) return plain;
  auto sum = zero;
  constexpr int taps = 4;
  for (int j = 0; j < taps; ++j)
    for (int k = 0; k < taps; ++k) {
      const float dx = (2 * static_cast<float>(k) + 1) / taps - 1, dy = (2 * static_cast<float>(j) + 1) / taps - 1;
      sum = hn::Add(
          sum, Tapped(field, hn::Add(x, hn::Set(f, dx * field.soft)), hn::Add(y, hn::Set(f, dy * field.soft)), over));
    }
  return hn::IfThenElse(border, hn::Mul(sum, hn::Set(f, 1.0f / (taps * taps))), plain);
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
